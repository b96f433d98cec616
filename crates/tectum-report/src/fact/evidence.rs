//! Where a value came from.

use std::{borrow::Cow, sync::Arc};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Saying, clip};

/// Where a value came from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Evidence {
    /// The file's path on the machine, or the system call (`uname(2)`).
    pub source: Arc<str>,
    /// Where in the source.
    #[serde(default, rename = "where", skip_serializing_if = "Option::is_none")]
    pub place: Option<Place>,
    /// How the value follows from what stands there.
    pub rule: Saying,
    /// What stands there, raw, at the most [`RAW_LIMIT`](super::RAW_LIMIT) bytes of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raw: Option<Arc<str>>,
    /// Whether the value was taken from here, or what else this source says of it.
    #[serde(default, skip_serializing_if = "Stance::is_gives")]
    pub stance: Stance,
}

/// Where in a source something stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Place {
    /// A line, counted from 1.
    Line(u64),
    /// Some bytes.
    Bytes {
        /// Where the first stands.
        offset: u32,
        /// How many.
        length: u32,
    },
    /// Some bytes of a structure of the firmware's tables.
    Structure {
        /// The structure's handle.
        handle: u16,
        /// Where the first byte stands within it.
        offset: u32,
        /// How many.
        length: u32,
    },
    /// A part of the source by its name: a field, a key, a link.
    Named(Cow<'static, str>),
}

impl Place {
    /// So many bytes from an offset on.
    pub fn bytes(offset: usize, length: usize) -> Self {
        Self::Bytes { offset: narrow(offset), length: narrow(length) }
    }

    /// So many bytes from an offset on, of the structure of a handle.
    pub fn structure(handle: u16, offset: usize, length: usize) -> Self {
        Self::Structure { handle, offset: narrow(offset), length: narrow(length) }
    }
}

/// What is read of a file ends far below 4 GiB.
fn narrow(number: usize) -> u32 {
    u32::try_from(number).unwrap_or(u32::MAX)
}

impl std::fmt::Display for Place {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let bytes = |length: &u32| if *length == 1 { "byte" } else { "bytes" };
        match self {
            Self::Line(number) => write!(f, "line {number}"),
            Self::Bytes { offset, length } => {
                write!(f, "offset 0x{offset:02X}, {length} {}", bytes(length))
            }
            Self::Structure { handle, offset, length } => {
                let unit = bytes(length);
                write!(f, "handle 0x{handle:04X}, offset 0x{offset:02X}, {length} {unit}")
            }
            Self::Named(name) => f.write_str(name),
        }
    }
}

impl From<&'static str> for Place {
    fn from(name: &'static str) -> Self {
        Self::Named(Cow::Borrowed(name))
    }
}

impl From<String> for Place {
    fn from(name: String) -> Self {
        Self::Named(Cow::Owned(name))
    }
}

/// What a source says of a value.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Stance {
    /// The value was taken from here.
    #[default]
    Gives,
    /// Another source, which says the same.
    Agrees,
    /// Another source, which says something else: this. It is rare, and evidence is much, so it takes
    /// no more room than a pointer.
    Differs(Box<Cow<'static, str>>),
}

impl Stance {
    /// Another source, which says something else.
    pub fn differs(says: impl Into<Cow<'static, str>>) -> Self {
        Self::Differs(Box::new(says.into()))
    }

    fn is_gives(&self) -> bool {
        *self == Self::Gives
    }
}

impl Evidence {
    /// A value read from `source` by `rule`.
    pub fn new(source: Arc<str>, rule: impl Into<Saying>) -> Self {
        Self { source, place: None, rule: rule.into(), raw: None, stance: Stance::Gives }
    }

    /// The same, with where in the source.
    pub fn place(mut self, place: impl Into<Place>) -> Self {
        self.place = Some(place.into());
        self
    }

    /// The same, with the line of the source, from 1.
    pub fn line(self, number: usize) -> Self {
        self.place(Place::Line(number as u64))
    }

    /// The same, with what stands there.
    pub fn raw(mut self, raw: &str) -> Self {
        self.raw = Some(clip(raw).into());
        self
    }

    /// The same, with what stands there and is the evidence of other values too.
    pub fn raw_shared(mut self, raw: &Arc<str>) -> Self {
        self.raw = Some(match raw.len() <= super::RAW_LIMIT {
            true => Arc::clone(raw),
            false => clip(raw).into(),
        });
        self
    }
}
