//! Records, and plain values of them, as canonical JSON (RFC 8785), of which digests are made. What is missing is no part of
//! that: a form of a report may tell it as `null` or not.
//!
//! The order of a record's members is known from its declaration, and that of plain values is found before they are
//! written. A serializer that knows nothing of either writes each object into a room of its own and holds it until all
//! its members are there, which takes twice as long.

use std::io::{self, Write};

use serde::{Serialize, Serializer, ser::SerializeMap};
use serde_json::{Value, ser::Formatter};

use crate::declare::{AnyList, Node, Record};

/// Writes a record as canonical JSON.
///
/// # Errors
/// When it cannot be written.
pub(crate) fn write(record: &dyn Record, to: impl Write) -> io::Result<()> {
    let mut serializer = serde_json::Serializer::with_formatter(to, Numbers);
    Canonical(record).serialize(&mut serializer).map_err(io::Error::from)
}

/// Writes plain values as canonical JSON.
///
/// # Errors
/// When they cannot be written.
pub fn write_plain(value: &Value, to: impl Write) -> io::Result<()> {
    let mut serializer = serde_json::Serializer::with_formatter(to, Numbers);
    Sorted(value).serialize(&mut serializer).map_err(io::Error::from)
}

/// Plain values, members in the order of their names' UTF-16 units (clause 3.2.3), without those that are `null`.
struct Sorted<'a>(&'a Value);

impl Serialize for Sorted<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self.0 {
            Value::Object(members) => {
                let mut members: Vec<(&String, &Value)> =
                    members.iter().filter(|(_, value)| !value.is_null()).collect();
                match members.iter().all(|(name, _)| name.is_ascii()) {
                    true => members.sort_unstable_by_key(|(name, _)| *name),
                    false => {
                        members.sort_by(|(a, _), (b, _)| a.encode_utf16().cmp(b.encode_utf16()));
                    }
                }
                serializer
                    .collect_map(members.into_iter().map(|(name, value)| (name, Sorted(value))))
            }
            Value::Array(items) => serializer.collect_seq(items.iter().map(Sorted)),
            leaf => leaf.serialize(serializer),
        }
    }
}

/// A record, its members in the order of their names.
struct Canonical<'a>(&'a dyn Record);

impl Serialize for Canonical<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let shape = self.0.shape();
        let mut map = serializer.serialize_map(None)?;
        for index in shape.by_name.iter().copied().map(usize::from) {
            let (name, Some(node)) = (shape.field_name(index), self.0.node(index)) else {
                continue;
            };
            match node {
                Node::Absent => {}
                Node::Leaf(fact) => {
                    fact.json().map_or(Ok(()), |value| map.serialize_entry(name, &value))?;
                }
                Node::Record(record) => map.serialize_entry(name, &Canonical(record))?,
                Node::List(list) if list.missing().is_some() => {}
                Node::List(list) => map.serialize_entry(name, &All(list))?,
            }
        }
        map.end()
    }
}

struct All<'a>(&'a dyn AnyList);

impl Serialize for All<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let records = (0..self.0.len()).filter_map(|index| self.0.get(index));
        serializer.collect_seq(records.map(Canonical))
    }
}

/// No blanks, and numbers as clause 3.2.2.3 wants them: as a double would be written, which those are anyway that a
/// double holds.
struct Numbers;

/// The largest whole number up to which a double holds each.
const EXACT: u64 = 1 << 53;

impl Formatter for Numbers {
    fn write_u64<W: ?Sized + Write>(&mut self, to: &mut W, value: u64) -> io::Result<()> {
        match value <= EXACT {
            true => write!(to, "{value}"),
            false => to.write_all(&serde_json_canonicalizer::to_vec(&value)?),
        }
    }

    fn write_i64<W: ?Sized + Write>(&mut self, to: &mut W, value: i64) -> io::Result<()> {
        match value.unsigned_abs() <= EXACT {
            true => write!(to, "{value}"),
            false => to.write_all(&serde_json_canonicalizer::to_vec(&value)?),
        }
    }

    fn write_f64<W: ?Sized + Write>(&mut self, to: &mut W, value: f64) -> io::Result<()> {
        to.write_all(&serde_json_canonicalizer::to_vec(&value)?)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use serde_json::{Map, json};

    use super::*;

    fn any_json() -> impl Strategy<Value = Value> {
        let leaf = prop_oneof![
            Just(Value::Null),
            any::<bool>().prop_map(Value::from),
            any::<u64>().prop_map(Value::from),
            any::<i64>().prop_map(Value::from),
            any::<f64>().prop_map(|number| json!(number)),
            any::<String>().prop_map(Value::from),
        ];
        leaf.prop_recursive(4, 64, 8, |inner| {
            let name = prop_oneof!["[a-z_]{0,4}", any::<String>()];
            prop_oneof![
                prop::collection::vec(inner.clone(), 0..8).prop_map(Value::from),
                prop::collection::vec((name, inner), 0..8)
                    .prop_map(|members| Value::Object(members.into_iter().collect::<Map<_, _>>())),
            ]
        })
    }

    fn remove_nulls(value: &mut Value) {
        match value {
            Value::Object(members) => {
                members.retain(|_, value| !value.is_null());
                members.values_mut().for_each(remove_nulls);
            }
            Value::Array(items) => items.iter_mut().for_each(remove_nulls),
            _ => {}
        }
    }

    proptest! {
        /// Another's serializer says how it must be, but for what is missing.
        #[test]
        fn plain_values_are_written_as_another_writes_them(mut value in any_json()) {
            let mut own = Vec::new();
            write_plain(&value, &mut own).unwrap();
            remove_nulls(&mut value);
            prop_assert_eq!(own, serde_json_canonicalizer::to_vec(&value).unwrap());
        }
    }
}
