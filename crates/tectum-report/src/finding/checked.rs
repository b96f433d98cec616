//! What is found of several machines: the same once, with whose it is.

use std::collections::{BTreeMap, HashMap, HashSet};

use schemars::JsonSchema;
use serde::Serialize;

use super::{
    asked::Asked,
    judge::Seen,
    judgement::{Finding, Judgement},
    rule::{Severity, rule},
    rules::IDENTITY_DOUBLED,
};
use crate::{
    compare::label,
    declare::{Record, Tells, fact_at},
    expectation::Acceptance,
    report::Report,
};

/// A finding, and the machines that have it.
#[derive(Debug, Clone, PartialEq)]
pub struct Told {
    /// What found it.
    pub by: Asked,
    /// The finding as the first machine has it.
    pub finding: Finding,
    /// The machines by their place in [`Checked::machines`], in its order.
    pub machines: Vec<usize>,
}

impl Told {
    /// Why the owner accepted it for a time that is over, if nothing else accepts it now.
    pub fn ended_acceptance(&self) -> Option<&Acceptance> {
        self.finding.was_accepted.as_ref().filter(|_| self.finding.accepted.is_none())
    }
}

/// What could not be judged of several machines, for one reason.
#[derive(Debug, Clone, PartialEq)]
pub struct Unjudged {
    /// Who could not.
    pub by: Asked,
    /// The reason's code.
    pub reason: String,
    /// The reason in words.
    pub says: String,
    /// The first value that was missing.
    pub at: String,
    /// How many values are missing, over all machines.
    pub values: usize,
    /// The machines by their place in [`Checked::machines`], in its order.
    pub machines: Vec<usize>,
}

/// A machine that was checked.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct About {
    /// What it is called.
    pub name: String,
    /// When it was looked at.
    pub taken_at: String,
}

/// A part that should be found once among all machines.
struct Known {
    machine: usize,
    label: String,
}

/// What was found of all machines.
#[derive(Default)]
pub struct Checked {
    /// The machines.
    pub machines: Vec<About>,
    told: Vec<Told>,
    at: HashMap<(String, String, String), usize>,
    unjudged: BTreeMap<(String, String), Unjudged>,
    asked: Vec<Asked>,
    asked_by_name: HashSet<String>,
    identities: HashMap<String, Known>,
    owners: Vec<[Option<String>; 2]>,
    doubled: bool,
}

impl Checked {
    /// Nothing yet. `doubled` says whether parts that stand twice are looked for.
    pub fn new(doubled: bool) -> Self {
        Self { doubled, ..Self::default() }
    }

    /// Adds what was found of a machine.
    pub fn add(&mut self, name: &str, report: &Report, mut judgement: Judgement) {
        let machine = self.machines.len();
        self.machines.push(About { name: name.to_owned(), taken_at: report.taken.at.to_string() });
        if self.doubled {
            self.doubles(machine, report, &mut judgement);
        }
        for asked in judgement.asked {
            if self.asked_by_name.insert(asked.id().to_owned()) {
                self.asked.push(asked);
            }
        }
        for finding in judgement.findings {
            let accepted = finding.accepted.as_ref().map(|it| &it.reason);
            let key = (
                finding.by.id().to_owned(),
                finding.label.clone(),
                format!("{}\n{}", finding.says, accepted.map_or("", |reason| reason)),
            );
            let told = *self.at.entry(key).or_insert_with(|| {
                let by = finding.by.clone();
                self.told.push(Told { by, finding, machines: Vec::new() });
                self.told.len() - 1
            });
            if let Some(told) = self.told.get_mut(told)
                && told.machines.last() != Some(&machine)
            {
                told.machines.push(machine);
            }
        }
        for one in judgement.not_judged {
            let key = (one.by.id().to_owned(), one.reason.words());
            let own = self.unjudged.entry(key).or_insert_with(|| Unjudged {
                by: one.by.clone(),
                reason: one.reason.code(),
                says: one.reason.words(),
                at: one.at,
                values: 0,
                machines: Vec::new(),
            });
            own.values += one.values;
            if own.machines.last() != Some(&machine) {
                own.machines.push(machine);
            }
        }
    }

