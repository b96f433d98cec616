//! The rows that a report gives.

use std::collections::{BTreeSet, HashMap};

use super::table::{Column, Table, list_at, tables};
use crate::{
    declare::{AnyFact, AnyList, Node, Record, Tells, fact_at},
    fact::Gap,
    query::spoken,
    report::Report,
};

/// A row of a table: a section, or a part.
pub(super) struct Part<'a> {
    /// Its table's place among all tables.
    pub(super) table: usize,
    /// The row that holds it, by its place among all rows.
    pub(super) within: Option<usize>,
    /// Its path, as commands take it: `storage.disks.sda`.
    pub(super) path: String,
    /// JSON Pointer to it.
    pub(super) at: String,
    /// The record.
    pub(super) record: &'a dyn Record,
}

/// All rows of a report, those that hold others before them.
pub(super) fn parts(report: &Report) -> Vec<Part<'_>> {
    let mut rows = Vec::new();
    for (root, record) in report.roots() {
        if root == "machine" {
            let path = root.to_owned();
            rows.push(Part { table: 0, within: None, at: "/machine".into(), path, record });
            continue;
        }
        let before = if root == "inventory" { "" } else { "readings." };
        for (index, field) in record.shape().fields.iter().enumerate() {
            let Some(Node::Record(section)) = record.node(index) else { continue };
            let path = format!("{before}{}", field.name);
            let own = |table: &Table| table.path == path;
            let Some(table) = tables().iter().position(own) else { continue };
            let at = format!("/{root}/{}", field.name);
            add(&mut rows, Part { table, within: None, path, at, record: section });
        }
    }
    rows
}

fn add<'a>(rows: &mut Vec<Part<'a>>, part: Part<'a>) {
    let own = rows.len();
    let (table, record) = (part.table, part.record);
    let (path, at) = (part.path.clone(), part.at.clone());
    rows.push(part);
    for (inner, name, list) in lists_of(table, record) {
        let items: Vec<&dyn Record> = (0..list.len()).filter_map(|at| list.get(at)).collect();
        let called = names(&items);
        let pointer = name.replace('.', "/");
        for (row, (item, called)) in items.into_iter().zip(called).enumerate() {
            let part = Part {
                table: inner,
                within: Some(own),
                path: format!("{path}.{name}.{called}"),
                at: format!("{at}/{pointer}/{row}"),
                record: item,
            };
            add(rows, part);
        }
    }
}

/// The lists in a row of a table, each with the table of what is in it and its name in the row.
fn lists_of(
    table: usize,
    record: &dyn Record,
) -> impl Iterator<Item = (usize, &'static str, &dyn AnyList)> {
    let lists = tables().get(table).into_iter().flat_map(|own| &own.lists);
    let inner = tables().iter().enumerate().filter(move |(_, one)| one.within == Some(table));
    lists.zip(inner).filter_map(move |((name, way), (inner, _))| {
        Some((inner, name.as_str(), list_at(record, way)?))
    })
}

/// The path of the part that a finding is of.
pub(super) fn path_of(parts: &[Part<'_>], pointer: &str) -> String {
    let own = parts.iter().find(|part| part.at == pointer);
    own.map_or_else(|| spoken(pointer), |part| part.path.clone())
}

/// What the elements of a list are called, as paths take it: by the kernel's name or by the place, where no other
/// has it and it holds no sign of a path; else by the row.
fn names(items: &[&dyn Record]) -> Vec<String> {
    let called = |item: &&dyn Record| {
        let shape = item.shape();
        let mut fields = shape.names.iter().chain(shape.place).chain(shape.called);
        let plain = |text: &String| {
            // What is all digits would be taken for a row.
            text.contains(|it: char| !it.is_ascii_digit())
                && text.chars().all(|it| it.is_ascii_alphanumeric() || "_:/-".contains(it))
        };
        fields.find_map(|field| fact_at(*item, *field)?.text().filter(plain))
    };
    let names: Vec<Option<String>> = items.iter().map(called).collect();
    // Whatever a path takes for the name of an element counts.
    let mut times: HashMap<String, usize> = HashMap::new();
    for item in items {
        let shape = item.shape();
        let fields = shape.identity.iter().flat_map(|one| one.fields).chain(shape.place);
        let fields = fields.chain(shape.names).chain(shape.called);
        let texts: BTreeSet<String> =
            fields.filter_map(|field| fact_at(*item, *field)?.text()).collect();
        for text in texts {
            *times.entry(text).or_default() += 1;
        }
    }
    let own = names.iter().enumerate().map(|(row, name)| match name {
        Some(name) if times.get(name) == Some(&1) => name.clone(),
        _ => row.to_string(),
    });
    own.collect()
}

impl<'a> Part<'a> {
    /// Its table.
    pub(super) fn table(&self) -> &'static Table {
        // A row is made from its table.
        #[allow(clippy::indexing_slicing)]
        &tables()[self.table]
    }

    /// Its values, column by column.
    pub(super) fn values(
        &self,
    ) -> impl Iterator<Item = (&'static Column, Option<&'a dyn AnyFact>)> + use<'a> {
        let record = self.record;
        self.table().columns.iter().map(move |column| (column, column.of(record)))
    }

    /// What is missing of it: values and lists, each by its name in the row. What does not apply to it is not
    /// missing.
    pub(super) fn gaps(&self) -> Vec<(&'static str, &'a Gap)> {
        let values = self.values().filter_map(|(column, fact)| {
            let gap = fact.and_then(|fact| fact.missing().or(fact.hidden_part()))?;
            Some((column.name.as_str(), gap))
        });
        let lists = self.table().lists.iter().filter_map(|(name, way)| {
            let list = list_at(self.record, way)?;
            Some((name.as_str(), list.missing().or(list.hidden_part())?))
        });
        values.chain(lists).collect()
    }

    /// The lists in it, each with the table of what is in it, by its place among all tables.
    pub(super) fn lists(&self) -> impl Iterator<Item = (usize, &'a dyn AnyList)> + use<'a> {
        lists_of(self.table, self.record).map(|(table, _, list)| (table, list))
    }

    /// The fields that make it itself, the surest set of which all are known.
    pub(super) fn identity(&self) -> Vec<(&'static str, String)> {
        let shape = self.record.shape();
        let which = shape.identity.iter().filter(|one| one.tells == Tells::Which);
        let known = |fields: &'static [usize]| {
            let text = |field: &usize| {
                Some((shape.field_name(*field), fact_at(self.record, *field)?.text()?))
            };
            fields.iter().map(text).collect::<Option<Vec<_>>>()
        };
        which.filter_map(|one| known(one.fields)).next().unwrap_or_default()
    }

    /// The identity in a line: `wwn=0x5000…`, `model=…, serial=…`.
    pub(super) fn identity_line(&self) -> Option<String> {
        let own: Vec<String> =
            self.identity().into_iter().map(|(name, text)| format!("{name}={text}")).collect();
        (!own.is_empty()).then(|| own.join(", "))
    }
}
