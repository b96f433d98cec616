//! JSON as records are filled from it: names as they stand in the text, and members in their order. A report holds
//! tens of thousands of names, each known from a declaration; to copy and hash them takes longer than all the rest.

use std::{borrow::Cow, fmt};

use serde::{
    Deserialize, Deserializer,
    de::{DeserializeSeed, Error, MapAccess, SeqAccess, Visitor},
};
use serde_json::Value;

/// A piece of JSON.
#[derive(Debug)]
pub(super) enum Tree<'a> {
    /// A text, a number, a truth value, nothing, or a list of these.
    Leaf(Cow<'a, Value>),
    /// A list of records; any list without an element.
    List(Vec<Self>),
    /// An object.
    Record(Vec<(Cow<'a, str>, Self)>),
}

const EMPTY: Value = Value::Array(Vec::new());

impl<'a> Tree<'a> {
    /// An object without members.
    pub(super) const NOTHING: Self = Self::Record(Vec::new());

    /// What is no record and holds none.
    pub(super) fn leaf(&self) -> Option<Cow<'_, Value>> {
        match self {
            Self::Leaf(value) => Some(Cow::Borrowed(value)),
            Self::List(items) if items.is_empty() => Some(Cow::Owned(EMPTY)),
            Self::List(_) | Self::Record(_) => None,
        }
    }

    pub(super) fn is_null(&self) -> bool {
        matches!(self, Self::Leaf(value) if value.is_null())
    }

    /// A list, of elements that were read.
    pub(super) fn list(items: Vec<Self>) -> Self {
        let leaves = !items.is_empty() && items.iter().all(|item| matches!(item, Self::Leaf(_)));
        if !leaves {
            return Self::List(items);
        }
        let values = items.into_iter().filter_map(|item| match item {
            Self::Leaf(value) => Some(value.into_owned()),
            Self::List(_) | Self::Record(_) => None,
        });
        Self::Leaf(Cow::Owned(values.collect()))
    }
}

impl<'a> From<&'a Value> for Tree<'a> {
    fn from(value: &'a Value) -> Self {
        match value {
            Value::Object(members) => {
                let members = members.iter();
                Self::Record(members.map(|(name, one)| (name.into(), one.into())).collect())
            }
            Value::Array(items) if items.is_empty() || !items.iter().all(is_leaf) => {
                Self::List(items.iter().map(Self::from).collect())
            }
            leaf => Self::Leaf(Cow::Borrowed(leaf)),
        }
    }
}

/// Whether it is no record and holds none.
fn is_leaf(value: &Value) -> bool {
    match value {
        Value::Object(_) => false,
        Value::Array(items) => !items.is_empty() && items.iter().all(is_leaf),
        _ => true,
    }
}

impl From<Value> for Tree<'_> {
    fn from(leaf: Value) -> Self {
        Self::Leaf(Cow::Owned(leaf))
    }
}

impl<'de: 'a, 'a> Deserialize<'de> for Tree<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Like(0).deserialize(deserializer)
    }
}

/// A piece of JSON of which it is guessed how many members it has: as many as the one before it, which is mostly of the
/// same kind.
struct Like(usize);

impl<'de> DeserializeSeed<'de> for Like {
    type Value = Tree<'de>;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<Tree<'de>, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for Like {
    type Value = Tree<'de>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_unit<E: Error>(self) -> Result<Tree<'de>, E> {
        Ok(Value::Null.into())
    }

    fn visit_bool<E: Error>(self, truth: bool) -> Result<Tree<'de>, E> {
        Ok(Value::Bool(truth).into())
    }

    fn visit_u64<E: Error>(self, number: u64) -> Result<Tree<'de>, E> {
        Ok(Value::from(number).into())
    }

    fn visit_i64<E: Error>(self, number: i64) -> Result<Tree<'de>, E> {
        Ok(Value::from(number).into())
    }

    fn visit_f64<E: Error>(self, number: f64) -> Result<Tree<'de>, E> {
        Ok(Value::from(number).into())
    }

    fn visit_str<E: Error>(self, text: &str) -> Result<Tree<'de>, E> {
        Ok(Value::from(text).into())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Tree<'de>, A::Error> {
        let mut items = Vec::new();
        let mut members = 0;
        while let Some(item) = list.next_element_seed(Like(members))? {
            if let Tree::Record(own) = &item {
                members = own.len();
            }
            items.push(item);
        }
        Ok(Tree::list(items))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut object: A) -> Result<Tree<'de>, A::Error> {
        let Self(members) = self;
        let mut members = Vec::with_capacity(members);
        while let Some((Name(name), value)) = object.next_entry()? {
            members.push((name, value));
        }
        Ok(Tree::Record(members))
    }
}

/// A member's name, as it stands in the text if it can be.
pub(super) struct Name<'a>(pub(super) Cow<'a, str>);

impl<'de: 'a, 'a> Deserialize<'de> for Name<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl<'de> Visitor<'de> for Reader {
            type Value = Name<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a name")
            }

            fn visit_borrowed_str<E: Error>(self, name: &'de str) -> Result<Name<'de>, E> {
                Ok(Name(Cow::Borrowed(name)))
            }

            fn visit_str<E: Error>(self, name: &str) -> Result<Name<'de>, E> {
                Ok(Name(Cow::Owned(name.to_owned())))
            }
        }
        deserializer.deserialize_str(Reader)
    }
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;

    /// Of a text and of plain values one tree is made.
    #[test]
    fn both_ways_lead_to_one_tree() {
        let value = json!({
            "none": [], "texts": ["a", "b"], "parts": [{ "a": 1 }, {}], "lists": [[1], []],
            "of leaves": [[1], [2, null]], "mixed": [1, {}], "nothing": null, "no": false, "deep": { "a\n": -1.5 },
        });
        let text = serde_json::to_string(&value).unwrap();
        let read: Tree<'_> = serde_json::from_str(&text).unwrap();
        assert_eq!(format!("{read:?}"), format!("{:?}", Tree::from(&value)));
        let Tree::Record(members) = read else { panic!("{read:?}") };
        let leaves: Vec<&str> = members
            .iter()
            .filter(|(_, one)| one.leaf().is_some())
            .map(|(name, _)| &**name)
            .collect();
        assert_eq!(leaves, ["none", "texts", "of leaves", "nothing", "no"]);
    }
}