    /// Looks for parts that stand twice: their serial numbers tell nothing apart.
    fn doubles(&mut self, machine: usize, report: &Report, judgement: &mut Judgement) {
        let Some(rule) = rule(IDENTITY_DOUBLED) else { return };
        judgement.asked.push(Asked::Rule(rule));
        let text = |fact: Option<String>| fact.filter(|text| !text.is_empty());
        let owner = [
            text(report.machine.machine_id.value().map(ToString::to_string)),
            text(report.machine.hostname.value().map(|name| name.0.clone())),
        ];
        let same_machine = |other: usize, owners: &[[Option<String>; 2]]| {
            let other = owners.get(other);
            other == Some(&owner) && owner.iter().all(Option::is_some)
        };
        for (at, part) in parts(report) {
            let Some(key) = unique(part) else { continue };
            match self.identities.get(&key) {
                // The same machine, looked at twice.
                Some(known)
                    if known.machine != machine && same_machine(known.machine, &self.owners) => {}
                Some(known) => {
                    let whose = self.machines.get(known.machine).map_or("", |about| &about.name);
                    let says = match known.machine == machine {
                        true => format!("{} has the same serial number", known.label),
                        false => format!("{} of {whose} has the same serial number", known.label),
                    };
                    let seen = part.shape().identity.iter().flat_map(|it| it.fields);
                    let seen = seen.filter_map(|field| {
                        let name = part.shape().field_name(*field);
                        let fact = fact_at(part, *field)?;
                        fact.json()?;
                        Some(Seen::of(fact, format!("{at}/{name}")))
                    });
                    judgement.findings.push(Finding {
                        by: Asked::Rule(rule),
                        severity: rule.severity,
                        part: at.clone(),
                        label: label(part),
                        says,
                        seen: seen.collect(),
                        accepted: None,
                        was_accepted: None,
                    });
                }
                None => {
                    self.identities.insert(key, Known { machine, label: label(part) });
                }
            }
        }
        self.owners.push(owner);
    }

    /// What was found: what is accepted last, the gravest first, then by name.
    pub fn told(&self) -> Vec<&Told> {
        let mut all: Vec<&Told> = self.told.iter().collect();
        let order: HashMap<&str, usize> =
            self.asked.iter().enumerate().map(|(at, asked)| (asked.id(), at)).collect();
        all.sort_by_key(|told| {
            (
                told.finding.accepted.is_some(),
                std::cmp::Reverse(told.finding.severity.rank()),
                order.get(told.by.id()).copied(),
            )
        });
        all
    }

    /// What could not be judged.
    pub fn unjudged(&self) -> impl Iterator<Item = &Unjudged> {
        self.unjudged.values()
    }

    /// Who was asked.
    pub fn asked(&self) -> &[Asked] {
        &self.asked
    }

    /// How many findings of a severity nobody accepted.
    pub fn count(&self, severity: Severity) -> usize {
        let open = self.told.iter().filter(|told| told.finding.accepted.is_none());
        open.filter(|told| told.finding.severity == severity).count()
    }

    /// How many findings are accepted.
    pub fn accepted(&self) -> usize {
        self.told.iter().filter(|told| told.finding.accepted.is_some()).count()
    }

    /// How many of those asked found nothing, and could judge all that they read.
    pub fn fine(&self) -> usize {
        let odd = |asked: &&Asked| {
            self.told.iter().any(|told| told.by == **asked)
                || self.unjudged.values().any(|one| one.by == **asked)
        };
        self.asked.iter().filter(|asked| !odd(asked)).count()
    }

    /// The names of a finding's machines.
    pub fn names<'a>(&'a self, told: &'a Told) -> impl Iterator<Item = &'a str> {
        told.machines.iter().filter_map(|at| self.machines.get(*at)).map(|about| &*about.name)
    }
}

/// The parts whose serial numbers should be found once, each with its pointer.
fn parts(report: &Report) -> Vec<(String, &dyn Record)> {
    let mut all: Vec<(String, &dyn Record)> = Vec::new();
    let inventory = &report.inventory;
    if let Some(platform) = &inventory.platform {
        all.push(("/inventory/platform/system".to_owned(), &platform.system));
    }
    let modules = inventory.memory.iter().flat_map(|memory| memory.modules.iter().enumerate());
    all.extend(modules.map(|(at, one)| (format!("/inventory/memory/modules/{at}"), one as _)));
    let disks = inventory.storage.iter().flat_map(|storage| storage.disks.iter().enumerate());
    // Several ways to one disk are that disk.
    let disks = disks.filter(|(_, disk)| !disk.multipath_of.is_known());
    all.extend(disks.map(|(at, one)| (format!("/inventory/storage/disks/{at}"), one as _)));
    all
}

/// What makes a part itself, as a text; nothing where it is not whole.
fn unique(part: &dyn Record) -> Option<String> {
    let shape = part.shape();
    let mut which = shape.identity.iter().filter(|identity| identity.tells == Tells::Which);
    which.find_map(|identity| {
        let texts: Option<Vec<String>> =
            identity.fields.iter().map(|field| fact_at(part, *field)?.text()).collect();
        Some(format!("{}\n{:?}\n{}", shape.noun, identity.fields, texts?.join("\n")))
    })
}
