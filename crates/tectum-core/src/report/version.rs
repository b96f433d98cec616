//! The version of the report's form.

use std::{fmt, str::FromStr};

/// The word that names the form.
pub const FORMAT: &str = "tectum-report";

/// The version that is written.
///
/// * 1.0: the first.
pub const CURRENT: FormatVersion = FormatVersion { major: 1, minor: 0 };

/// A version of the report's form: a new major one changes what is there, a new minor one only
/// adds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct FormatVersion {
    /// Major version.
    pub major: u32,
    /// Minor version.
    pub minor: u32,
}

/// Whether a report of some version can be read.
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
    /// Whether this Tectum can read a report of this version.
    pub fn readable(self) -> Readable {
        if self.major != CURRENT.major {
            Readable::No
        } else if self.minor > CURRENT.minor {
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
        let (major, minor) = text.split_once('.').ok_or(())?;
        Ok(Self { major: major.parse().map_err(|_| ())?, minor: minor.parse().map_err(|_| ())? })
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
    #[case("one.two", None)]
    fn newer_minor_versions_are_read_and_other_major_ones_refused(
        #[case] text: &str,
        #[case] readable: Option<Readable>,
    ) {
        assert_eq!(text.parse::<FormatVersion>().ok().map(FormatVersion::readable), readable);
    }
}
