//! Tests that a value is held against: `>= 4TB`, `= yes`, `~ *harbour*`.

use std::cmp::Ordering;

use globset::{GlobBuilder, GlobMatcher};
use serde_json::Value;

use super::{amount::amount, nearest::nearest_name};
use crate::leaf::{JsonForm, LeafShape};

/// Of so many words one that is mistyped is found by looking at them all.
const MANY: usize = 12;

/// How a value is held against another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Comparator {
    /// The same.
    Equal,
    /// Another.
    Unequal,
    /// Less.
    Less,
    /// Less, or the same.
    AtMost,
    /// More.
    More,
    /// More, or the same.
    AtLeast,
    /// Like a pattern with wildcards, whatever the case.
    Like,
}

impl Comparator {
    /// The one that a sign stands for.
    pub(super) fn of_sign(sign: &str) -> Self {
        match sign {
            "=" => Self::Equal,
            "!=" => Self::Unequal,
            "<" => Self::Less,
            "<=" => Self::AtMost,
            ">" => Self::More,
            ">=" => Self::AtLeast,
            _ => Self::Like,
        }
    }
}

/// A test: how, and against what.
#[derive(Debug, Clone)]
pub struct Test {
    by: Comparator,
    value: String,
    pattern: Option<GlobMatcher>,
}

impl Test {
    /// A test against a text as a person writes it, with units of the trade.
    ///
    /// # Errors
    /// What is wrong with a pattern, in words.
    pub fn new(by: Comparator, value: String) -> Result<Self, String> {
        let pattern = match by {
            Comparator::Like => Some(
                GlobBuilder::new(&value)
                    .case_insensitive(true)
                    .build()
                    .map_err(|error| error.kind().to_string())?
                    .compile_matcher(),
            ),
            _ => None,
        };
        Ok(Self { by, value, pattern })
    }

    /// What a value is held against.
    pub fn value(&self) -> &str {
        &self.value
    }

    /// Whether values of a field can be held against this one.
    ///
    /// # Errors
    /// What is wrong, in words.
    pub fn check(&self, field: &str, leaf: LeafShape) -> Result<(), String> {
        let leaf = element(leaf);
        match (self.by, leaf.form) {
            (Comparator::Like, _)
            | (_, JsonForm::String | JsonForm::Formatted(_) | JsonForm::Pattern(_)) => Ok(()),
            (Comparator::Equal | Comparator::Unequal, JsonForm::Code(codes))
                if codes.iter().any(|(code, _)| *code == self.value) =>
            {
                Ok(())
            }
            (_, JsonForm::Code(codes)) => {
                let all: Vec<&str> = codes.iter().map(|(code, _)| *code).collect();
                // Nobody reads thirty of them to find a letter that is wrong.
                match nearest_name(&self.value, all.iter().copied()).filter(|_| all.len() > MANY) {
                    Some(near) => {
                        Err(format!("{field:?} is never {:?}; the nearest is {near:?}", self.value))
                    }
                    None => Err(format!("{field:?} is one of {}", all.join(", "))),
                }
            }
            (_, JsonForm::Boolean) => match (truth(&self.value), self.by) {
                (Some(_), Comparator::Equal | Comparator::Unequal) => Ok(()),
                _ => Err(format!("{field:?} is yes or no, and nothing else")),
            },
            _ if amount(&self.value, leaf.unit).is_some() => Ok(()),
            _ => Err(format!(
                "{:?} is no {} that {field:?} can be compared with",
                self.value,
                leaf.unit.map_or("number", |unit| unit.name),
            )),
        }
    }

    /// Whether a value passes.
    pub fn holds(&self, value: &Value, leaf: LeafShape) -> bool {
        self.passes(value, element(leaf))
    }

    fn passes(&self, value: &Value, leaf: LeafShape) -> bool {
        match (value, &self.pattern) {
            // Of a list one is enough; that it is unequal holds of all.
            (Value::Array(items), _) if self.by == Comparator::Unequal => {
                items.iter().all(|item| self.passes(item, leaf))
            }
            (Value::Array(items), _) => items.iter().any(|item| self.passes(item, leaf)),
            (Value::String(text), Some(glob)) => glob.is_match(text),
            (other, Some(glob)) => glob.is_match(other.to_string()),
            (value, None) => self.compare(value, leaf).is_some_and(|order| match self.by {
                Comparator::Equal => order.is_eq(),
                Comparator::Unequal => order.is_ne(),
                Comparator::Less => order.is_lt(),
                Comparator::AtMost => order.is_le(),
                Comparator::More => order.is_gt(),
                Comparator::AtLeast => order.is_ge(),
                Comparator::Like => false,
            }),
        }
    }

    /// How a value compares with the test's.
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
pub fn texts(one: &str, other: &str) -> Ordering {
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
}
