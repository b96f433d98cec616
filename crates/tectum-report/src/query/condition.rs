//! Conditions on the fields of a part: `size>=4TB`, `rotating=yes`, `model~*harbour*`.

use std::cmp::Ordering;

use globset::{GlobBuilder, GlobMatcher};
use serde_json::Value;

use super::amount::amount;
use crate::{
    declare::{Kind, Record, Shape, fact_at},
    fact::{Gap, Why},
    leaf::{JsonForm, LeafShape},
};

/// A condition.
#[derive(Debug, Clone)]
pub(super) struct Condition {
    field: String,
    test: Test,
    value: String,
}

#[derive(Debug, Clone)]
enum Test {
    Equal,
    Unequal,
    Less,
    AtMost,
    More,
    AtLeast,
    /// Like a pattern with wildcards, whatever the case.
    Like(GlobMatcher),
}

/// What a part says of a condition.
pub(super) enum Verdict<'a> {
    /// It is met.
    Met,
    /// It is not.
    NotMet,
    /// The field's value is missing.
    NotKnown(&'static str, &'a Gap),
}

/// Signs of tests, the longer before those they begin with.
const SIGNS: [&str; 7] = ["!=", "<=", ">=", "=", "<", ">", "~"];

impl Condition {
    /// Reads a condition.
    ///
    /// # Errors
    /// What is wrong with it, in words.
    pub(super) fn read(text: &str) -> Result<Self, String> {
        let found = SIGNS.iter().filter_map(|sign| Some((text.find(sign)?, *sign)));
        let (at, sign) =
            found.min_by_key(|(at, sign)| (*at, usize::MAX - sign.len())).ok_or_else(|| {
                format!("{text:?} is no condition: it has none of {}", SIGNS.join(" "))
            })?;
        let (field, rest) = text.split_at(at);
        let value = rest.get(sign.len()..).unwrap_or_default().trim();
        let value = match value.strip_prefix('"').and_then(|rest| rest.strip_suffix('"')) {
            Some(quoted) => quoted.replace("\\\"", "\"").replace("\\\\", "\\"),
            None => value.to_owned(),
        };
        let field = field.trim().to_owned();
        if field.is_empty() {
            return Err(format!("{text:?} is no condition: it names no field"));
        }
        let test = match sign {
            "=" => Test::Equal,
            "!=" => Test::Unequal,
            "<" => Test::Less,
            "<=" => Test::AtMost,
            ">" => Test::More,
            ">=" => Test::AtLeast,
            _ => Test::Like(
                GlobBuilder::new(&value)
                    .case_insensitive(true)
                    .build()
                    .map_err(|error| error.kind().to_string())?
                    .compile_matcher(),
            ),
        };
        Ok(Self { field, test, value })
    }

    /// Whether parts of a shape have its field.
    pub(super) fn is_of(&self, shape: &Shape) -> bool {
        shape.field_called(&self.field).is_some()
    }

    /// Whether parts of a shape have such a field, and whether its values can be held against this one.
    ///
    /// # Errors
    /// What is wrong, in words.
    pub(super) fn check(&self, shape: &'static Shape) -> Result<(), String> {
        let field = shape
            .field_called(&self.field)
            .and_then(|index| shape.fields.get(index))
            .ok_or_else(|| format!("a {} has no field {:?}", shape.noun, self.field))?;
        let Kind::Leaf(leaf) = field.kind else {
            return Err(format!("{:?} of a {} is no value", self.field, shape.noun));
        };
        let leaf = element(leaf);
        match (&self.test, leaf.form) {
            (Test::Like(_), _)
            | (_, JsonForm::String | JsonForm::Formatted(_) | JsonForm::Pattern(_)) => Ok(()),
            (Test::Equal | Test::Unequal, JsonForm::Code(codes))
                if codes.iter().any(|(code, _)| *code == self.value) =>
            {
                Ok(())
            }
            (_, JsonForm::Code(codes)) => {
                let all: Vec<&str> = codes.iter().map(|(code, _)| *code).collect();
                Err(format!("{:?} is one of {}", self.field, all.join(", ")))
            }
            (_, JsonForm::Boolean) => match (truth(&self.value), &self.test) {
                (Some(_), Test::Equal | Test::Unequal) => Ok(()),
                _ => Err(format!("{:?} is yes or no, and nothing else", self.field)),
            },
            _ if amount(&self.value, leaf.unit).is_some() => Ok(()),
            _ => Err(format!(
                "{:?} is no {} that {:?} can be compared with",
                self.value,
                leaf.unit.map_or("number", |unit| unit.name),
                self.field
            )),
        }
    }

