//! Sentences with a code: rules, answers and hints, each said once and referred to by its code.

use std::{borrow::Cow, collections::BTreeMap, fmt, sync::Arc};

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::{
    Deserialize, Deserializer, Serialize, Serializer,
    de::{self, MapAccess, Visitor},
    ser::SerializeMap,
};

/// A sentence of Tectum's, by its code. In a report the code stands where it is said, and the
/// sentence once in the table `meanings`.
///
/// A report holds tens of thousands of them, so a sentence is a reference to where it stands in the
/// program, made by [`saying!`](crate::fact::saying).
#[derive(Clone)]
pub struct Saying(Said);

#[derive(Clone)]
enum Said {
    /// A sentence of this program, as it stands.
    Plain(&'static Sentence),
    /// A sentence of this program with a detail, or one that was read from a report.
    Whole(Arc<Whole>),
}

/// A sentence and its code, as they stand in the program.
#[derive(Debug)]
pub struct Sentence {
    /// The code: lower-case words and hyphens.
    pub code: &'static str,
    /// The sentence, in which `{}` stands for the detail.
    pub words: &'static str,
}

#[derive(Clone)]
struct Whole {
    code: Cow<'static, str>,
    words: Cow<'static, str>,
    detail: Option<Arc<str>>,
}

/// A [`Saying`] of a code and a sentence, in which `{}` stands for the detail.
#[macro_export]
macro_rules! saying {
    ($code:literal, $words:literal $(,)?) => {{
        // One for the whole program, however often it is meant.
        static SENTENCE: $crate::fact::Sentence =
            $crate::fact::Sentence { code: $code, words: $words };
        $crate::fact::Saying::of(&SENTENCE)
    }};
}
pub use saying;

impl Saying {
    /// A sentence that stands in the program.
    pub const fn of(sentence: &'static Sentence) -> Self {
        Self(Said::Plain(sentence))
    }

    /// The same sentence with what it is said of here.
    pub fn with(self, detail: impl Into<Arc<str>>) -> Self {
        let (code, words) = match self.0 {
            Said::Plain(Sentence { code, words }) => (Cow::Borrowed(*code), Cow::Borrowed(*words)),
            Said::Whole(whole) => (whole.code.clone(), whole.words.clone()),
        };
        Self(Said::Whole(Arc::new(Whole { code, words, detail: Some(detail.into()) })))
    }

    /// One that a report holds; its sentence is looked up in the report's table.
    pub(crate) fn read(code: String, detail: Option<Arc<str>>) -> Self {
        let words = Cow::Owned(code.clone());
        Self(Said::Whole(Arc::new(Whole { code: Cow::Owned(code), words, detail })))
    }

    /// The code.
    pub fn code(&self) -> &str {
        match &self.0 {
            Said::Plain(sentence) => sentence.code,
            Said::Whole(whole) => &whole.code,
        }
    }

    /// The sentence, in which `{}` stands for the detail.
    pub fn words(&self) -> &str {
        match &self.0 {
            Said::Plain(sentence) => sentence.words,
            Said::Whole(whole) => &whole.words,
        }
    }

    /// What it is said of here.
    pub fn detail(&self) -> Option<&str> {
        match &self.0 {
            Said::Plain(_) => None,
            Said::Whole(whole) => whole.detail.as_deref(),
        }
    }

    /// The same without what it is said of, which may hold a machine's own words.
    pub(crate) fn without_detail(&mut self) {
        if self.detail().is_some() {
            *self = self.clone().with("…");
        }
    }

    /// Takes the sentence from a report's table; a code that is not in it stands for itself.
    pub(crate) fn look_up(&mut self, meanings: &BTreeMap<String, String>) {
        if let Some(words) = meanings.get(self.code()) {
            self.say(words.clone());
        }
    }

    /// Takes a sentence, where it has none of its own.
    pub(crate) fn say(&mut self, words: String) {
        if let Said::Whole(whole) = &mut self.0 {
            Arc::make_mut(whole).words = Cow::Owned(words);
        }
    }
}

impl PartialEq for Saying {
    fn eq(&self, other: &Self) -> bool {
        (self.code(), self.words(), self.detail()) == (other.code(), other.words(), other.detail())
    }
}

impl Eq for Saying {}

impl fmt::Debug for Saying {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {self}", self.code())
    }
}

impl fmt::Display for Saying {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let words = self.words();
        match (words.split_once("{}"), self.detail()) {
            (Some((before, after)), Some(detail)) => write!(f, "{before}{detail}{after}"),
            (None, Some(detail)) => write!(f, "{words}: {detail}"),
            (_, None) => f.write_str(words),
        }
    }
}

impl Serialize for Saying {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self.detail() {
            None => serializer.serialize_str(self.code()),
            Some(detail) => {
                let mut map = serializer.serialize_map(Some(2))?;
                map.serialize_entry("code", self.code())?;
                map.serialize_entry("detail", detail)?;
                map.end()
            }
        }
    }
}

/// Reads either form of a saying.
struct Reader;

impl<'de> Visitor<'de> for Reader {
    type Value = Saying;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a code, or an object of a code and a detail")
    }

    fn visit_str<E: de::Error>(self, code: &str) -> Result<Saying, E> {
        Ok(Saying::read(code.to_owned(), None))
    }

    fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<Saying, A::Error> {
        #[derive(Deserialize)]
        struct WithDetail {
            code: String,
            detail: String,
        }
        let WithDetail { code, detail } =
            WithDetail::deserialize(de::value::MapAccessDeserializer::new(map))?;
        Ok(Saying::read(code, Some(detail.into())))
    }
}

impl<'de> Deserialize<'de> for Saying {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_any(Reader)
    }
}

impl JsonSchema for Saying {
    fn schema_name() -> Cow<'static, str> {
        "Saying".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({
            "description": "A code of the table `meanings`, with what it is said of here.",
            "oneOf": [
                { "type": "string" },
                {
                    "type": "object",
                    "required": ["code", "detail"],
                    "properties": {
                        "code": { "type": "string" },
                        "detail": { "type": "string" },
                    },
                },
            ],
        })
    }
}
