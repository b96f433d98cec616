//! What a person calls a part.

use crate::{
    declare::{AnyFact, Record, fact_at},
    leaf::{Scale, Unit, in_large_units},
};

/// The known values of some fields, as people would read them.
pub(super) fn joined(record: &dyn Record, fields: &[usize]) -> Option<String> {
    let known: Vec<String> = fields
        .iter()
        .filter_map(|field| read(fact_at(record, *field)?))
        .filter(|text| !text.is_empty())
        .collect();
    (!known.is_empty()).then(|| known.join(", "))
}

/// A value as people read it: an amount of data or another quantity with its unit.
pub fn read(fact: &dyn AnyFact) -> Option<String> {
    let number = fact.json().and_then(|json| json.as_i64());
    number.and_then(|number| in_units(number, fact.leaf_shape().unit)).or_else(|| fact.text())
}

/// A number as people read it, with its unit; nothing where it has none.
pub(crate) fn in_units(number: i64, unit: Option<&Unit>) -> Option<String> {
    match unit?.scale {
        Scale::Data => Some(data(number)),
        Scale::Symbol(symbol, per) => {
            Some(format!("{} {symbol}", in_large_units(number.into(), per)).trim_end().to_owned())
        }
        _ => None,
    }
}

/// An amount of data in powers of 1024.
pub(crate) fn data(bytes: i64) -> String {
    let names = ["bytes", "KiB", "MiB", "GiB", "TiB", "PiB", "EiB"];
    let steps = (bytes.unsigned_abs().max(1).ilog2() / 10) as usize;
    let name = names.get(steps).copied().unwrap_or("EiB");
    format!("{} {name}", in_large_units(bytes.into(), 1 << (10 * steps.min(6))))
}

/// What makes a part itself, as people would say it: rather model and serial number than a World
/// Wide Name.
pub(super) fn identity(record: &dyn Record) -> Option<String> {
    let whole = |fields: &[usize]| {
        fields.iter().all(|field| fact_at(record, *field).is_some_and(|fact| fact.json().is_some()))
    };
    let known: Vec<&[usize]> = record
        .shape()
        .identity
        .iter()
        .map(|identity| identity.fields)
        .filter(|fields| whole(fields))
        .collect();
    let fields = known.iter().find(|fields| fields.len() > 1).or_else(|| known.first())?;
    joined(record, fields)
}

/// The kernel's own name for a part.
pub(super) fn name(record: &dyn Record) -> Option<String> {
    record.shape().names.iter().find_map(|field| fact_at(record, *field).and_then(AnyFact::text))
}

/// What a person calls a part: its kind, its name or place, and in parentheses what its owner calls
/// it.
pub fn label(record: &dyn Record) -> String {
    let shape = record.shape();
    let called = shape.called.iter().find_map(|field| {
        fact_at(record, *field).and_then(AnyFact::text).filter(|text| !text.is_empty())
    });
    let short = name(record).or_else(|| joined(record, shape.place)).or_else(|| identity(record));
    match (short, called) {
        (Some(short), Some(called)) if called != short => {
            format!("{} {short} ({called})", shape.noun)
        }
        (Some(one), _) | (None, Some(one)) => format!("{} {one}", shape.noun),
        (None, None) => shape.noun.to_owned(),
    }
}
