//! Machines that should be alike: what they have in common, and which of them is the odd one.
//!
//! Every value that says of which sort a machine is, or how it is set up, is held against the others'; what
//! makes a part itself, what its owner called it and what follows from elsewhere is not. Of a value that more
//! than half of those who tell it share, the others are odd; the larger the share, the odder. Values in which
//! the very same machines are odd stand together, so that a machine of another model drowns nothing. Of a
//! value that no such part shares, it is only said who has which.

use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    hash::Hash,
};

use serde::Serialize;
use tectum_report::{
    Report,
    leaf::Whose,
    query::{Named, Path, Standing, StandingList, standing},
};

use crate::{exact::Exact, fleet::values_at};

/// Machines held against each other, as they are given one by one.
#[derive(Debug, Default)]
pub struct Holding {
    machines: Vec<String>,
    groups: BTreeMap<Vec<Exact>, Group>,
    /// Paths and values, each once.
    paths: Numbered<String>,
    values: Numbered<Exact>,
}

/// Things by their numbers, which are smaller.
#[derive(Debug)]
struct Numbered<T>(HashMap<T, u32>);

impl<T> Default for Numbered<T> {
    fn default() -> Self {
        Self(HashMap::new())
    }
}

impl<T: Hash + Eq> Numbered<T> {
    fn number(&mut self, one: T) -> u32 {
        let next = u32::try_from(self.0.len()).unwrap_or(u32::MAX);
        *self.0.entry(one).or_insert(next)
    }

    /// All of them, in the order of their numbers.
    fn all(&self) -> Vec<&T> {
        let mut all: Vec<(&T, u32)> = self.0.iter().map(|(one, number)| (one, *number)).collect();
        all.sort_unstable_by_key(|(_, number)| *number);
        all.into_iter().map(|(one, _)| one).collect()
    }
}

/// The machines that should be alike.
#[derive(Debug, Default)]
struct Group {
    members: Vec<u32>,
    /// By path, who has which value.
    values: HashMap<u32, HashMap<u32, Vec<u32>>>,
    /// By list, who knows what is in it.
    lists: HashMap<u32, Vec<u32>>,
    /// By element, who has it, and in which list it is.
    elements: HashMap<u32, (u32, Vec<u32>)>,
}

/// Machines that should be alike, held against each other.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Alike {
    /// What they have in common that others do not: the values by which they were told apart; none where these are not
    /// known.
    pub group: Vec<Exact>,
    /// The machines.
    pub machines: Vec<String>,
    /// How many values all of them share that tell them.
    pub in_common: usize,
    /// The odd ones, the oddest first.
    pub odd: Vec<Odd>,
    /// Values that no more than half share.
    pub mixed: Vec<Mixed>,
}

/// Machines that are odd together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Odd {
    /// The machines.
    pub machines: Vec<String>,
    /// In what.
    pub values: Vec<OddValue>,
}

/// A value in which some are odd.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OddValue {
    /// The path, by names that stand.
    pub path: String,
    /// What most have.
    pub common: Exact,
    /// How many have it.
    pub share: usize,
    /// How many tell theirs.
    pub of: usize,
    /// What the odd ones have, each value with its machines.
    pub odd: Vec<(Exact, Vec<String>)>,
}

/// A value that no more than half share.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Mixed {
    /// The path.
    pub path: String,
    /// Each value with its machines, the most common first.
    pub values: Vec<(Exact, Vec<String>)>,
}

/// What an element that is there is said to be.
const THERE: &str = "there";
/// What an element that is missing is said to be.
const NOT_THERE: &str = "not there";

/// What of a machine is held against others.
#[derive(Debug)]
pub struct Held {
    /// The values by which it is grouped with others.
    by: Vec<Exact>,
    lists: Vec<StandingList>,
    /// Values by their paths.
    values: Vec<(String, Exact)>,
}

impl Held {
    /// What of a report is held against others; `alike` says by which value it is grouped with them.
    pub fn of(report: &Report, alike: &Path) -> Self {
        let mut lists = Vec::new();
        let mut values = Vec::new();
        standing(
            report,
            "inventory",
            Named::ByName,
            &|_| true,
            &mut |list: StandingList| lists.push(list),
            &mut |one: Standing<'_>| {
                if tells_of_a_sort(&one)
                    && let Some(value) = Exact::of(one.fact)
                {
                    values.push((one.path, value));
                }
            },
        );
        Self { by: values_at(report, alike), lists, values }
    }
}

impl Holding {
    /// Takes in a machine.
    pub fn add(&mut self, name: &str, held: Held) {
        let number = u32::try_from(self.machines.len()).unwrap_or(u32::MAX);
        self.machines.push(name.to_owned());
        let (path_of, value_of) = (&mut self.paths, &mut self.values);
        let Held { by, lists, values } = held;
        let group = self.groups.entry(by).or_default();
        group.members.push(number);
        for StandingList { path, elements } in lists {
            let Some(elements) = elements else { continue };
            let list = path_of.number(path.clone());
            group.lists.entry(list).or_default().push(number);
            for element in elements {
                let element = path_of.number(format!("{path}.{element}"));
                group.elements.entry(element).or_insert_with(|| (list, Vec::new())).1.push(number);
            }
        }
        for (path, value) in values {
            let (path, value) = (path_of.number(path), value_of.number(value));
            group.values.entry(path).or_default().entry(value).or_default().push(number);
        }
    }

