//! Where what stands in the folder of an archive.
//!
//! ```text
//! archive.json                         what the folder is
//! lock                                 held by who writes
//! index.sqlite                         made of the files, and made anew where it is missing
//! machines/KEY/states/DIGEST.json      inventories, each once
//! machines/KEY/origins/DIGEST.json     where the values of a section are from, each once
//! machines/KEY/observations/00000001-20261126T061621Z.json
//! machines/KEY/marks/NAME.json         names of observations
//! machines/KEY/last.json               the observation that was saved last
//! machines/KEY/removed.json            observations that their owner removed
//! ```
//!
//! Every JSON file may be packed, and then has `.zst` behind its name.

use std::path::{Path, PathBuf};

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use tectum_report::version::FormatVersion;

use super::disk::{PACKED, make_folder_within};
use crate::store::StoreError;

/// What the folder is, as `archive.json` says.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Is {
    pub(super) format: String,
    pub(super) format_version: FormatVersion,
}

/// The observation of a machine that was saved last, as `last.json` says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct Last {
    pub(super) number: u64,
    pub(super) digest: String,
}

pub(super) const ARCHIVE: &str = "archive.json";
pub(super) const LOCK: &str = "lock";
pub(super) const INDEX: &str = "index.sqlite";
pub(super) const MACHINES: &str = "machines";

/// The folder of a machine.
#[derive(Debug, Clone)]
pub(super) struct Machine(PathBuf);

impl Machine {
    pub(super) fn at(archive: &Path, key: &str) -> Self {
        Self(archive.join(MACHINES).join(key))
    }

    pub(super) fn folder(&self) -> &Path {
        &self.0
    }

    /// Makes the folders within it; they are on the disk once it is itself.
    pub(super) fn make_folders(&self) -> Result<(), StoreError> {
        for folder in [self.states(), self.origins(), self.observations()] {
            make_folder_within(&folder)?;
        }
        Ok(())
    }

    pub(super) fn states(&self) -> PathBuf {
        self.0.join("states")
    }

    pub(super) fn origins(&self) -> PathBuf {
        self.0.join("origins")
    }

    pub(super) fn observations(&self) -> PathBuf {
        self.0.join("observations")
    }

    pub(super) fn marks(&self) -> PathBuf {
        self.0.join("marks")
    }

    pub(super) fn last(&self) -> PathBuf {
        self.0.join("last.json")
    }

    pub(super) fn removed(&self) -> PathBuf {
        self.0.join("removed.json")
    }
}

/// The name of an observation's file, but for what says that it is packed.
pub(super) fn observation_name(number: u64, at: Timestamp) -> String {
    format!("{number:08}-{}.json", at.strftime("%Y%m%dT%H%M%SZ"))
}

/// The number of the observation in a file of this name.
pub(super) fn observation_number(name: &str) -> Option<u64> {
    let name = name.strip_suffix(PACKED).unwrap_or(name).strip_suffix(".json")?;
    let (number, at) = name.split_once('-')?;
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    let (day, time) = at.strip_suffix('Z')?.split_once('T')?;
    let plain = number.len() >= 8 && digits(number) && digits(day) && digits(time);
    plain.then(|| number.parse().ok()).flatten().filter(|number| *number > 0)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("00000012-20261126T061621Z.json", Some(12))]
    #[case("00000012-20261126T061621Z.json.zst", Some(12))]
    #[case("123456789-20261126T061621Z.json", Some(123_456_789))]
    #[case("00000000-20261126T061621Z.json", None)]
    #[case("12-20261126T061621Z.json", None)]
    #[case(".tectum-1-2", None)]
    #[case("00000012.json", None)]
    fn a_name_tells_the_number(#[case] name: &str, #[case] number: Option<u64>) {
        assert_eq!(observation_number(name), number);
        if number == Some(12) && !name.ends_with(PACKED) {
            assert_eq!(observation_name(12, "2026-11-26T06:16:21Z".parse().unwrap()), name);
        }
    }
}
