//! Records as canonical JSON (RFC 8785), of which digests are made.
//!
//! The order of a record's members is known from its declaration, so they are written as they come. A serializer that
//! knows nothing of declarations holds each object until all its members are there, which takes twice as long.

use std::io::{self, Write};

use serde::{Serialize, Serializer, ser::SerializeMap};
use serde_json::ser::Formatter;

use crate::declare::{AnyList, Node, Record};

/// Writes a record as canonical JSON.
///
/// # Errors
/// When it cannot be written.
pub(crate) fn write(record: &dyn Record, to: impl Write) -> io::Result<()> {
    let mut serializer = serde_json::Serializer::with_formatter(to, Numbers);
    Canonical(record).serialize(&mut serializer).map_err(io::Error::from)
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
                Node::Leaf(fact) => map.serialize_entry(name, &fact.json())?,
                Node::Record(record) => map.serialize_entry(name, &Canonical(record))?,
                Node::List(list) if list.missing().is_some() => map.serialize_entry(name, &())?,
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