    /// The groups, the largest first.
    pub fn end(self) -> Vec<Alike> {
        let told = Telling {
            machines: &self.machines,
            paths: &self.paths.all(),
            values: &self.values.all(),
            there: &Exact::word(THERE),
            not_there: &Exact::word(NOT_THERE),
        };
        let mut groups: Vec<Alike> =
            self.groups.iter().map(|(by, group)| told.group(by, group)).collect();
        groups.sort_by_key(|group| std::cmp::Reverse(group.machines.len()));
        groups
    }
}

/// Whether a value may be the same on machines that are alike: not what makes a part itself, not an owner's
/// words, no name of this boot, nothing that follows from elsewhere.
fn tells_of_a_sort(one: &Standing<'_>) -> bool {
    let shape = one.record.shape();
    let field = one.index;
    let which = shape.identity.iter().any(|identity| {
        identity.tells == tectum_report::declare::Tells::Which && identity.fields.contains(&field)
    });
    let place = [shape.place, shape.names, shape.incidental, shape.derived, shape.called]
        .iter()
        .any(|own| own.contains(&field));
    let owners = matches!(one.fact.leaf_shape().whose, Whose::Owners(_));
    // A model is part of what makes a disk itself, and says its sort all the same.
    let makers = one.fact.leaf_shape().whose == Whose::Makers;
    !owners && !place && (!which || makers) && shape.reference(field).is_none()
}

struct Telling<'a> {
    machines: &'a [String],
    paths: &'a [&'a String],
    values: &'a [&'a Exact],
    there: &'a Exact,
    not_there: &'a Exact,
}

impl Telling<'_> {
    fn path(&self, number: u32) -> &str {
        self.paths.get(number as usize).map_or("", |path| path.as_str())
    }

    fn value(&self, number: u32) -> Option<&Exact> {
        self.values.get(number as usize).copied()
    }

    fn machines(&self, numbers: &[u32]) -> Vec<String> {
        let machine = |number: &u32| self.machines.get(*number as usize);
        let mut names: Vec<String> = numbers.iter().filter_map(machine).cloned().collect();
        names.sort();
        names
    }

    fn group(&self, by: &[Exact], group: &Group) -> Alike {
        let mut in_common = 0;
        let mut odd: BTreeMap<BTreeSet<u32>, Vec<OddValue>> = BTreeMap::new();
        let mut mixed = Vec::new();
        let values = group.values.iter().map(|(path, values)| {
            let values = values.iter();
            let values = values.filter_map(|(value, who)| Some((self.value(*value)?, who.clone())));
            (self.path(*path), values.collect::<Vec<_>>())
        });
        let elements = group.elements.iter().map(|(element, (list, have))| {
            let has: BTreeSet<u32> = have.iter().copied().collect();
            let known = group.lists.get(list).into_iter().flatten().copied();
            let lack: Vec<u32> = known.filter(|number| !has.contains(number)).collect();
            (self.path(*element), vec![(self.there, have.clone()), (self.not_there, lack)])
        });
        for (path, values) in values.chain(elements) {
            let mut values: Vec<(&Exact, Vec<u32>)> =
                values.into_iter().filter(|(_, who)| !who.is_empty()).collect();
            values.sort_by(|a, b| (b.1.len(), a.0).cmp(&(a.1.len(), b.0)));
            let of: usize = values.iter().map(|(_, who)| who.len()).sum();
            let Some(((common, who), others)) = values.split_first() else { continue };
            if others.is_empty() {
                in_common += usize::from(of == group.members.len());
            } else if who.len() * 2 > of {
                let odd_ones: BTreeSet<u32> =
                    others.iter().flat_map(|(_, who)| who.iter().copied()).collect();
                odd.entry(odd_ones).or_default().push(OddValue {
                    path: path.to_owned(),
                    common: (*common).clone(),
                    share: who.len(),
                    of,
                    odd: others
                        .iter()
                        .map(|(value, who)| ((*value).clone(), self.machines(who)))
                        .collect(),
                });
            } else {
                let values = values.iter();
                mixed.push(Mixed {
                    path: path.to_owned(),
                    values: values
                        .map(|(value, who)| ((*value).clone(), self.machines(who)))
                        .collect(),
                });
            }
        }
        let mut odd: Vec<Odd> = odd
            .into_iter()
            .map(|(machines, mut values)| {
                values.sort_by(|a, b| oddness(b).cmp(&oddness(a)).then(a.path.cmp(&b.path)));
                let machines: Vec<u32> = machines.into_iter().collect();
                Odd { machines: self.machines(&machines), values }
            })
            .collect();
        odd.sort_by(|a, b| {
            let first = |odd: &Odd| odd.values.first().map(oddness);
            first(b)
                .cmp(&first(a))
                .then(a.values.len().cmp(&b.values.len()))
                .then(a.machines.cmp(&b.machines))
        });
        mixed.sort_by(|a, b| a.path.cmp(&b.path));
        Alike { group: by.to_vec(), machines: self.machines(&group.members), in_common, odd, mixed }
    }
}

/// How odd it is to have another value: the share that has the common one, in parts of a million.
fn oddness(value: &OddValue) -> usize {
    value.share * 1_000_000 / value.of.max(1)
}
