//! A value as a report has it. Two are the same where nothing of them differs, however they are rounded for people:
//! disks of two sizes are not alike because both are 3.64 TiB.

use std::{
    cmp::Ordering,
    hash::{Hash, Hasher},
};

use serde::{Serialize, Serializer};
use serde_json::Value;
use tectum_report::{declare::AnyFact, leaf::Unit};

/// A value with its unit; written as the JSON that a report has.
#[derive(Debug, Clone)]
pub struct Exact {
    json: Value,
    text: String,
    unit: Option<&'static Unit>,
}

impl Exact {
    /// That of a fact, if it is known.
    pub fn of(fact: &dyn AnyFact) -> Option<Self> {
        Some(Self { json: fact.json()?, text: fact.text()?, unit: fact.leaf_shape().unit })
    }

    /// What is no value of a report, in a word.
    pub(crate) fn word(word: &str) -> Self {
        Self { json: word.into(), text: word.to_owned(), unit: None }
    }

    /// As a report has it.
    pub fn json(&self) -> &Value {
        &self.json
    }

    /// As `get` prints it: whole numbers of the unit, numbers of CPUs as ranges.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The unit of a quantity.
    pub fn unit(&self) -> Option<&'static Unit> {
        self.unit
    }

    /// What makes it itself.
    fn key(&self) -> (&str, Option<&'static str>) {
        (&self.text, self.unit.map(|unit| unit.name))
    }
}

impl PartialEq for Exact {
    fn eq(&self, other: &Self) -> bool {
        self.key() == other.key()
    }
}

impl Eq for Exact {}

impl Hash for Exact {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.key().hash(state);
    }
}

impl Ord for Exact {
    /// Numbers by what they are, before texts.
    fn cmp(&self, other: &Self) -> Ordering {
        let number = |one: &Self| one.json.as_number().and_then(serde_json::Number::as_i128);
        let by_number = match (number(self), number(other)) {
            (Some(one), Some(other)) => one.cmp(&other),
            (one, other) => other.is_some().cmp(&one.is_some()),
        };
        by_number.then_with(|| self.key().cmp(&other.key()))
    }
}

impl PartialOrd for Exact {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Serialize for Exact {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.json.serialize(serializer)
    }
}
