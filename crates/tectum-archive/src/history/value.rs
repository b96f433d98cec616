//! Since when values at a path are what they are.

use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    ops::Bound,
};

use jiff::Timestamp;
use serde::Serialize;
use tectum_report::{
    Report,
    declare::{Node, fields},
    json::origins::Depth,
    leaf::{JsonForm, Unit},
    query::{Named, Path, find_all, standing},
};

use super::{Span, see};
use crate::{
    exact::Exact,
    store::{Asked, Entry, Store, StoreError, look_in_part},
};

/// What was told of one value over time.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Told {
    /// Its path, by names that stand.
    pub path: String,
    /// What it was, the first first; empty for a number that moves.
    pub spans: Vec<Span>,
    /// The numbers, of what moves by itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub series: Option<Series>,
}

/// A number that moves, look by look.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Series {
    /// The unit's name, if it has one.
    pub unit: Option<&'static str>,
    /// When, and what.
    pub points: Vec<(Timestamp, i64)>,
    /// The unit.
    #[serde(skip)]
    pub of: Option<&'static Unit>,
}

/// What one look or state holds at a path.
struct Value {
    path: String,
    exact: Option<Exact>,
    number: Option<i64>,
    unit: Option<&'static Unit>,
}

/// Since when the values at some paths are what they are, of one machine.
///
/// A value that a look could not see tells nothing: what was there before is taken to be there still, if it
/// is seen again. A part that is gone was seen last when it was seen last.
///
/// # Errors
/// What stands in the way of reading a state or a look.
pub fn history(store: &dyn Store, machine: &str, paths: &[Path]) -> Result<Vec<Told>, StoreError> {
    let mut entries = store.entries(machine)?;
    entries.sort_by_key(|one| (one.at, one.number));
    let mut told = of_states(store, machine, &entries, paths)?;
    if let Some(last) = entries.last() {
        let latest = crate::written::readings(store.observation(machine, last.number)?)
            .map_err(|cause| StoreError::Report { machine: machine.to_owned(), cause })?;
        let any = paths.iter().any(|path| {
            path.begins_in("readings") || !Seen::of(&latest, "readings", path).values.is_empty()
        });
        if any {
            told.extend(of_looks(store, machine, &entries, paths)?);
        }
    }
    Ok(told)
}

/// What the states of a machine say, each read once.
fn of_states(
    store: &dyn Store,
    machine: &str,
    entries: &[Entry],
    paths: &[Path],
) -> Result<Vec<Told>, StoreError> {
    let asked = Asked::paths(paths);
    let mut known: HashMap<&str, Seen> = HashMap::new();
    let mut spans: BTreeMap<String, Vec<Span>> = BTreeMap::new();
    let mut order: Vec<String> = Vec::new();
    for entry in entries {
        if !known.contains_key(entry.state.as_str()) {
            let report = store.values(machine, &entry.state, &asked)?;
            let mut seen = Seen::default();
            paths.iter().for_each(|path| seen.see(&report, "inventory", path));
            known.insert(&entry.state, seen);
        }
        let Some(seen) = known.get(entry.state.as_str()) else { continue };
        let mut here = BTreeSet::new();
        for value in &seen.values {
            here.insert(value.path.as_str());
            let Some(exact) = &value.exact else { continue };
            if !spans.contains_key(&value.path) {
                order.push(value.path.clone());
            }
            see(spans.entry(value.path.clone()).or_default(), exact, entry.at);
        }
        // A part that is gone is not what it was any more; one that could not be seen may be there.
        let gone = |path: &str| !here.contains(path) && !seen.hides(path);
        let open = spans.iter_mut().filter(|(path, _)| gone(path)).filter_map(|(path, own)| {
            Some((path.as_str(), own.last_mut()?))
                .filter(|(_, last)| last.otherwise_since.is_none())
        });
        let open: Vec<(&str, &mut Span)> = open.collect();
        if open.is_empty() {
            continue;
        }
        // Why a state does not show all there is stands beside it, look by look.
        let sections: BTreeSet<&str> =
            open.iter().filter_map(|(path, _)| path.split('.').next()).collect();
        let sections: Vec<&str> = sections.into_iter().collect();
        let report = look_in_part(store, machine, entry.number, &sections, Depth::Reasons)?;
        let mut whole = Seen::default();
        paths.iter().for_each(|path| whole.see(&report, "inventory", path));
        for (_, last) in open.into_iter().filter(|(path, _)| !whole.hides(path)) {
            last.otherwise_since = Some(entry.at);
        }
    }
    Ok(order
        .into_iter()
        .filter_map(|path| {
            let spans = spans.remove(&path)?;
            Some(Told { path, spans, series: None })
        })
        .collect())
}

