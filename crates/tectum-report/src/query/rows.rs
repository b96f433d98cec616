//! Values side by side: a row for each part that paths name values of, a column for each field.

use std::collections::HashMap;

use super::{
    find::{HitValue, find_all},
    part_of::PartsOf,
    path::{Path, PathError},
};
use crate::{
    declare::{AnyFact, Record},
    fact::Gap,
    report::Report,
};

/// A value in a row.
#[derive(Clone, Copy)]
pub struct Cell<'a> {
    /// The record that holds it.
    pub record: &'a dyn Record,
    /// The value, which may be missing.
    pub fact: &'a dyn AnyFact,
}

/// The values of one part.
pub struct Row<'a> {
    /// JSON Pointer to the part; empty for what is no element of a list.
    pub part: String,
    /// A value for each column, where the part has such a field and it was asked for.
    pub cells: Vec<Option<Cell<'a>>>,
}

/// What some paths name of a report, side by side.
#[derive(Default)]
pub struct Rows<'a> {
    /// The columns' names: the way from the part to the value, with points in it.
    pub columns: Vec<String>,
    /// The rows, in the report's order for each path.
    pub rows: Vec<Row<'a>>,
    /// What is missing, by its path.
    pub gaps: Vec<(String, &'a Gap)>,
    /// What is known in part alone, by its path: a sum to which something could not be added.
    pub in_part: Vec<(String, &'a Gap)>,
}

/// The paths that a text names: one, or one for each name in braces at its end
/// (`storage.disks.*.{model,serial}`), in their order.
///
/// # Errors
/// [`PathError`] where one of them is no path.
pub fn paths(text: &str) -> Result<Vec<Path>, PathError> {
    let names = text.strip_suffix('}').and_then(|rest| rest.rsplit_once('{'));
    match names {
        Some((before, names)) if before.ends_with('.') => {
            names.split(',').map(|name| format!("{before}{}", name.trim()).parse()).collect()
        }
        _ => Ok(vec![text.parse()?]),
    }
}

/// The values of a report that some paths name, side by side.
pub fn rows<'a>(report: &'a Report, paths: &[Path]) -> Rows<'a> {
    let mut all = Rows::default();
    let mut columns: HashMap<String, usize> = HashMap::new();
    let mut parts: HashMap<String, usize> = HashMap::new();
    let mut owners = PartsOf::new(report);
    for path in paths {
        let found = find_all(report, path);
        let unseen = found.not_judged.into_iter().chain(found.hidden);
        all.gaps.extend(unseen.map(|(at, gap)| (spoken(&at), gap)));
        for hit in found.hits {
            let fact = match hit.value {
                HitValue::Fact(fact) => fact,
                HitValue::MissingList(gap) => {
                    all.gaps.push((spoken(&hit.at), gap));
                    continue;
                }
                HitValue::EmptyList(_) => continue,
            };
            if let Some(gap) = fact.missing() {
                all.gaps.push((spoken(&hit.at), gap));
            } else if let Some(gap) = fact.hidden_part() {
                all.in_part.push((spoken(&hit.at), gap));
            }
            let (mut part, column) = place(&hit.at);
            // A reading stands in the row of the part that it is a reading of, and what names that part is no value
            // of its own; another value of the same name is not put out of the way.
            if let Some(owner) = owners.of(&part) {
                let taken =
                    columns.get(&column).zip(parts.get(&owner)).and_then(|(column, row)| {
                        all.rows.get(*row)?.cells.get(*column).copied().flatten()
                    });
                match taken {
                    Some(_) if PartsOf::is_key(hit.record, hit.field.name) => continue,
                    Some(_) => {}
                    None => part = owner,
                }
            }
            let column = *columns.entry(column).or_insert_with_key(|name| {
                all.columns.push(name.clone());
                all.columns.len() - 1
            });
            let row = *parts.entry(part).or_insert_with_key(|part| {
                all.rows.push(Row { part: part.clone(), cells: Vec::new() });
                all.rows.len() - 1
            });
            if let Some(row) = all.rows.get_mut(row) {
                row.cells.resize(row.cells.len().max(column + 1), None);
                if let Some(cell) = row.cells.get_mut(column) {
                    *cell = Some(Cell { record: hit.record, fact });
                }
            }
        }
    }
    for row in &mut all.rows {
        row.cells.resize(all.columns.len(), None);
    }
    all
}

/// The part that a pointer leads into, the innermost element of a list, and the way on from there.
fn place(pointer: &str) -> (String, String) {
    let members: Vec<&str> = pointer.split('/').skip(1).collect();
    let element = members.iter().rposition(|it| it.bytes().all(|byte| byte.is_ascii_digit()));
    match element {
        Some(at) => {
            let (part, way) = members.split_at(at + 1);
            (format!("/{}", part.join("/")), way.join("."))
        }
        None => (String::new(), spoken(pointer)),
    }
}

/// A pointer as a dotted path, the inventory's root left out.
pub fn spoken(pointer: &str) -> String {
    let dotted = pointer.trim_start_matches('/').replace('/', ".");
    dotted.strip_prefix("inventory.").map_or(dotted.clone(), str::to_owned)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("/inventory/storage/disks/0/size_bytes", "/inventory/storage/disks/0", "size_bytes")]
    #[case("/inventory/a/0/b/12/c/d", "/inventory/a/0/b/12", "c.d")]
    #[case("/inventory/cpu/cores", "", "cpu.cores")]
    #[case("/readings/cpu/slowest_mhz", "", "readings.cpu.slowest_mhz")]
    fn a_value_has_a_part_and_a_column(
        #[case] pointer: &str,
        #[case] part: &str,
        #[case] column: &str,
    ) {
        assert_eq!(place(pointer), (part.to_owned(), column.to_owned()));
    }

    #[rstest]
    #[case("a.b", &["a.b"])]
    #[case("a.*.{b, c}", &["a.*.b", "a.*.c"])]
    #[case("a[b=1].{c}", &["a[b=1].c"])]
    fn braces_name_several_fields(#[case] text: &str, #[case] expected: &[&str]) {
        let read: Vec<String> = paths(text).unwrap().iter().map(ToString::to_string).collect();
        assert_eq!(read, expected);
    }
}
