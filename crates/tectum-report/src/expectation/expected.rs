//! An expectation, and what a report says of it.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use serde_json::Value;

use super::hosts::Hosts;
use crate::{
    compare::{label, shown},
    fact::{Gap, Why},
    finding::{Asked, Finding, NotJudged, Reason, Seen, Severity},
    leaf::LeafShape,
    query::{Hit, HitValue, Path, Test, find_all, spoken},
    report::Report,
};

/// Something that should be so.
#[derive(Debug)]
pub struct Expectation {
    /// Its name.
    pub name: String,
    /// How much it matters where it is not so.
    pub severity: Severity,
    /// What to say where it is not so.
    pub message: Option<String>,
    /// What to do then.
    pub action: Option<String>,
    /// The values that it is about.
    pub select: Path,
    pub(super) checks: Vec<Check>,
    pub(super) hosts: Hosts,
}

/// One thing that must hold.
#[derive(Debug, Clone)]
pub(super) enum Check {
    /// Every value passes one of these, in words.
    OneOf(Vec<Test>, String),
    /// No value passes any of these, in words.
    NoneOf(Vec<Test>, String),
    /// So many values or parts are there.
    Count { least: u64, most: Option<u64> },
    /// No value stands twice.
    Unique,
    /// There is a value, and none is missing.
    Present,
    /// There is none.
    Absent,
    /// The values are those that another path names.
    SameAs(Path),
}

/// A value that is not as it should be, and what is wrong with it.
pub(super) struct Wrong<'a> {
    pub(super) at: String,
    pub(super) hit: Option<Hit<'a>>,
    pub(super) says: String,
}

/// What a report says of some checks.
#[derive(Default)]
pub(super) struct Judged<'a> {
    /// How many values there are.
    pub(super) hits: usize,
    pub(super) wrong: Vec<Wrong<'a>>,
    pub(super) not_known: Vec<(String, Reason)>,
}

/// A value that an expectation is about.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Selected {
    /// Its path.
    pub path: String,
    /// The value, or why it is missing.
    pub value: String,
}

/// A value of a report.
struct Known<'a> {
    hit: Hit<'a>,
    value: Value,
    leaf: LeafShape,
    text: String,
}

impl<'a> Judged<'a> {
    /// Holds what a path names against some checks.
    pub(super) fn of(path: &Path, checks: &[Check], report: &'a Report) -> Self {
        let mut judged = Self::default();
        let (known, missing) = judged.values(path, report);
        judged.hits = known.len();
        let hidden =
            !judged.not_known.is_empty() || missing.iter().any(|(_, gap)| gap.why.hides_a_value());
        for check in checks {
            judged.check(check, path, &known, &missing, hidden, report);
        }
        // What was hidden is told where it was needed: what is there may be wrong all the same.
        judged
    }

