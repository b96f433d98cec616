//! Captures fit to share: every file is written anew by what its format holds.
//!
//! What a file is, is declared in [`form_of`]; what has no form is withheld. Texts are replaced where
//! they stand, by what they are, never by searching for them; after that the strongest originals are
//! searched for in the copy, so that a defect writes nothing.

mod form;
mod words;

use std::{
    collections::BTreeSet,
    path::{Path, PathBuf},
};

use jiff::Timestamp;
use tectum_report::{
    Report,
    leaf::{Identifies, Redact},
    redact::{Originals, Pseudonyms, RedactError},
};
use tectum_smbios::{EntryPoint, Version};

use crate::{
    readers::dmi::ENTRY_POINT,
    source::{Archive, Door},
};

pub use form::form_of;

/// How a file is written anew.
#[derive(Clone, Copy)]
pub struct Form {
    /// What it is, in a word or two.
    pub name: &'static str,
    anew: fn(&Rewriter<'_>, &[u8]) -> Option<Vec<u8>>,
}

impl std::fmt::Debug for Form {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.name)
    }
}

/// Writes a capture's files anew.
pub(crate) struct Rewriter<'a> {
    by: &'a Pseudonyms,
    /// The version of the firmware's table, by which its UUID is laid out.
    version: Version,
    /// What the board calls its memory slots: a module's label that is one is no owner's.
    slots: BTreeSet<String>,
}

impl<'a> Rewriter<'a> {
    /// A rewriter for the machine with this report, whose entry point to the firmware's table is
    /// this.
    pub(crate) fn new(by: &'a Pseudonyms, original: &Report, entry_point: Option<&[u8]>) -> Self {
        let entry = entry_point.and_then(|bytes| EntryPoint::parse(bytes).ok());
        // As it has been usual since 2007.
        let version = entry.map_or(Version { major: 2, minor: 6 }, |entry| entry.version);
        let memory = original.inventory.memory.as_ref();
        let slots = memory.into_iter().flat_map(|memory| memory.slots.iter());
        let slots = slots.filter_map(|slot| Some(slot.locator.value()?.to_ascii_lowercase()));
        Self { by, version, slots: slots.collect() }
    }

    /// The bytes of a file, made anew; `None` where they are withheld.
    pub(crate) fn file(&self, asked: &Path, bytes: &[u8]) -> Option<Vec<u8>> {
        (form_of(asked)?.anew)(self, bytes)
    }

    /// A path that was asked for, or that a link leads to.
    pub(crate) fn path(&self, path: &Path) -> PathBuf {
        self.by.source(&crate::source::path_text(path)).into()
    }

    /// A mount point.
    pub(crate) fn mount_point(&self, path: &Path) -> PathBuf {
        self.by.text(Identifies::Path, &crate::source::path_text(path)).into()
    }

    /// The host's name.
    pub(crate) fn host(&self, name: &str) -> String {
        self.by.text(Identifies::HostName, name)
    }

    /// The kinds of text that are kept.
    pub(crate) fn kept(&self) -> Vec<String> {
        self.by.kept()
    }
}

/// The bytes of a file at a path, made anew; `None` where nobody can say what is in them.
pub fn rewritten(path: &Path, bytes: &[u8], by: &Pseudonyms) -> Option<Vec<u8>> {
    let rewriter = Rewriter { by, version: Version { major: 3, minor: 7 }, slots: BTreeSet::new() };
    rewriter.file(path, bytes)
}

/// What a redacted capture does not hold, and what it holds as it was.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Told {
    /// Files that were left out.
    pub withheld: Vec<PathBuf>,
    /// Files that were asked for as they are.
    pub included: Vec<PathBuf>,
}

/// A capture of what a machine has answered, fit to share: `original` is the report of what it
/// answered, `include` are files that go out as they are.
///
/// # Errors
/// When an original still stands in the copy, or there are too many to search for.
pub fn capture(
    door: &Door,
    original: &Report,
    by: &Pseudonyms,
    tool: &str,
    at: Timestamp,
    include: &[PathBuf],
) -> Result<(Archive, Told), RedactError> {
    let kept = door.capture(tool, at);
    let entry_point = kept.file(Path::new(ENTRY_POINT));
    let rewriter = Rewriter::new(by, original, entry_point.as_deref());
    let originals = by.originals(original)?;
    let (copy, mut told) = kept.redacted(&rewriter, &originals, include)?;
    // What was captured beside what sections ask for.
    let asked: BTreeSet<PathBuf> = kept.files().map(Path::to_owned).collect();
    let all = door.archive().filter(|archive| archive.record().is_some());
    let beside = all.into_iter().flat_map(Archive::files).filter(|path| !asked.contains(*path));
    told.withheld.extend(beside.map(Path::to_owned));
    told.withheld.sort();
    Ok((copy, told))
}

/// Nothing of the strong originals may stand in what is written.
pub(crate) fn second_lock(
    originals: &Originals,
    place: &Path,
    bytes: &[u8],
) -> Result<(), RedactError> {
    match originals.stands_in(bytes) {
        None => Ok(()),
        Some(kind) => {
            let place = format!("in {} ({})", crate::source::path_text(place), kind.word());
            Err(RedactError::StillThere { place })
        }
    }
}
