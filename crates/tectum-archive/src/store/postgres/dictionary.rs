//! Names that stand in every observation: most of its text is these, and packed by them it takes two thirds.
//!
//! They are made of the model's declarations alone, so nothing of a machine stands in them, and kept in the database, so
//! that what one Tectum packed another unpacks.

use postgres::Transaction;
use serde_json::{Map, Value};
use tectum_report::{
    declare::{Kind, Record, Shape},
    model::{Machine, Readings},
};

use crate::written::OBSERVATION;

/// What observations are packed by: its number in the database, and the text.
pub(super) struct Dictionary {
    pub(super) number: i32,
    pub(super) content: Vec<u8>,
}

impl Dictionary {
    /// The one of this Tectum, put in if it is not there.
    pub(super) fn own(transaction: &mut Transaction<'_>) -> Result<Self, postgres::Error> {
        let content = names();
        let known = "SELECT number FROM tectum.dictionary WHERE content = $1";
        let row = match transaction.query_opt(known, &[&content])? {
            Some(row) => row,
            None => transaction.query_one(
                "INSERT INTO tectum.dictionary (content) VALUES ($1) RETURNING number",
                &[&content],
            )?,
        };
        Ok(Self { number: row.get(0), content })
    }
}

/// An observation of which nothing is known.
fn names() -> Vec<u8> {
    let taken = ["at", "tool", "subject", "privileged", "sections", "elapsed_ms"];
    let findings = ["critical", "warning", "notice"];
    let record = |names: &[&str]| -> Value {
        names.iter().map(|name| ((*name).to_owned(), Value::Null)).collect::<Map<_, _>>().into()
    };
    let mut all =
        record(&["format", "format_version", "number", "before", "saved_at", "state", "origins"]);
    if let Value::Object(all) = &mut all {
        all.insert("format".to_owned(), OBSERVATION.name.into());
        all.insert("taken".to_owned(), record(&taken));
        all.insert("machine".to_owned(), of(Machine::default().shape()));
        all.insert("readings".to_owned(), of(Readings::default().shape()));
        all.insert("findings".to_owned(), record(&findings));
    }
    serde_json::to_vec(&all).unwrap_or_default()
}

/// A record of which nothing is known, and of each list one part.
fn of(shape: &Shape) -> Value {
    let fields = shape.fields.iter().map(|field| {
        let value = match field.kind {
            Kind::Leaf(_) => Value::Null,
            Kind::Record(inner) | Kind::Optional(inner) => of(inner),
            Kind::List(inner) => Value::Array(vec![of(inner)]),
        };
        (field.name.to_owned(), value)
    });
    fields.collect::<Map<_, _>>().into()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_names_of_readings_stand_in_it() {
        let text = String::from_utf8(names()).unwrap();
        for name in ["available_bytes", "mount_point", "temperature_millicelsius", "hostname"] {
            assert!(text.contains(&format!("\"{name}\":null")), "{name} in {text}");
        }
    }
}