    /// What a path names of a report: the values, and those that are missing because there are none.
    fn values(
        &mut self,
        path: &Path,
        report: &'a Report,
    ) -> (Vec<Known<'a>>, Vec<(String, &'a Gap)>) {
        let mut known = Vec::new();
        let mut missing = Vec::new();
        let mut lists = Vec::new();
        let found = find_all(report, path);
        let not_judged = found.not_judged.into_iter();
        self.not_known.extend(not_judged.map(|(at, gap)| (at, Reason::of(gap))));
        let hidden = found.hidden.into_iter().filter(|(_, gap)| gap.why != Why::NotApplicable);
        lists.extend(hidden.map(|(at, gap)| (at, Reason::of(gap))));
        for hit in found.hits {
            match hit.value {
                HitValue::Fact(fact) => match (fact.json(), fact.missing()) {
                    // A sum to which something could not be added is not what is asked for.
                    (Some(_), _) if fact.hidden_part().is_some() => {
                        let gap = fact.hidden_part().into_iter();
                        self.not_known.extend(gap.map(|gap| (hit.at.clone(), Reason::of(gap))));
                    }
                    (Some(value), _) => {
                        let text = shown(fact).unwrap_or_default();
                        known.push(Known { value, leaf: fact.leaf_shape(), text, hit });
                    }
                    (None, Some(gap)) => missing.push((hit.at, gap)),
                    (None, None) => {}
                },
                HitValue::MissingList(gap) if gap.why != Why::NotApplicable => {
                    lists.push((hit.at, Reason::of(gap)));
                }
                HitValue::MissingList(_) | HitValue::EmptyList(_) => {}
            }
        }
        // Lists within parts that are there hide none of those parts.
        if path.ends_at_a_value() || (known.is_empty() && missing.is_empty()) {
            self.not_known.append(&mut lists);
        }
        if path.not_surveyed(report).is_some() {
            self.not_known.push((pointer_of(path), Reason::NotSurveyed));
        }
        (known, missing)
    }

    fn check(
        &mut self,
        check: &Check,
        path: &Path,
        known: &[Known<'a>],
        missing: &[(String, &'a Gap)],
        hidden: bool,
        report: &'a Report,
    ) {
        let gaps = |judged: &mut Self| {
            let all = missing.iter().filter(|(_, gap)| gap.why != Why::NotApplicable);
            judged.not_known.extend(all.map(|(at, gap)| (at.clone(), Reason::of(gap))));
        };
        match check {
            Check::OneOf(tests, words) | Check::NoneOf(tests, words) => {
                let wanted = matches!(check, Check::OneOf(..));
                for one in known {
                    if tests.iter().any(|test| test.holds(&one.value, one.leaf)) != wanted {
                        // What reads the same and is not is told to the last digit.
                        let exactly = if words.contains(&one.text) {
                            format!(" (exactly {})", one.value)
                        } else {
                            String::new()
                        };
                        self.wrong(one, format!("is {}{exactly}, should be {words}", one.text));
                    }
                }
                gaps(self);
            }
            Check::Count { least, most } => {
                let count = count(path, known, missing) as u64;
                let too_many = most.is_some_and(|most| count > most);
                // More may be there than was seen.
                if count < *least && hidden {
                    gaps(self);
                } else if too_many || count < *least {
                    let should = match most {
                        Some(most) if most == least => format!("{least}"),
                        Some(most) => format!("{least} to {most}"),
                        None => format!("at least {least}"),
                    };
                    self.wrong.push(Wrong {
                        at: pointer_of(path),
                        hit: None,
                        says: format!("there are {count}, should be {should}"),
                    });
                }
            }
            Check::Unique => {
                let mut seen: BTreeMap<String, &Known<'_>> = BTreeMap::new();
                for one in known {
                    if let Some(first) = seen.get(&one.value.to_string()) {
                        let says = format!("is {}, as is {}", one.text, spoken(&first.hit.at));
                        self.wrong(one, says);
                    } else {
                        seen.insert(one.value.to_string(), one);
                    }
                }
                gaps(self);
            }
            Check::Present => {
                for (at, gap) in missing {
                    if gap.why.hides_a_value() {
                        self.not_known.push((at.clone(), Reason::of(gap)));
                    } else {
                        let says = format!("is missing ({}), should be there", gap.why);
                        self.wrong.push(Wrong { at: at.clone(), hit: None, says });
                    }
                }
                if known.is_empty() && missing.is_empty() && !hidden {
                    let says = "is not there, should be".to_owned();
                    self.wrong.push(Wrong { at: pointer_of(path), hit: None, says });
                }
            }
            Check::Absent => {
                for one in known {
                    self.wrong(one, format!("is {}, should not be there", one.text));
                }
                let hiding = missing.iter().filter(|(_, gap)| gap.why.hides_a_value());
                self.not_known.extend(hiding.map(|(at, gap)| (at.clone(), Reason::of(gap))));
            }
            Check::SameAs(other) => {
                let (others, missing_there) = self.values(other, report);
                let there: BTreeSet<String> =
                    others.iter().map(|it| it.value.to_string()).collect();
                let words: BTreeSet<&str> = others.iter().map(|it| it.text.as_str()).collect();
                let words = words.into_iter().collect::<Vec<_>>().join(" or ");
                if there.is_empty() {
                    let all = missing_there.iter();
                    self.not_known.extend(all.map(|(at, gap)| (at.clone(), Reason::of(gap))));
                    return;
                }
                for one in known {
                    if !there.contains(&one.value.to_string()) {
                        let says = format!("is {}, and {other} is {words}", one.text);
                        self.wrong(one, says);
                    }
                }
                gaps(self);
            }
        }
    }

    fn wrong(&mut self, one: &Known<'a>, says: String) {
        let Hit { at, record, field, value } = &one.hit;
        let hit = Hit { at: at.clone(), record: *record, field, value: *value };
        self.wrong.push(Wrong { at: at.clone(), hit: Some(hit), says });
    }
}

/// How many values a path names, or, where it ends above values, how many parts.
fn count(path: &Path, known: &[Known<'_>], missing: &[(String, &Gap)]) -> usize {
    match path.ends_at_a_value() {
        true => known.len(),
        false => {
            let known = known.iter().map(|it| it.hit.at.as_str());
            parts(known.chain(missing.iter().map(|it| &*it.0))).len()
        }
    }
}

/// The parts that values belong to, by their pointers. A part may hold others: the parts that are meant are
/// those with the fewest lists above them.
fn parts<'p>(values: impl Iterator<Item = &'p str> + Clone) -> BTreeSet<&'p str> {
    fn numbers(at: &str) -> impl Iterator<Item = usize> + '_ {
        let mut end = 0;
        at.split('/').filter_map(move |name| {
            end += name.len() + 1;
            let digits = !name.is_empty() && name.bytes().all(|byte| byte.is_ascii_digit());
            digits.then_some(end - 1)
        })
    }
    let Some(depth) = values.clone().map(|at| numbers(at).count()).min() else {
        return BTreeSet::new();
    };
    let ends = values.map(|at| match depth.checked_sub(1).and_then(|last| numbers(at).nth(last)) {
        Some(end) => at.get(..end).unwrap_or(at),
        None => "",
    });
    ends.collect()
}

