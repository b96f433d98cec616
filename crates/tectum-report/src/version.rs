//! The version of a written form: of reports, captures and comparisons alike.

use std::{borrow::Cow, fmt, str::FromStr};

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// A written form: the word that names it, and the version that is written.
#[derive(Debug, PartialEq, Eq)]
pub struct Format {
    /// The word in `format`.
    pub name: &'static str,
    /// The version that is written.
    pub current: FormatVersion,
}

/// Reports.
///
/// * 1.0: the first.
pub const REPORT: Format = Format { name: "tectum-report", current: FormatVersion::FIRST };

/// Captures.
///
/// * 1.0: the first.
pub const CAPTURE: Format = Format { name: "tectum-capture", current: FormatVersion::FIRST };

/// Comparisons.
///
/// * 1.0: the first.
pub const COMPARISON: Format = Format { name: "tectum-comparison", current: FormatVersion::FIRST };

/// What `check` found.
///
/// * 1.0: the first.
pub const CHECK: Format = Format { name: "tectum-check", current: FormatVersion::FIRST };

/// What `space` found.
///
/// * 1.0: the first.
pub const SPACE: Format = Format { name: "tectum-space", current: FormatVersion::FIRST };

/// One process.
///
/// * 1.0: the first.
pub const PROCESS: Format = Format { name: "tectum-process", current: FormatVersion::FIRST };

/// A version of a form: a new major one changes what is there, a new minor one only adds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct FormatVersion {
    /// Major version.
    pub major: u32,
    /// Minor version.
    pub minor: u32,
}

/// Whether something of some version can be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Readable {
    /// In full.
    Yes,
    /// But for what is new in it.
    ButForNews,
    /// No.
    No,
}

impl FormatVersion {
    const FIRST: Self = Self { major: 1, minor: 0 };
}

impl Format {
    /// Whether this Tectum can read the form in some version.
    pub fn readable(&self, version: FormatVersion) -> Readable {
        if version.major != self.current.major {
            Readable::No
        } else if version.minor > self.current.minor {
            Readable::ButForNews
        } else {
            Readable::Yes
        }
    }
}

impl fmt::Display for FormatVersion {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}.{}", self.major, self.minor)
    }
}

impl FromStr for FormatVersion {
    type Err = ();

    fn from_str(text: &str) -> Result<Self, ()> {
        let number = |text: &str| {
            let digits = !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
            if digits { text.parse().map_err(|_| ()) } else { Err(()) }
        };
        let (major, minor) = text.split_once('.').ok_or(())?;
        Ok(Self { major: number(major)?, minor: number(minor)? })
    }
}

impl Serialize for FormatVersion {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for FormatVersion {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let text = String::deserialize(deserializer)?;
        text.parse().map_err(|()| {
            serde::de::Error::custom(format!(
                "{text:?} is no version: two numbers with a point between"
            ))
        })
    }
}

impl JsonSchema for FormatVersion {
    fn schema_name() -> Cow<'static, str> {
        "FormatVersion".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({
            "type": "string",
            "pattern": "^[0-9]+\\.[0-9]+$",
            "description": "A newer major version changes what is there, a newer minor one adds.",
        })
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("1.0", Some(Readable::Yes))]
    #[case("1.7", Some(Readable::ButForNews))]
    #[case("2.0", Some(Readable::No))]
    #[case("0.9", Some(Readable::No))]
    #[case("1", None)]
    #[case("1.", None)]
    #[case("1.x", None)]
    #[case("+1.0", None)]
    #[case("one.two", None)]
    fn newer_minor_versions_are_read_and_other_major_ones_refused(
        #[case] text: &str,
        #[case] readable: Option<Readable>,
    ) {
        let version = text.parse::<FormatVersion>().ok();
        assert_eq!(version.map(|version| REPORT.readable(version)), readable);
    }
}
