//! Sentences with a code: rules, answers and hints, each said once and referred to by its code.

use std::{borrow::Cow, collections::BTreeMap, fmt, sync::Arc};

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::{Deserialize, Deserializer, Serialize, Serializer, ser::SerializeMap};

/// A sentence of Tectum's, by its code. In a report the code stands where it is said, and the
/// sentence once in the table `meanings`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Saying {
    code: Cow<'static, str>,
    /// The sentence, in which `{}` stands for the detail.
    words: Cow<'static, str>,
    detail: Option<Arc<str>>,
}

impl Saying {
    /// A sentence and its code.
    pub const fn new(code: &'static str, words: &'static str) -> Self {
        Self { code: Cow::Borrowed(code), words: Cow::Borrowed(words), detail: None }
    }

    /// The same sentence with what it is said of here.
    pub fn with(mut self, detail: impl Into<Arc<str>>) -> Self {
        self.detail = Some(detail.into());
        self
    }

    /// The code.
    pub fn code(&self) -> &str {
        &self.code
    }

    /// The sentence, in which `{}` stands for the detail.
    pub fn words(&self) -> &str {
        &self.words
    }

    /// What it is said of here.
    pub fn detail(&self) -> Option<&str> {
        self.detail.as_deref()
    }

    /// The same without what it is said of, which may hold a machine's own words.
    pub(crate) fn without_detail(&mut self) {
        if self.detail.is_some() {
            self.detail = Some("…".into());
        }
    }

    /// Takes the sentence from a report's table; a code that is not in it stands for itself.
    pub(crate) fn look_up(&mut self, meanings: &BTreeMap<String, String>) {
        if let Some(words) = meanings.get(&*self.code) {
            self.words = Cow::Owned(words.clone());
        }
    }
}

impl fmt::Display for Saying {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match (self.words.split_once("{}"), &self.detail) {
            (Some((before, after)), Some(detail)) => write!(f, "{before}{detail}{after}"),
            (None, Some(detail)) => write!(f, "{}: {detail}", self.words),
            (_, None) => f.write_str(&self.words),
        }
    }
}

impl Serialize for Saying {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match &self.detail {
            None => serializer.serialize_str(&self.code),
            Some(detail) => {
                let mut map = serializer.serialize_map(Some(2))?;
                map.serialize_entry("code", &*self.code)?;
                map.serialize_entry("detail", &**detail)?;
                map.end()
            }
        }
    }
}

#[derive(Deserialize)]
#[serde(untagged, expecting = "expected a code, or an object of a code and a detail")]
enum Form {
    Code(String),
    WithDetail { code: String, detail: String },
}

impl<'de> Deserialize<'de> for Saying {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let (code, detail) = match Form::deserialize(deserializer)? {
            Form::Code(code) => (code, None),
            Form::WithDetail { code, detail } => (code, Some(detail.into())),
        };
        Ok(Self { words: Cow::Owned(code.clone()), code: Cow::Owned(code), detail })
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
