//! What system calls answered, laid beside a tree of files.
//!
//! A folder or tar that stands in for `/` cannot be asked by system call. Whoever recorded it may
//! have put the answers at its top, in files that no machine has there:
//!
//! * `statvfs.json`: a list of objects, each a `mount_point` with the members of statvfs(3) by their
//!   names (`f_frsize`, `f_blocks`, …);
//! * `uname.json`: an object with the members of uname(2) by their names.
//!
//! A capture that was unpacked has them in its own `capture.json`.

use std::{
    collections::HashMap,
    path::{Path, PathBuf},
};

use serde::Deserialize;

use super::{
    Outcome, SystemNames, VolumeUse,
    record::{CaptureRecord, RecordedAnswer},
};

/// The file with the answers of statvfs(3).
pub(super) const VOLUMES: &str = "/statvfs.json";
/// The file with the answer of uname(2).
pub(super) const NAMES: &str = "/uname.json";

/// The answers that lie beside a tree.
#[derive(Debug, Default)]
pub(super) struct Beside {
    volumes: HashMap<PathBuf, VolumeUse>,
    names: Option<SystemNames>,
}

#[derive(Deserialize)]
struct Volume {
    mount_point: PathBuf,
    #[serde(default)]
    f_bsize: u64,
    #[serde(default)]
    f_frsize: u64,
    f_blocks: u64,
    f_bfree: u64,
    f_bavail: u64,
    f_files: u64,
    f_ffree: u64,
}

#[derive(Deserialize)]
struct Names {
    sysname: String,
    nodename: String,
    release: String,
    version: String,
    machine: String,
}

impl Beside {
    /// Reads the two files; one that is missing or is no such answer answers nothing.
    pub(super) fn read(file: impl Fn(&str) -> Option<Vec<u8>>) -> Self {
        let volumes =
            file(VOLUMES).and_then(|text| serde_json::from_slice::<Vec<Volume>>(&text).ok());
        let names = file(NAMES).and_then(|text| serde_json::from_slice::<Names>(&text).ok());
        Self {
            // Where several mounts lie on one point, the last one is seen.
            volumes: volumes
                .unwrap_or_default()
                .into_iter()
                .map(|volume| (volume.mount_point.clone(), volume.answer()))
                .collect(),
            names: names.map(|names| SystemNames {
                system: names.sysname,
                node: names.nodename,
                release: names.release,
                version: names.version,
                machine: names.machine,
            }),
        }
    }

    /// The answers that a capture recorded.
    pub(super) fn of(record: &CaptureRecord) -> Self {
        let mut beside = Self::default();
        for (_, path, answer) in &record.answers {
            match answer {
                RecordedAnswer::Use(volume) => {
                    beside.volumes.insert(path.clone(), *volume);
                }
                RecordedAnswer::System(names) => beside.names = Some(names.clone()),
                _ => {}
            }
        }
        beside
    }

    pub(super) fn statvfs(&self, path: &Path) -> Result<VolumeUse, Outcome> {
        self.volumes.get(path).copied().ok_or(Outcome::Unsupported)
    }

    pub(super) fn uname(&self) -> Result<SystemNames, Outcome> {
        self.names.clone().ok_or(Outcome::Unsupported)
    }
}

impl Volume {
    fn answer(&self) -> VolumeUse {
        let unit = if self.f_frsize == 0 { self.f_bsize } else { self.f_frsize };
        VolumeUse {
            size_bytes: self.f_blocks.saturating_mul(unit),
            free_bytes: self.f_bfree.saturating_mul(unit),
            available_bytes: self.f_bavail.saturating_mul(unit),
            inodes: self.f_files,
            free_inodes: self.f_ffree,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_mount_on_a_point_answers() {
        let text = r#"[
            {"mount_point": "/a", "f_bsize": 4096, "f_frsize": 512, "f_blocks": 8, "f_bfree": 4,
             "f_bavail": 2, "f_files": 9, "f_ffree": 3},
            {"mount_point": "/a", "f_bsize": 4096, "f_blocks": 1, "f_bfree": 1, "f_bavail": 1,
             "f_files": 0, "f_ffree": 0}
        ]"#;
        let beside = Beside::read(|path| (path == VOLUMES).then(|| text.into()));
        assert_eq!(beside.statvfs(Path::new("/a")).unwrap().size_bytes, 4096);
        assert_eq!(beside.statvfs(Path::new("/b")), Err(Outcome::Unsupported));
        assert_eq!(beside.uname(), Err(Outcome::Unsupported));
    }

    #[test]
    fn what_is_no_answer_answers_nothing() {
        let beside = Beside::read(|_| Some(b"{\"sysname\": 1}".to_vec()));
        assert_eq!(beside.statvfs(Path::new("/")), Err(Outcome::Unsupported));
        assert_eq!(beside.uname(), Err(Outcome::Unsupported));
    }
}
