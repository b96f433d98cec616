//! The part of the inventory that an element of the readings is declared to be a reading of.

use std::collections::HashMap;

use crate::{
    declare::{AnyList, Node, Record, fact_at, fact_named, fields},
    report::Report,
};

/// The parts of a report's inventory, by what readings name them by.
pub(super) struct PartsOf<'a> {
    report: &'a Report,
    /// The elements of a list by their keys; nothing for a key that stands twice.
    keys: HashMap<String, HashMap<String, Option<usize>>>,
}

impl<'a> PartsOf<'a> {
    pub(super) fn new(report: &'a Report) -> Self {
        Self { report, keys: HashMap::new() }
    }

    /// JSON Pointer to the part that the element at a pointer is a reading of.
    pub(super) fn of(&mut self, pointer: &str) -> Option<String> {
        let way = pointer.strip_prefix("/readings/")?;
        let element = within(&self.report.readings, &way.split('/').collect::<Vec<_>>())?;
        let mut at = "/inventory".to_owned();
        let mut record: &dyn Record = &self.report.inventory;
        for step in element.shape().reading_of?.steps {
            for name in step.list {
                at.push('/');
                at.push_str(name);
            }
            let list = list_at(record, step.list)?;
            let keys = self.keys.entry(at.clone()).or_insert_with(|| {
                let mut keys = HashMap::new();
                for index in 0..list.len() {
                    let key = list.get(index).and_then(|item| fact_named(item, step.key)?.text());
                    if let Some(key) = key {
                        keys.entry(key).and_modify(|own| *own = None).or_insert(Some(index));
                    }
                }
                keys
            });
            let index = (*keys.get(&fact_at(element, step.own)?.text()?)?)?;
            at.push_str(&format!("/{index}"));
            record = list.get(index)?;
        }
        Some(at)
    }

    /// Whether a field is what an element of the readings names its part by.
    pub(super) fn is_key(record: &dyn Record, field: &str) -> bool {
        let of = record.shape().reading_of;
        of.is_some_and(|of| {
            of.steps.iter().any(|step| record.shape().field_name(step.own) == field)
        })
    }
}

fn member<'a>(record: &'a dyn Record, name: &str) -> Option<Node<'a>> {
    fields(record).find(|(field, _)| field.name == name).map(|(_, node)| node)
}

fn within<'a>(record: &'a dyn Record, way: &[&str]) -> Option<&'a dyn Record> {
    let Some((name, rest)) = way.split_first() else { return Some(record) };
    match member(record, name)? {
        Node::Record(inner) => within(inner, rest),
        Node::List(list) => {
            let (index, rest) = rest.split_first()?;
            within(list.get(index.parse().ok()?)?, rest)
        }
        Node::Absent | Node::Leaf(_) => None,
    }
}

fn list_at<'a>(record: &'a dyn Record, way: &[&str]) -> Option<&'a dyn AnyList> {
    let (name, rest) = way.split_first()?;
    match member(record, name)? {
        Node::List(list) if rest.is_empty() => Some(list),
        Node::Record(inner) => list_at(inner, rest),
        _ => None,
    }
}
