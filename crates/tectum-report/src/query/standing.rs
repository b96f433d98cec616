//! Values by names that stand from day to day and from machine to machine: an element of a list is named by
//! where it sits, and not by its row, which moves when another comes or goes.

use std::collections::HashMap;

use crate::{
    declare::{AnyFact, FieldShape, Node, Record, Shape, fact_at, fields},
    report::Report,
};

/// A value, by a name that stands.
pub struct Standing<'a> {
    /// Its path, the inventory's root left out: `memory.modules.A1.size_bytes`.
    pub path: String,
    /// JSON Pointer to it in its report.
    pub at: String,
    /// The record that holds it.
    pub record: &'a dyn Record,
    /// Its field.
    pub field: &'static FieldShape,
    /// The field's index.
    pub index: usize,
    /// The value, or why there is none.
    pub fact: &'a dyn AnyFact,
}

/// A list, by a name that stands.
#[derive(Debug)]
pub struct StandingList {
    /// Its path.
    pub path: String,
    /// The names of its elements; nothing where what is in it is not known.
    pub elements: Option<Vec<String>>,
}

/// By what an element of a list is named, where it has no place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Named {
    /// By what makes it itself, then by the kernel's name: on one machine on several days.
    ByIdentity,
    /// By the kernel's name: on several machines, whose parts are never the same ones.
    ByName,
}

/// The values of a report's inventory or readings that stand at pointers that are wanted, or beneath them.
pub fn standing<'a>(
    report: &'a Report,
    root: &str,
    named: Named,
    wanted: &dyn Fn(&str) -> bool,
    list: &mut dyn FnMut(StandingList),
    value: &mut dyn FnMut(Standing<'a>),
) {
    let found = report.roots().into_iter().find(|(name, _)| *name == root);
    let Some((name, record)) = found else { return };
    let path = if name == "inventory" { String::new() } else { name.to_owned() };
    Walk { named, wanted, list, value }.record(record, &format!("/{name}"), &path);
}

struct Walk<'w, 'a> {
    named: Named,
    wanted: &'w dyn Fn(&str) -> bool,
    list: &'w mut dyn FnMut(StandingList),
    value: &'w mut dyn FnMut(Standing<'a>),
}

impl<'a> Walk<'_, 'a> {
    fn record(&mut self, record: &'a dyn Record, at: &str, path: &str) {
        for (index, (field, node)) in fields(record).enumerate() {
            let at = format!("{at}/{}", field.name);
            if !(self.wanted)(&at) {
                continue;
            }
            let path = match path.is_empty() {
                true => field.name.to_owned(),
                false => format!("{path}.{}", field.name),
            };
            match node {
                Node::Absent => {}
                Node::Leaf(fact) => {
                    (self.value)(Standing { path, at, record, field, index, fact });
                }
                Node::Record(inner) => self.record(inner, &at, &path),
                Node::List(list) => {
                    let items: Vec<&'a dyn Record> =
                        (0..list.len()).filter_map(|index| list.get(index)).collect();
                    let names = self.names(&items);
                    let known = list.missing().or(list.hidden_part()).is_none();
                    (self.list)(StandingList {
                        path: path.clone(),
                        elements: known.then(|| names.clone()),
                    });
                    for (row, (item, name)) in items.into_iter().zip(names).enumerate() {
                        let at = format!("{at}/{row}");
                        if (self.wanted)(&at) {
                            self.record(item, &at, &format!("{path}.{name}"));
                        }
                    }
                }
            }
        }
    }

    /// What the elements of a list are called, each by a name that no other has.
    fn names(&self, items: &[&dyn Record]) -> Vec<String> {
        let mut seen: HashMap<String, usize> = HashMap::new();
        (0..)
            .zip(items)
            .map(|(row, item): (usize, _)| {
                let name = self.name(*item).unwrap_or_else(|| row.to_string());
                let times = seen.entry(name.clone()).or_default();
                *times += 1;
                match *times {
                    1 => name,
                    times => format!("{name} ({times})"),
                }
            })
            .collect()
    }

    fn name(&self, item: &dyn Record) -> Option<String> {
        let shape = item.shape();
        let identity = || identity(shape).find_map(|fields| whole(item, fields));
        let names = || whole(item, shape.names);
        let own = match self.named {
            Named::ByIdentity => identity().or_else(names),
            Named::ByName => names(),
        };
        known(item, shape.place).or(own).or_else(|| whole(item, shape.called))
    }
}

fn identity(shape: &'static Shape) -> impl Iterator<Item = &'static [usize]> {
    shape.identity.iter().map(|identity| identity.fields)
}

/// The texts of those of some fields that are known: a slot without a bank is in a place all the same.
fn known(item: &dyn Record, fields: &[usize]) -> Option<String> {
    let texts: Vec<String> =
        fields.iter().filter_map(|field| fact_at(item, *field)?.text()).collect();
    match texts.as_slice() {
        [] => None,
        [one] => Some(one.clone()),
        [first, rest @ ..] => Some(format!("{first} ({})", rest.join(", "))),
    }
}

/// The texts of some fields, if all are known.
fn whole(item: &dyn Record, fields: &[usize]) -> Option<String> {
    let texts = fields.iter().map(|field| fact_at(item, *field)?.text());
    let texts: Option<Vec<String>> = texts.collect();
    texts.filter(|texts| !texts.is_empty()).map(|texts| texts.join(" "))
}
