//! Where what stands in the folder of an archive.
//!
//! ```text
//! archive.json                         what the folder is
//! lock                                 held by who writes
//! index.sqlite                         made of the files, and made anew where it is missing
//! machines/KEY/looks/00000001-20261126T061621Z.json
//! machines/KEY/looks/00000001-20261126T061621Z.kept.json
//!                                      what others need of a look that was removed
//! machines/KEY/marks/NAME.json         names of observations
//! machines/KEY/last.json               the observation that was saved last
//! machines/KEY/removed.json            observations that their owner removed
//! ```
//!
//! The files of looks may be packed, and then have `.zst` behind their names.

use std::path::{Path, PathBuf};

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use tectum_report::version::FormatVersion;

/// What the folder is, as `archive.json` says.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Is {
    pub(super) format: String,
    pub(super) format_version: FormatVersion,
}

/// How the names of files of looks end, plain or packed; then those of what is kept of looks that were removed.
const ENDS: [&str; 4] = [".json", ".json.zst", ".kept.json", ".kept.json.zst"];
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

    pub(super) fn looks(&self) -> PathBuf {
        self.0.join("looks")
    }

    /// Where the file of a look may be by the name of it, plain or packed, or what is kept of it; nothing where that is
    /// no name of one. Where packed ones are more likely, they stand first.
    pub(super) fn look_paths(&self, name: &str, packed: bool) -> impl Iterator<Item = PathBuf> {
        let is_name = look_number(name).is_some();
        let looks = self.looks();
        let order = if packed { [1, 0, 3, 2] } else { [0, 1, 2, 3] };
        let ends = order.into_iter().filter(move |_| is_name).filter_map(|at| ENDS.get(at));
        ends.map(move |end| looks.join(format!("{name}{end}")))
    }

    /// Where it is; nothing where there is none.
    pub(super) fn look(&self, name: &str) -> Option<PathBuf> {
        self.look_paths(name, false).find(|path| path.symlink_metadata().is_ok())
    }

    /// Where a look of this name is written, or what is kept of it.
    pub(super) fn look_path(&self, name: &str, is_kept: bool, is_packed: bool) -> PathBuf {
        let end = match (is_kept, is_packed) {
            (false, false) => ENDS[0],
            (false, true) => ENDS[1],
            (true, false) => ENDS[2],
            (true, true) => ENDS[3],
        };
        self.looks().join(format!("{name}{end}"))
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

/// What a look is called, as others name it in their files.
pub(super) fn look_name(number: u64, at: Timestamp) -> String {
    format!("{number:08}-{}", at.strftime("%Y%m%dT%H%M%SZ"))
}

/// What the look in a file of this name is called.
pub(super) fn look_in(file: &str) -> Option<&str> {
    named_in(file, &ENDS[..2])
}

/// What a look is called of which pieces are in a file of this name, whether it was removed or not.
pub(super) fn pieces_in(file: &str) -> Option<&str> {
    named_in(file, &ENDS)
}

fn named_in<'a>(file: &'a str, ends: &[&str]) -> Option<&'a str> {
    let (name, end) = file.split_at_checked(file.find('.')?)?;
    (ends.contains(&end) && look_number(name).is_some()).then_some(name)
}

/// Whether a file of this path is packed.
pub(super) fn is_packed(path: &Path) -> bool {
    path.as_os_str().as_encoded_bytes().ends_with(b".zst")
}

/// The number of the look that is called so.
pub(super) fn look_number(name: &str) -> Option<u64> {
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
    #[case("00000012-20261126T061621Z", None)]
    #[case("00000012-20261126T061621Z.kept.json", None)]
    #[case("00000012-20261126T061621Z.json.json", None)]
    #[case("00000012-../../T1Z.json", None)]
    #[case(".tectum-1-2", None)]
    #[case("00000012.json", None)]
    fn a_name_tells_the_number(#[case] file: &str, #[case] number: Option<u64>) {
        assert_eq!(look_in(file).and_then(look_number), number);
        if number == Some(12) {
            let at = "2026-11-26T06:16:21Z".parse().unwrap();
            assert_eq!(look_in(file), Some(look_name(12, at).as_str()));
            assert_eq!(pieces_in(file), look_in(file));
            assert_eq!(pieces_in(&file.replace(".json", ".kept.json")), look_in(file));
        }
    }
}