    /// What a part says of it.
    pub(super) fn judge<'a>(&self, record: &'a dyn Record) -> Verdict<'a> {
        let shape = record.shape();
        let Some(index) = shape.field_called(&self.field) else { return Verdict::NotMet };
        let Some(fact) = fact_at(record, index) else { return Verdict::NotMet };
        match (fact.json(), fact.missing()) {
            (Some(value), _) => match self.holds(&value, element(fact.leaf_shape())) {
                true => Verdict::Met,
                false => Verdict::NotMet,
            },
            // What a part cannot have meets nothing.
            (None, Some(gap)) if gap.why == Why::NotApplicable => Verdict::NotMet,
            (None, Some(gap)) => {
                Verdict::NotKnown(shape.fields.get(index).map_or("", |field| field.name), gap)
            }
            (None, None) => Verdict::NotMet,
        }
    }

    fn holds(&self, value: &Value, leaf: LeafShape) -> bool {
        match (value, &self.test) {
            // Of a list one is enough; that it is unequal holds of all.
            (Value::Array(items), Test::Unequal) => items.iter().all(|item| self.holds(item, leaf)),
            (Value::Array(items), _) => items.iter().any(|item| self.holds(item, leaf)),
            (value, Test::Like(glob)) => match value {
                Value::String(text) => glob.is_match(text),
                other => glob.is_match(other.to_string()),
            },
            (value, test) => match (self.compare(value, leaf), test) {
                (Some(order), Test::Equal) => order.is_eq(),
                (Some(order), Test::Unequal) => order.is_ne(),
                (Some(order), Test::Less) => order.is_lt(),
                (Some(order), Test::AtMost) => order.is_le(),
                (Some(order), Test::More) => order.is_gt(),
                (Some(order), Test::AtLeast) => order.is_ge(),
                (None, _) | (_, Test::Like(_)) => false,
            },
        }
    }

    /// How a value compares with the condition's.
    fn compare(&self, value: &Value, leaf: LeafShape) -> Option<Ordering> {
        match value {
            Value::Bool(own) => Some(own.cmp(&truth(&self.value)?)),
            Value::String(own) => Some(texts(own, &self.value)),
            Value::Number(own) => {
                let own = own.as_i64().map(i128::from).or(own.as_u64().map(i128::from))?;
                amount(&self.value, leaf.unit)?.compare(own, leaf.unit)
            }
            _ => None,
        }
    }
}

/// The shape of a list's elements, or of a single value.
fn element(leaf: LeafShape) -> LeafShape {
    match leaf.form {
        JsonForm::Set(inner) | JsonForm::Series(inner) => {
            LeafShape { unit: inner.unit.or(leaf.unit), ..*inner }
        }
        _ => leaf,
    }
}

/// `yes`, `no`, `true`, `false`.
fn truth(text: &str) -> Option<bool> {
    match text {
        "yes" | "true" => Some(true),
        "no" | "false" => Some(false),
        _ => None,
    }
}

/// Texts in the order in which people count: numbers in them as numbers, so that 5.10 comes behind 5.9.
fn texts(one: &str, other: &str) -> Ordering {
    let (mut one, mut other) = (one, other);
    loop {
        let (first, rest) = chunk(one);
        let (second, left) = chunk(other);
        let order = match (number(first), number(second)) {
            (Some(a), Some(b)) => a.cmp(&b).then(first.cmp(second)),
            _ => first.cmp(second),
        };
        if order.is_ne() || (first.is_empty() && second.is_empty()) {
            return order;
        }
        (one, other) = (rest, left);
    }
}

/// The leading digits, or what stands before the next digit.
fn chunk(text: &str) -> (&str, &str) {
    let digits = text.starts_with(|c: char| c.is_ascii_digit());
    let end = text.find(|c: char| c.is_ascii_digit() != digits).unwrap_or(text.len());
    text.split_at(end)
}

fn number(text: &str) -> Option<u128> {
    text.parse().ok()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("5.9", "5.10", Ordering::Less)]
    #[case("6.1.0-13", "6.1.0-13", Ordering::Equal)]
    #[case("6.1.0-9-amd64", "6.1.0-13-amd64", Ordering::Less)]
    #[case("2026-01-31", "2025-12-01", Ordering::Greater)]
    #[case("sda", "sdaa", Ordering::Less)]
    #[case("1", "01", Ordering::Greater)]
    #[case("", "a", Ordering::Less)]
    fn texts_are_ordered_as_people_count(
        #[case] one: &str,
        #[case] other: &str,
        #[case] expected: Ordering,
    ) {
        assert_eq!(texts(one, other), expected);
        assert_eq!(texts(other, one), expected.reverse());
    }

    #[rstest]
    #[case("size>=4TB", "size", "4TB")]
    #[case(" model != \"a = b\" ", "model", "a = b")]
    #[case("label=\"say \\\"x\\\"\"", "label", "say \"x\"")]
    fn conditions_are_read(#[case] text: &str, #[case] field: &str, #[case] value: &str) {
        let read = Condition::read(text).unwrap();
        assert_eq!((read.field.as_str(), read.value.as_str()), (field, value));
    }

    #[rstest]
    #[case("size")]
    #[case("=4")]
    #[case("")]
    fn what_is_no_condition(#[case] text: &str) {
        assert!(Condition::read(text).is_err());
    }
}
