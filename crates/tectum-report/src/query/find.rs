//! The values of a report that a path names.

use std::borrow::Cow;

use super::{path::Path, way::Step};
use crate::{
    declare::{AnyFact, FieldShape, Kind, Node, Record, fact_at},
    fact::{Evidence, Gap},
    report::Report,
};

/// A value that a path names.
pub struct Hit<'a> {
    /// JSON Pointer to it.
    pub at: String,
    /// The record that holds it.
    pub record: &'a dyn Record,
    /// Its field.
    pub field: &'static FieldShape,
    /// What stands there.
    pub value: HitValue<'a>,
}

/// What stands where a path leads.
#[derive(Clone, Copy)]
pub enum HitValue<'a> {
    /// A fact.
    Fact(&'a dyn AnyFact),
    /// A list whose parts are not known.
    MissingList(&'a Gap),
    /// A list that is known to be empty.
    EmptyList(&'a [Evidence]),
}

/// What a path names of a report.
#[derive(Default)]
pub struct Found<'a> {
    /// The values, in the report's order.
    pub hits: Vec<Hit<'a>>,
    /// Conditions that could not be judged: where, and why.
    pub not_judged: Vec<(String, &'a Gap)>,
    /// Lists that it leads through whose parts are not known, or not all of them: where, and why. Nobody knows what it
    /// would name there.
    pub hidden: Vec<(String, &'a Gap)>,
}

impl<'a> Found<'a> {
    /// What is missing of what the path names, and why: values, lists and what is in these, conditions without an answer.
    /// Of what is known in part too.
    pub fn gaps(&self) -> impl Iterator<Item = (&str, &'a Gap)> {
        let of_hits = self.hits.iter().filter_map(|hit| match hit.value {
            HitValue::Fact(fact) => Some((hit.at.as_str(), fact.missing().or(fact.hidden_part())?)),
            HitValue::MissingList(gap) => Some((hit.at.as_str(), gap)),
            HitValue::EmptyList(_) => None,
        });
        let others = self.not_judged.iter().chain(&self.hidden);
        of_hits.chain(others.map(|(at, gap)| (at.as_str(), *gap)))
    }
}

/// The values of a report that a path names, in the report's order.
pub fn find<'a>(report: &'a Report, pattern: &Path) -> Vec<Hit<'a>> {
    find_all(report, pattern).hits
}

/// The values of a report that a path names, and what stands in the way of knowing all of them.
pub fn find_all<'a>(report: &'a Report, pattern: &Path) -> Found<'a> {
    let mut found = Found::default();
    for (name, root) in report.roots() {
        let mut way = vec![Step::of(vec![name.into()])];
        descend(root, &format!("/{name}"), &mut way, pattern, &mut found);
    }
    // Of what stands in the inventory nobody waits for what a reading calls it.
    let in_inventory = found.hits.iter().any(|hit| hit.at.starts_with("/inventory/"));
    if in_inventory && pattern.section().is_some() && !pattern.begins_in("readings") {
        found.hidden.retain(|(at, _)| !at.starts_with("/readings/"));
    }
    found
}

fn descend<'a>(
    record: &'a dyn Record,
    at: &str,
    way: &mut Vec<Step<'a>>,
    pattern: &Path,
    found: &mut Found<'a>,
) {
    // What a path names within one section is not looked for in the others.
    let section = (way.len() == 1 && way.first().is_some_and(Step::is_of_sections))
        .then(|| pattern.section())
        .flatten();
    // A name with points in it takes up several parts of a path.
    let each_a_part = !way.iter().any(|step| {
        step.names.iter().any(|name| name.contains('.')) && pattern.may_part_names(step.shape)
    });
    let last = each_a_part.then(|| pattern.last_name(way.len() + 1)).flatten();
    let is_other = |field: &FieldShape| {
        last.is_some_and(|last| {
            !last.is_match(field.name)
                && !field.short_name().is_some_and(|name| last.is_match(name))
        })
    };
    for (index, field) in record.shape().fields.iter().enumerate() {
        if section.is_some_and(|section| section != field.name) {
            continue;
        }
        if matches!(field.kind, Kind::Leaf(_)) && is_other(field) {
            continue;
        }
        let Some(node) = record.node(index) else { continue };
        // What another field is called whole is no short name for this one.
        let short = field.short_name().filter(|short| record.shape().index_of(short).is_none());
        let names = std::iter::once(field.name).chain(short).map(Cow::Borrowed);
        way.push(Step::of(names.collect()));
        let own = || format!("{at}/{}", field.name);
        match node {
            Node::Absent => {}
            Node::Leaf(fact) => {
                if pattern.names(way) {
                    found.hits.push(Hit { at: own(), record, field, value: HitValue::Fact(fact) });
                }
            }
            Node::Record(_) | Node::List(_) if !pattern.may_lead(way) => {}
            Node::Record(inner) => descend(inner, &own(), way, pattern, found),
            Node::List(list) => {
                let value = match list.missing() {
                    Some(gap) => Some(HitValue::MissingList(gap)),
                    None => list.is_empty().then(|| HitValue::EmptyList(list.evidence())),
                };
                let named = pattern.names(way);
                if let Some(value) = value.filter(|_| named) {
                    found.hits.push(Hit { at: own(), record, field, value });
                }
                let before = found.hits.len();
                for index in 0..list.len() {
                    let Some(item) = list.get(index) else { continue };
                    let (element, shape) = (Some(item), Some(item.shape()));
                    way.push(Step { names: called(index, item), element, shape });
                    if pattern.may_lead(way) {
                        let inner = format!("{}/{index}", own());
                        let gaps = pattern.not_judged(way).into_iter();
                        found
                            .not_judged
                            .extend(gaps.map(|(field, gap)| (format!("{inner}/{field}"), gap)));
                        descend(item, &inner, way, pattern, found);
                    }
                    way.pop();
                }
                let hidden = match (list.missing(), list.hidden_part()) {
                    // That it is missing is told where it is named itself.
                    (Some(gap), _) => Some(gap).filter(|_| !named),
                    // An element that was named and found is not among those that nobody knows.
                    (None, Some(gap)) => {
                        let found_one = found.hits.len() > before && !pattern.may_lead_to_any(way);
                        Some(gap).filter(|_| !found_one)
                    }
                    (None, None) => None,
                };
                if let Some(gap) = hidden
                    && (named || pattern.may_name_within(way, list.item_shape()))
                {
                    found.hidden.push((own(), gap));
                }
            }
        }
        way.pop();
    }
}

/// What an element of a list may be called.
fn called(index: usize, item: &dyn Record) -> Vec<Cow<'static, str>> {
    let shape = item.shape();
    let names = shape
        .identity
        .iter()
        .flat_map(|identity| identity.fields)
        .chain(shape.place)
        .chain(shape.names)
        .chain(shape.called);
    std::iter::once(index.to_string())
        .chain(names.filter_map(|field| fact_at(item, *field)?.text()))
        .map(Cow::Owned)
        .collect()
}
