//! Conditions on the fields of a part: `size>=4TB`, `rotating=yes`, `model~*harbour*`.

use super::{
    nearest::nearest_name,
    test::{Comparator, Test},
};
use crate::{
    declare::{Kind, Record, Shape, fact_at},
    fact::{Gap, Why},
};

/// A condition.
#[derive(Debug, Clone)]
pub(super) struct Condition {
    field: String,
    test: Test,
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
        let test = Test::new(Comparator::of_sign(sign), value)?;
        Ok(Self { field, test })
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
            .ok_or_else(|| self.no_field_of(shape))?;
        let Kind::Leaf(leaf) = field.kind else {
            return Err(format!("{:?} of {} is no value", self.field, with_article(shape.noun)));
        };
        self.test.check(&self.field, leaf)
    }

    fn no_field_of(&self, shape: &'static Shape) -> String {
        let values = shape.fields.iter().filter(|field| matches!(field.kind, Kind::Leaf(_)));
        let names = values.map(|field| field.short_name().unwrap_or(field.name));
        let nearest = nearest_name(&self.field, names);
        let nearest = nearest.map(|name| format!("; the nearest is {name:?}")).unwrap_or_default();
        format!("{} has no field {:?}{nearest}", with_article(shape.noun), self.field)
    }

    /// What a part says of it.
    pub(super) fn judge<'a>(&self, record: &'a dyn Record) -> Verdict<'a> {
        let shape = record.shape();
        let Some(index) = shape.field_called(&self.field) else { return Verdict::NotMet };
        let Some(fact) = fact_at(record, index) else { return Verdict::NotMet };
        match (fact.json(), fact.missing()) {
            (Some(value), _) => match self.test.holds(&value, fact.leaf_shape()) {
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
}

/// What such a part is called, as in "an enclosure".
fn with_article(noun: &str) -> String {
    let article = if noun.starts_with(['a', 'e', 'i', 'o']) { "an" } else { "a" };
    format!("{article} {noun}")
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("size>=4TB", "size", "4TB")]
    #[case(" model != \"a = b\" ", "model", "a = b")]
    #[case("label=\"say \\\"x\\\"\"", "label", "say \"x\"")]
    fn conditions_are_read(#[case] text: &str, #[case] field: &str, #[case] value: &str) {
        let read = Condition::read(text).unwrap();
        assert_eq!((read.field.as_str(), read.test.value()), (field, value));
    }

    #[rstest]
    #[case("size")]
    #[case("=4")]
    #[case("")]
    fn what_is_no_condition(#[case] text: &str) {
        assert!(Condition::read(text).is_err());
    }
}