/// What every look at a machine says of what moves.
fn of_looks(
    store: &dyn Store,
    machine: &str,
    entries: &[Entry],
    paths: &[Path],
) -> Result<Vec<Told>, StoreError> {
    let mut told: Vec<Told> = Vec::new();
    let mut rows: HashMap<String, usize> = HashMap::new();
    for entry in entries {
        let observation = store.observation(machine, entry.number)?;
        let report = crate::written::readings(observation)
            .map_err(|cause| StoreError::Report { machine: machine.to_owned(), cause })?;
        for value in paths.iter().flat_map(|path| Seen::of(&report, "readings", path).values) {
            let row = *rows.entry(value.path.clone()).or_insert_with(|| {
                told.push(Told { path: value.path.clone(), spans: Vec::new(), series: None });
                told.len() - 1
            });
            let Some(own) = told.get_mut(row) else { continue };
            if let Some(number) = value.number {
                let series = own.series.get_or_insert_with(|| Series {
                    unit: value.unit.map(|unit| unit.name),
                    points: Vec::new(),
                    of: value.unit,
                });
                series.points.push((entry.at, number));
            } else if let Some(exact) = &value.exact {
                see(&mut own.spans, exact, entry.at);
            }
        }
    }
    Ok(told)
}

/// What a look or state shows.
#[derive(Default)]
struct Seen {
    values: Vec<Value>,
    /// What nobody could see into, by paths of names that stand: lists that are not known, or not whole, and sections
    /// that are not there.
    hidden: Vec<String>,
}

impl Seen {
    /// What stands at a path.
    fn of(report: &Report, root: &str, path: &Path) -> Self {
        let mut seen = Self::default();
        seen.see(report, root, path);
        seen
    }

    /// Whether what was at a path may be there, though it was not seen.
    fn hides(&self, path: &str) -> bool {
        let holds = |own: &String| path.strip_prefix(own).is_some_and(|rest| rest.starts_with('.'));
        self.hidden.iter().any(holds)
    }

    fn see(&mut self, report: &Report, root: &str, path: &Path) {
        let found = find_all(report, path);
        for (name, record) in report.roots().into_iter().filter(|(name, _)| *name == root) {
            let absent = fields(record).filter(|(_, node)| matches!(node, Node::Absent));
            let before = if name == "inventory" { String::new() } else { format!("{name}.") };
            self.hidden.extend(absent.map(|(field, _)| format!("{before}{}", field.name)));
        }
        let lists: BTreeSet<String> = found.hidden.into_iter().map(|(at, _)| at).collect();
        let hits: BTreeSet<String> = found.hits.into_iter().map(|hit| hit.at).collect();
        let leads = |all: &BTreeSet<String>, at: &str| {
            let mut from = all.range::<str, _>((Bound::Included(at), Bound::Unbounded));
            from.next().is_some_and(|first| first.starts_with(at))
        };
        let wanted = |at: &str| leads(&hits, at) || leads(&lists, at);
        let hidden = &mut self.hidden;
        let values = &mut self.values;
        standing(
            report,
            root,
            Named::ByIdentity,
            &wanted,
            &mut |list| hidden.extend(list.elements.is_none().then_some(list.path)),
            &mut |one| {
                if hits.contains(&one.at) {
                    let leaf = one.fact.leaf_shape();
                    let number = matches!(leaf.form, JsonForm::Unsigned | JsonForm::Signed)
                        .then(|| one.fact.json()?.as_i64())
                        .flatten();
                    let exact = Exact::of(one.fact);
                    values.push(Value { path: one.path, exact, number, unit: leaf.unit });
                }
            },
        );
    }
}
