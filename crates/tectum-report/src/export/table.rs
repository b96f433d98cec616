//! Kinds of parts as tables: a table a section and a list of parts, a column a value.

use std::sync::LazyLock;

use crate::{
    declare::{AnyFact, AnyList, Described, Kind, Node, Record, Shape, fact_at},
    leaf::LeafShape,
    model::{Inventory, Machine, Readings},
};

/// A kind of part as a table.
#[derive(Debug)]
pub struct Table {
    /// Its name: the way to it, with a stroke between (`storage_disks_partitions`); that of readings begins with
    /// `readings_`.
    pub name: String,
    /// Its name as a path (`storage.disks.partitions`, `readings.storage.disks`).
    pub path: String,
    /// What its rows are.
    pub shape: &'static Shape,
    /// Its columns.
    pub columns: Vec<Column>,
    /// The table whose rows hold those of this one, by its place among all tables.
    pub within: Option<usize>,
    /// Whether its rows are elements of a list; else a report has one row of it at the most.
    pub listed: bool,
    /// Whether it is of what moves by itself.
    pub readings: bool,
    /// The lists in its rows, by their names in the row and the way to them.
    pub(super) lists: Vec<(String, Vec<usize>)>,
}

/// A column of a table.
#[derive(Debug)]
pub struct Column {
    /// Its name: the field's; that of a record within the row has the record's name before it.
    pub name: String,
    /// What it holds.
    pub leaf: LeafShape,
    /// What it means.
    pub meaning: &'static str,
    /// Whether it only rises until what it counts begins anew.
    pub counts: bool,
    /// The fields on the way from the row's record.
    way: Vec<usize>,
    /// The name without its unit.
    pub(super) short: String,
}

/// All tables, those that hold others before them.
pub fn tables() -> &'static [Table] {
    static TABLES: LazyLock<Vec<Table>> = LazyLock::new(|| {
        let mut tables = Vec::new();
        add(&mut tables, "machine".into(), "machine".into(), Machine::SHAPE, None, false, false);
        sections(&mut tables, Inventory::SHAPE, None);
        sections(&mut tables, Readings::SHAPE, Some("readings"));
        tables
    });
    &TABLES
}

/// The table of that name, or of that path.
pub fn table_named(name: &str) -> Option<&'static Table> {
    tables().iter().find(|table| table.name == name || table.path == name)
}

fn sections(tables: &mut Vec<Table>, root: &'static Shape, before: Option<&str>) {
    for field in root.fields {
        let Some(shape) = field.kind.inner() else { continue };
        let named = |between: &str| match before {
            Some(before) => format!("{before}{between}{}", field.name),
            None => field.name.to_owned(),
        };
        add(tables, named("_"), named("."), shape, None, false, before.is_some());
    }
}

fn add(
    tables: &mut Vec<Table>,
    name: String,
    path: String,
    shape: &'static Shape,
    within: Option<usize>,
    listed: bool,
    readings: bool,
) {
    let mut columns = Vec::new();
    let mut lists = Vec::new();
    gather(shape, "", &mut Vec::new(), &mut columns, &mut lists);
    let own = tables.len();
    let names: Vec<(String, &'static Shape)> =
        lists.iter().map(|(name, _, inner)| (name.clone(), *inner)).collect();
    let lists = lists.into_iter().map(|(name, way, _)| (name, way)).collect();
    tables.push(Table {
        name: name.clone(),
        path: path.clone(),
        shape,
        columns,
        within,
        listed,
        readings,
        lists,
    });
    for (list, inner) in names {
        let path = format!("{path}.{list}");
        let name = format!("{name}_{}", list.replace('.', "_"));
        add(tables, name, path, inner, Some(own), true, readings);
    }
}

/// The values of a record and of the records in it, and the lists there.
fn gather(
    shape: &'static Shape,
    before: &str,
    way: &mut Vec<usize>,
    columns: &mut Vec<Column>,
    lists: &mut Vec<(String, Vec<usize>, &'static Shape)>,
) {
    for (index, field) in shape.fields.iter().enumerate() {
        way.push(index);
        let name = format!("{before}{}", field.name);
        match field.kind {
            Kind::Leaf(leaf) => {
                let short = field.short_name().unwrap_or(field.name);
                columns.push(Column {
                    short: format!("{before}{short}").replace('.', "_"),
                    name: name.replace('.', "_"),
                    leaf,
                    meaning: field.doc,
                    counts: shape.counts.contains(&index),
                    way: way.clone(),
                });
            }
            Kind::Record(inner) | Kind::Optional(inner) => {
                gather(inner, &format!("{name}."), way, columns, lists);
            }
            Kind::List(inner) => lists.push((name, way.clone(), inner)),
        }
        way.pop();
    }
}

impl Column {
    /// The value in a row's record, or why it is missing; nothing where the record that holds it is absent.
    pub(super) fn of<'a>(&self, row: &'a dyn Record) -> Option<&'a dyn AnyFact> {
        let (last, before) = self.way.split_last()?;
        fact_at(within(row, before)?, *last)
    }

    /// What it means, in a line.
    pub fn meaning_in_a_line(&self) -> String {
        self.meaning.split_whitespace().collect::<Vec<_>>().join(" ")
    }
}

/// The record that fields lead to.
fn within<'a>(row: &'a dyn Record, way: &[usize]) -> Option<&'a dyn Record> {
    way.iter().try_fold(row, |record, index| match record.node(*index)? {
        Node::Record(inner) => Some(inner),
        _ => None,
    })
}

/// The list that fields lead to.
pub(super) fn list_at<'a>(row: &'a dyn Record, way: &[usize]) -> Option<&'a dyn AnyList> {
    let (last, before) = way.split_last()?;
    match within(row, before)?.node(*last)? {
        Node::List(list) => Some(list),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use super::*;

    #[test]
    fn every_table_and_column_has_a_name_of_its_own() {
        let names: BTreeSet<&str> = tables().iter().map(|table| &*table.name).collect();
        assert_eq!(names.len(), tables().len());
        for table in tables() {
            let columns: BTreeSet<&str> = table.columns.iter().map(|one| &*one.name).collect();
            assert_eq!(columns.len(), table.columns.len(), "{}", table.name);
        }
        for known in ["machine", "cpu", "storage_disks_partitions", "readings_storage_disks"] {
            assert!(names.contains(known), "{known}");
        }
    }

    /// Walks the declarations by itself, as a plain reference: no value may be without a column.
    #[test]
    fn every_value_of_the_model_has_a_column() {
        fn leaves(shape: &Shape) -> usize {
            let own = shape.fields.iter().map(|field| match field.kind.inner() {
                None => 1,
                Some(inner) => leaves(inner),
            });
            own.sum()
        }
        let all = [Machine::SHAPE, Inventory::SHAPE, Readings::SHAPE];
        let expected: usize = all.into_iter().map(leaves).sum();
        assert_eq!(tables().iter().map(|table| table.columns.len()).sum::<usize>(), expected);
    }
}
