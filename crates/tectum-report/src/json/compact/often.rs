//! What stands in a list as it stands in it, several times one after the other: it is said once, and behind it how often.
//! A sum over a thousand filesystems is from a thousand sources that are told alike.

use std::{fmt, iter, marker::PhantomData};

use schemars::JsonSchema;
use serde::{
    Deserialize, Deserializer, Serialize, Serializer,
    de::{self, SeqAccess, Visitor, value::SeqAccessDeserializer},
    ser::SerializeSeq,
};

/// Entries, each with how often it stands there, at least once.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(in crate::json) struct Often<T>(Vec<(T, u64)>);

/// An entry as it is written.
#[derive(Serialize)]
#[serde(untagged)]
enum Written<T> {
    /// An entry.
    Entry(T),
    /// How often the one before it stands there.
    Times(u64),
}

impl<T> Often<T> {
    /// The entries, each with how often it stands there.
    pub(super) fn runs(&self) -> impl Iterator<Item = (&T, u64)> {
        self.0.iter().map(|(entry, times)| (entry, *times))
    }

    /// How many there are, which may be claimed to be very many.
    pub(super) fn count(&self) -> usize {
        let all = self.0.iter().fold(0_u64, |all, (_, times)| all.saturating_add(*times));
        usize::try_from(all).unwrap_or(usize::MAX)
    }
}

impl<T: PartialEq> FromIterator<T> for Often<T> {
    fn from_iter<I: IntoIterator<Item = T>>(entries: I) -> Self {
        let mut runs: Vec<(T, u64)> = Vec::new();
        for entry in entries {
            match runs.last_mut() {
                Some((last, times)) if *last == entry => *times += 1,
                _ => runs.push((entry, 1)),
            }
        }
        Self(runs)
    }
}

impl<T: Serialize> Serialize for Often<T> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(None)?;
        for (entry, times) in self.runs() {
            // Twice the same is said as shortly.
            for entry in iter::repeat_n(entry, if times == 2 { 2 } else { 1 }) {
                list.serialize_element(&Written::Entry(entry))?;
            }
            if times > 2 {
                list.serialize_element(&Written::<T>::Times(times))?;
            }
        }
        list.end()
    }
}

impl<'de, T: Deserialize<'de>> Deserialize<'de> for Often<T> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader<T>(PhantomData<T>);
        impl<'de, T: Deserialize<'de>> Visitor<'de> for Reader<T> {
            type Value = Often<T>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a list, in which a number says how often what stands before it does")
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Often<T>, A::Error> {
                let mut runs: Vec<(T, u64)> = Vec::new();
                while let Some(next) = list.next_element::<Written<T>>()? {
                    match (next, runs.last_mut()) {
                        (Written::Entry(entry), _) => runs.push((entry, 1)),
                        (Written::Times(times @ 2..), Some((_, own @ 1))) => *own = times,
                        (Written::Times(_), _) => {
                            return Err(de::Error::custom(
                                "a number says how often nothing stands",
                            ));
                        }
                    }
                }
                Ok(Often(runs))
            }
        }
        deserializer.deserialize_seq(Reader(PhantomData))
    }
}

impl<'de, T: Deserialize<'de>> Deserialize<'de> for Written<T> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader<T>(PhantomData<T>);
        impl<'de, T: Deserialize<'de>> Visitor<'de> for Reader<T> {
            type Value = Written<T>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("an entry, or how often the one before it stands there")
            }

            fn visit_u64<E: de::Error>(self, times: u64) -> Result<Written<T>, E> {
                Ok(Written::Times(times))
            }

            fn visit_seq<A: SeqAccess<'de>>(self, list: A) -> Result<Written<T>, A::Error> {
                T::deserialize(SeqAccessDeserializer::new(list)).map(Written::Entry)
            }
        }
        deserializer.deserialize_any(Reader(PhantomData))
    }
}

impl<T: JsonSchema> JsonSchema for Often<T> {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        format!("Often{}", T::schema_name()).into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let entry = generator.subschema_for::<T>();
        schemars::json_schema!({
            "description": "Entries; a number behind one says how often it stands there.",
            "type": "array",
            "items": { "anyOf": [entry, { "type": "integer", "minimum": 2 }] },
        })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::none(&[], "[]")]
    #[case::one(&[7], "[[7]]")]
    #[case::twice(&[7, 7], "[[7],[7]]")]
    #[case::thrice(&[7, 7, 7, 8, 7], "[[7],3,[8],[7]]")]
    fn what_stands_there_often_is_said_once(#[case] entries: &[u8], #[case] expected: &str) {
        let often: Often<[u8; 1]> = entries.iter().map(|entry| [*entry]).collect();
        assert_eq!(serde_json::to_string(&often).unwrap(), expected);
    }

    #[rstest]
    #[case::of_nothing("[3]")]
    #[case::never("[[7], 0]")]
    #[case::once("[[7], 1]")]
    #[case::of_a_number("[[7], 3, 2]")]
    #[case::fewer_than_none("[[7], -3]")]
    #[case::no_entry("[\"a\"]")]
    #[case::no_list("7")]
    fn what_says_it_of_nothing_is_refused(#[case] text: &str) {
        assert!(serde_json::from_str::<Often<[u8; 1]>>(text).is_err());
    }

    #[test]
    fn what_claims_to_stand_there_very_often_costs_nothing() {
        let text = format!("[[1], {}, [2], {0}]", u64::MAX);
        let often: Often<[u8; 1]> = serde_json::from_str(&text).unwrap();
        assert_eq!(often.count(), usize::MAX);
        assert_eq!(often.runs().collect::<Vec<_>>(), [(&[1], u64::MAX), (&[2], u64::MAX)]);
    }

    proptest! {
        #[test]
        fn what_is_written_is_read(runs in prop::collection::vec((0..3_u8, 1..6_usize), 0..6)) {
            let entries: Vec<[u8; 1]> =
                runs.iter().flat_map(|(entry, times)| iter::repeat_n([*entry], *times)).collect();
            let often: Often<[u8; 1]> = entries.iter().copied().collect();
            prop_assert_eq!(often.count(), entries.len());
            let read: Often<[u8; 1]> =
                serde_json::from_str(&serde_json::to_string(&often).unwrap()).unwrap();
            let times = |times| usize::try_from(times).unwrap();
            let all: Vec<[u8; 1]> =
                read.runs().flat_map(|(entry, often)| iter::repeat_n(*entry, times(often))).collect();
            prop_assert_eq!(all, entries);
        }
    }
}