/// A path as a pointer, where nothing of it is there.
fn pointer_of(path: &Path) -> String {
    let text = path.to_string();
    if text.starts_with('/') { text } else { format!("/{}", text.replace('.', "/")) }
}

impl Expectation {
    /// Judges a report by it, if the report is of a machine that is meant.
    pub(crate) fn judge(
        self: &Arc<Self>,
        report: &Report,
    ) -> Option<(Vec<Finding>, Vec<NotJudged>)> {
        if !self.hosts.are_meant(report, true) {
            return None;
        }
        let judged = Judged::of(&self.select, &self.checks, report);
        let by = || Asked::Expectation(Arc::clone(self));
        let findings = judged.wrong.into_iter().map(|wrong| {
            let (part, label) = match &wrong.hit {
                Some(hit) => {
                    let part = hit.at.rsplit_once('/').map_or("", |(part, _)| part);
                    (part.to_owned(), label(hit.record))
                }
                None => (wrong.at.clone(), spoken(&wrong.at)),
            };
            let field = wrong.hit.as_ref().map(|hit| format!("{} ", words(hit.field.name)));
            let seen = wrong.hit.and_then(|hit| match hit.value {
                HitValue::Fact(fact) => Some(Seen::of(fact, hit.at)),
                _ => None,
            });
            Finding {
                by: by(),
                severity: self.severity,
                part,
                label,
                says: format!("{}{}", field.unwrap_or_default(), wrong.says),
                seen: seen.into_iter().collect(),
                accepted: None,
                was_accepted: None,
            }
        });
        let findings = findings.collect();
        let mut not_judged: Vec<NotJudged> = Vec::new();
        for (at, reason) in judged.not_known {
            match not_judged.iter_mut().find(|one| one.reason == reason) {
                Some(one) => one.values += 1,
                None => not_judged.push(NotJudged { by: by(), at, reason, values: 1 }),
            }
        }
        Some((findings, not_judged))
    }

    /// What it is about on this machine; nothing where the machine is not meant.
    pub fn selects(&self, report: &Report) -> Option<Vec<Selected>> {
        if !self.hosts.are_meant(report, true) {
            return None;
        }
        Some(Self::values_of(&self.select, report))
    }

    /// What a path names of a machine, with the reason of what is missing.
    pub fn values_of(path: &Path, report: &Report) -> Vec<Selected> {
        let hits = find_all(report, path).hits;
        if !path.ends_at_a_value() {
            let all = parts(hits.iter().map(|hit| hit.at.as_str()));
            let label = |part: &str| {
                let of = |hit: &&Hit<'_>| hit.at.rsplit_once('/').map(|(own, _)| own) == Some(part);
                hits.iter().find(of).map_or_else(String::new, |hit| label(hit.record))
            };
            let parts = all.into_iter().map(|part| (part, label(part)));
            return parts.map(|(at, value)| Selected { path: spoken(at), value }).collect();
        }
        let all = hits.into_iter().map(|hit| {
            let value = match hit.value {
                HitValue::Fact(fact) => shown(fact).unwrap_or_else(|| {
                    fact.missing().map(|it| it.why.to_string()).unwrap_or_default()
                }),
                HitValue::MissingList(gap) => gap.why.to_string(),
                HitValue::EmptyList(_) => "none".to_owned(),
            };
            Selected { path: spoken(&hit.at), value }
        });
        all.collect()
    }

    /// What it expects, in words.
    pub fn words(&self) -> String {
        let all: Vec<String> = self.checks.iter().map(Check::words).collect();
        format!("{} should {}", self.select, all.join(", and "))
    }
}

/// A field's name as words, its unit left out.
fn words(name: &str) -> String {
    name.trim_end_matches("_bytes").replace('_', " ")
}

impl Check {
    fn words(&self) -> String {
        match self {
            Self::OneOf(_, words) | Self::NoneOf(_, words) => format!("be {words}"),
            Self::Count { least, most: Some(most) } if least == most => format!("be {least}"),
            Self::Count { least, most: Some(most) } => format!("be {least} to {most} in number"),
            Self::Count { least, most: None } => format!("be {least} or more in number"),
            Self::Unique => "all be different".to_owned(),
            Self::Present => "be there".to_owned(),
            Self::Absent => "not be there".to_owned(),
            Self::SameAs(path) => format!("be the same as {path}"),
        }
    }
}

/// How many parts a path names of a report; nothing where that is not known.
pub(super) fn count_of(path: &Path, report: &Report) -> Option<usize> {
    let mut judged = Judged::default();
    let (known, missing) = judged.values(path, report);
    judged.not_known.is_empty().then(|| count(path, &known, &missing))
}
