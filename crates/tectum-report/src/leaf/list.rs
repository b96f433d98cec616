//! Lists of leaves.

use serde_json::Value;

use super::{JsonForm, Leaf, LeafShape, Redact, Whose};

impl<T: Leaf> Leaf for Vec<T> {
    const SHAPE: LeafShape =
        LeafShape { form: JsonForm::Set(&T::SHAPE), whose: T::SHAPE.whose, unit: T::SHAPE.unit };

    fn to_json(&self) -> Value {
        self.iter().map(Leaf::to_json).collect()
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_array()?.iter().map(T::from_json).collect()
    }

    fn to_text(&self) -> String {
        T::list_text(self)
    }

    fn redacted(&self, by: &dyn Redact) -> Self {
        let mut new: Self = self.iter().map(|item| item.redacted(by)).collect();
        // A set is told in the order of its texts: the old order would say something of the old ones.
        if matches!(T::SHAPE.whose, Whose::Owners(_)) {
            new.sort_by_key(Leaf::to_text);
        }
        new
    }
}

/// Values in a row, one for each part of another list; unlike a `Vec`, which is a set, their order
/// means something and they are never shortened to ranges.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Series<T>(pub Vec<T>);

impl<T: Leaf> Leaf for Series<T> {
    const SHAPE: LeafShape =
        LeafShape { form: JsonForm::Series(&T::SHAPE), whose: T::SHAPE.whose, unit: T::SHAPE.unit };

    fn to_json(&self) -> Value {
        self.0.iter().map(Leaf::to_json).collect()
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_array()?.iter().map(T::from_json).collect::<Option<_>>().map(Self)
    }

    fn to_text(&self) -> String {
        self.0.iter().map(Leaf::to_text).collect::<Vec<_>>().join(" ")
    }

    fn redacted(&self, by: &dyn Redact) -> Self {
        Self(self.0.iter().map(|item| item.redacted(by)).collect())
    }
}

/// Numbers in rising order with neighbours as ranges: `0-3,8`.
pub fn ranges(numbers: &[u64]) -> String {
    let mut text = String::new();
    let mut rest = numbers.iter().copied().peekable();
    while let Some(first) = rest.next() {
        let mut last = first;
        while let Some(next) = rest.next_if(|next| last.checked_add(1) == Some(*next)) {
            last = next;
        }
        if !text.is_empty() {
            text.push(',');
        }
        text.push_str(&first.to_string());
        if last != first {
            text.push('-');
            text.push_str(&last.to_string());
        }
    }
    text
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(&[], "")]
    #[case(&[4], "4")]
    #[case(&[0, 1, 2, 3, 8, 10, 11], "0-3,8,10-11")]
    #[case(&[u64::MAX - 1, u64::MAX], "18446744073709551614-18446744073709551615")]
    fn neighbours_stand_as_ranges(#[case] numbers: &[u64], #[case] text: &str) {
        assert_eq!(ranges(numbers), text);
    }
}
