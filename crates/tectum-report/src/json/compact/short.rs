//! What has a short form and a long one, read: a tree of each would be built and dropped to try one after the other,
//! and a report holds thousands.

use std::{borrow::Cow, fmt};

use serde::{
    Deserialize, Deserializer,
    de::{Error, IgnoredAny, MapAccess, SeqAccess, Visitor},
};

use super::{Said, Source};

/// A number as it counts entries.
fn number<E: Error>(number: u64) -> Result<usize, E> {
    usize::try_from(number).map_err(|_| E::custom("no table has so many entries"))
}

impl<'de> Deserialize<'de> for Source<'_> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl<'de> Visitor<'de> for Reader {
            type Value = Source<'static>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a folder's number, or that and a name")
            }

            fn visit_u64<E: Error>(self, folder: u64) -> Result<Self::Value, E> {
                number(folder).map(Source::Whole)
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Self::Value, A::Error> {
                let lacks = |at| A::Error::invalid_length(at, &self);
                let folder = list.next_element()?.ok_or_else(|| lacks(0))?;
                let name: String = list.next_element()?.ok_or_else(|| lacks(1))?;
                Ok(Source::Within(folder, Cow::Owned(name)))
            }
        }
        deserializer.deserialize_any(Reader)
    }
}

impl<'de> Deserialize<'de> for Said {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl<'de> Visitor<'de> for Reader {
            type Value = Said;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a number, or a number as `of_next`")
            }

            fn visit_u64<E: Error>(self, said: u64) -> Result<Said, E> {
                number(said).map(Said::Plain)
            }

            fn visit_map<A: MapAccess<'de>>(self, mut members: A) -> Result<Said, A::Error> {
                let mut of_next = None;
                while let Some(name) = members.next_key::<Cow<'_, str>>()? {
                    match &*name {
                        "of_next" => of_next = Some(members.next_value()?),
                        _ => drop(members.next_value::<IgnoredAny>()?),
                    }
                }
                let of_next = of_next.ok_or_else(|| A::Error::missing_field("of_next"))?;
                Ok(Said::OfNext { of_next })
            }
        }
        deserializer.deserialize_any(Reader)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    proptest! {
        #[test]
        fn what_is_written_is_read(number: u32, text in ".{0,6}", long: bool) {
            let number = number as usize;
            let text: Cow<'_, str> = Cow::Owned(text);
            let (source, said) = match long {
                true => (
                    Source::Within(number, text),
                    Said::OfNext { of_next: number },
                ),
                false => (Source::Whole(number), Said::Plain(number)),
            };
            let written = |value: serde_json::Result<String>| value.unwrap();
            let own = written(serde_json::to_string(&source));
            prop_assert_eq!(serde_json::from_str::<Source<'_>>(&own).unwrap(), source);
            let own = written(serde_json::to_string(&said));
            prop_assert_eq!(serde_json::from_str::<Said>(&own).unwrap(), said);
        }
    }

    #[rstest]
    #[case("-1")]
    #[case("1.5")]
    #[case("[1]")]
    #[case("[1, \"a\", 2]")]
    #[case("[\"a\", 1]")]
    #[case("{}")]
    #[case("null")]
    fn what_is_neither_is_refused(#[case] text: &str) {
        assert!(serde_json::from_str::<Source<'_>>(text).is_err());
        assert!(serde_json::from_str::<Said>(text).is_err());
    }
}
