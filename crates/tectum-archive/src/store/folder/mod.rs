//! An archive in a folder: plain files that a person can read, copy and keep in version control, and an index
//! that is made of them.
//!
//! Who writes holds `lock`. A look is one file, with all that no look before it brought: a writer that is stopped
//! anywhere leaves the archive with the look or without it.

mod bringing;
mod disk;
mod index;
mod last;
mod layout;
mod lock;
mod look_file;
mod pack;
mod reading;
mod removing;
mod saving;
mod values;
mod verify;

use std::{
    collections::BTreeSet,
    path::{Path, PathBuf},
    sync::{Arc, Mutex, MutexGuard, PoisonError},
};

use serde::{Serialize, de::DeserializeOwned};

use tectum_report::{Report, version::Readable};

use self::{
    disk::{make_folder, names},
    index::Index,
    layout::{ARCHIVE, Is, MACHINES, Machine, look_in, pieces_in},
    lock::{Held, saved_by_nobody_now},
    look_file::{LookFile, Of, unreadable},
    reading::{Reading, files},
};
use super::{
    Asked, Brought, Entry, Holding, Latest, PieceAt, Problem, Remembered, Saved, Store, StoreError,
    Verified, bounded::Bounded, observation_of,
};
use crate::{
    named::called,
    who::is_key,
    written::{ARCHIVE as ARCHIVE_FORM, Mark, Observation, Prepared, Removed},
};

/// An archive in a folder.
#[derive(Debug)]
pub struct FolderStore {
    root: PathBuf,
    /// Whether what is written is packed.
    packed: bool,
    index: Mutex<Indexed>,
    remembered: Remembered,
    /// Texts of sections that were read before, by their digests: machines that are alike share them.
    sections: Bounded<String, Arc<Vec<u8>>>,
}

/// The most bytes of sections that are remembered.
const MOST_REMEMBERED: usize = 2 << 20;

#[derive(Debug)]
struct Indexed {
    index: Index,
    /// How many had been saved by anybody when the index was last what the files say.
    saved: Option<u64>,
}

impl Indexed {
    /// Makes the index what the files say, unless nobody saved anything since it was.
    fn bring_up_to_date(&mut self, root: &Path) -> Result<(), StoreError> {
        let saved = saved_by_nobody_now(root);
        if saved.is_some_and(|saved| self.index.is_fresh(saved)) {
            return Ok(());
        }
        self.index.refresh()?;
        // Where that cannot be written down, the files are looked at again next time.
        let _ = self.index.set_fresh(saved);
        Ok(())
    }
}

impl FolderStore {
    /// Opens the archive in a folder.
    ///
    /// # Errors
    /// That there is none, or one that cannot be read.
    pub fn open(root: &Path, packed: bool) -> Result<Self, StoreError> {
        check(root)?;
        let mut indexed = Indexed { index: Index::open(root)?, saved: None };
        indexed.bring_up_to_date(root)?;
        Ok(Self {
            root: root.to_owned(),
            packed,
            index: Mutex::new(indexed),
            remembered: Remembered::default(),
            sections: Bounded::new(MOST_REMEMBERED),
        })
    }

    /// Opens the archive in a folder, and makes it where there is nothing.
    ///
    /// # Errors
    /// That something else is there, or that it cannot be made.
    pub fn open_or_make(root: &Path, packed: bool) -> Result<Self, StoreError> {
        match Self::open(root, packed) {
            Err(StoreError::Nothing { .. }) => {}
            other => return other,
        }
        make_folder(root)?;
        make_folder(&root.join(MACHINES))?;
        let is = Is { format: ARCHIVE_FORM.name.to_owned(), format_version: ARCHIVE_FORM.current };
        disk::write(&root.join(ARCHIVE), &pretty(&is))?;
        Self::open(root, packed)
    }

    fn location_text(&self) -> String {
        self.root.display().to_string()
    }

    fn machine(&self, key: &str) -> Result<Machine, StoreError> {
        let no = || StoreError::NoMachine { machine: key.to_owned() };
        if !is_key(key) {
            return Err(no());
        }
        let machine = Machine::at(&self.root, key);
        if machine.looks().is_dir() { Ok(machine) } else { Err(no()) }
    }

    fn index(&self) -> MutexGuard<'_, Indexed> {
        self.index.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What the look is called that saw a state of a machine first.
    fn look_with(&self, machine: &str, state: &str) -> Result<String, StoreError> {
        let mut indexed = self.index();
        let mut found = indexed.index.look_with(machine, state)?;
        if found.is_none() {
            indexed.index.refresh_one(machine)?;
            found = indexed.index.look_with(machine, state)?;
        }
        found.ok_or_else(|| StoreError::Damaged {
            what: format!("state {state} of {machine}"),
            said: "it is not there".to_owned(),
        })
    }
}

/// Whether there is an archive that can be read.
fn check(root: &Path) -> Result<(), StoreError> {
    let location = || root.display().to_string();
    let path = root.join(ARCHIVE);
    let text = match disk::read(&path) {
        Err(StoreError::Io { cause, .. })
            if matches!(
                cause.kind(),
                std::io::ErrorKind::NotFound | std::io::ErrorKind::NotADirectory
            ) =>
        {
            // Whoever makes it just now has its name there before anything else.
            if path.symlink_metadata().is_ok() {
                return check(root);
            }
            let stands = root.symlink_metadata().is_ok();
            let empty = names(root).is_ok_and(|names| {
                names.iter().all(|name| name == MACHINES || name.starts_with('.'))
            });
            return Err(match stands && !(root.is_dir() && empty) {
                true => StoreError::NotAnArchive { location: location() },
                false => StoreError::Nothing { location: location() },
            });
        }
        text => text?,
    };
    let is: Is = parsed(&path, &text)?;
    if is.format != ARCHIVE_FORM.name {
        return Err(StoreError::NotAnArchive { location: location() });
    }
    match ARCHIVE_FORM.readable(is.format_version) {
        Readable::No => Err(StoreError::OtherVersion {
            location: location(),
            found: is.format_version,
            known: ARCHIVE_FORM.current,
        }),
        Readable::Yes | Readable::ButForNews => Ok(()),
    }
}

fn pretty(value: &impl Serialize) -> Vec<u8> {
    let mut text = serde_json::to_vec_pretty(value).unwrap_or_default();
    text.push(b'\n');
    text
}

fn compact(value: &impl Serialize) -> Vec<u8> {
    let mut text = serde_json::to_vec(value).unwrap_or_default();
    text.push(b'\n');
    text
}

fn parsed<T: DeserializeOwned>(path: &Path, text: &[u8]) -> Result<T, StoreError> {
    super::parsed(&|| path.display().to_string(), text)
}

/// A file that may not be there.
fn optional<T: DeserializeOwned>(path: &Path) -> Result<Option<T>, StoreError> {
    match disk::read(path) {
        Err(StoreError::Io { cause, .. }) if cause.kind() == std::io::ErrorKind::NotFound => {
            Ok(None)
        }
        text => parsed(path, &text?).map(Some),
    }
}

fn observation_in(path: &Path, text: &[u8]) -> Result<Observation, StoreError> {
    observation_of(&|| path.display().to_string(), text)
}

fn observation_text_at(machine: &Machine, number: u64) -> Result<(PathBuf, Vec<u8>), StoreError> {
    let no = || {
        let key = machine.folder().file_name().unwrap_or_default().to_string_lossy().into_owned();
        StoreError::NoObservation { machine: key, number }
    };
    let path = files(machine)?.remove(&number).ok_or_else(no)?;
    let text = LookFile::open(&path)?.observation().ok_or_else(|| unreadable(&path))?;
    Ok((path, text))
}

fn observation_at(machine: &Machine, number: u64) -> Result<Observation, StoreError> {
    let (path, text) = observation_text_at(machine, number)?;
    observation_in(&path, &text)
}

/// What the look in a file is called.
fn called_in(path: &Path) -> Option<&str> {
    look_in(path.file_name()?.to_str()?)
}

/// What the look is called of which pieces are in a file.
fn pieces_of(path: &Path) -> Option<&str> {
    pieces_in(path.file_name()?.to_str()?)
}

impl Store for FolderStore {
    fn location(&self) -> String {
        self.location_text()
    }

    fn machines(&self) -> Result<Vec<Latest>, StoreError> {
        let mut indexed = self.index();
        indexed.bring_up_to_date(&self.root)?;
        indexed.index.machines()
    }

    fn called(&self, name: &str) -> Result<Vec<Latest>, StoreError> {
        let mut indexed = self.index();
        indexed.bring_up_to_date(&self.root)?;
        let found = indexed.index.called(name)?;
        drop(indexed);
        if found.is_empty() { Ok(called(&self.machines()?, name)) } else { Ok(found) }
    }

    fn entries(&self, machine: &str) -> Result<Vec<Entry>, StoreError> {
        self.machine(machine)?;
        let mut indexed = self.index();
        indexed.index.refresh_one(machine)?;
        indexed.index.entries(machine)
    }

    fn observation_text(&self, machine: &str, number: u64) -> Result<Vec<u8>, StoreError> {
        Ok(observation_text_at(&self.machine(machine)?, number)?.1)
    }

    fn state_text(&self, machine: &str, digest: &str) -> Result<Vec<u8>, StoreError> {
        let look = self.look_with(machine, digest)?;
        Reading::of(&self.machine(machine)?).whole_state(&look, digest)
    }

    fn state_text_in_part(
        &self,
        machine: &str,
        digest: &str,
        sections: &[&str],
    ) -> Result<Vec<u8>, StoreError> {
        let look = self.look_with(machine, digest)?;
        let machine = Machine::at(&self.root, machine);
        let reading = Reading::of(&machine);
        reading.state(&look, digest, Some(sections), |at, look| {
            if let Some(known) = self.sections.get(&at.digest) {
                return Ok(known);
            }
            let text = Arc::new(reading.piece(Of::State, at, look)?);
            self.sections.keep(at.digest.clone(), Arc::clone(&text), text.len());
            Ok(text)
        })
    }

    fn sections_holding(
        &self,
        key: &str,
        digest: &str,
        wanted: &Holding,
    ) -> Result<Vec<String>, StoreError> {
        let look = self.look_with(key, digest)?;
        let machine = Machine::at(&self.root, key);
        let reading = Reading::of(&machine);
        let found = reading.list(Of::State, &look, Some(digest))?;
        let mut holding = Vec::new();
        for at in &found.list.pieces {
            let text = || reading.piece(Of::State, at, &found.look);
            if wanted.is_in_section(&at.digest, text)? {
                holding.push(at.section.clone());
            }
        }
        Ok(holding)
    }

    fn remembered(&self) -> &Remembered {
        &self.remembered
    }

    fn origins_list(&self, key: &str, number: u64) -> Result<Vec<PieceAt>, StoreError> {
        let machine = self.machine(key)?;
        let (path, text) = observation_text_at(&machine, number)?;
        let observation = observation_in(&path, &text)?;
        let look = called_in(&path).unwrap_or_default();
        let reading = Reading::of(&machine);
        Ok(reading.list(Of::Origins, look, Some(&observation.origins))?.pieces())
    }

    fn origins_text(&self, machine: &str, at: &PieceAt) -> Result<Vec<u8>, StoreError> {
        let machine = self.machine(machine)?;
        Reading::of(&machine).piece(Of::Origins, at, at.look.as_deref().unwrap_or_default())
    }

    fn removed(&self, machine: &str) -> Result<Vec<Removed>, StoreError> {
        Ok(optional(&self.machine(machine)?.removed())?.unwrap_or_default())
    }

    fn bring(&self, key: &str, brought: &Brought) -> Result<bool, StoreError> {
        self.bring_look(key, brought)
    }

    fn bring_removed(&self, key: &str, removed: &[Removed]) -> Result<(), StoreError> {
        let machine = self.machine(key)?;
        let _held = Held::of(&self.root)?;
        let mut all: Vec<Removed> = optional(&machine.removed())?.unwrap_or_default();
        all.retain(|one| !removed.iter().any(|other| other.number == one.number));
        all.extend_from_slice(removed);
        all.sort_by_key(|one| one.number);
        disk::write(&machine.removed(), &pretty(&all))
    }

    fn save(&self, prepared: &Prepared) -> Result<Saved, StoreError> {
        let mut held = Held::of(&self.root)?;
        let mut indexed = self.index();
        let before = indexed.saved;
        let ((saved, known), kept) =
            indexed.index.in_one_go(|index| self.save_with(index, before, &mut held, prepared))?;
        if let Some(known) = known {
            indexed.saved = known.filter(|_| kept);
        }
        Ok(saved)
    }

    fn marks(&self, machine: &str) -> Result<Vec<Mark>, StoreError> {
        let folder = self.machine(machine)?.marks();
        let mut marks = Vec::new();
        for name in names(&folder)?.iter().filter(|name| name.ends_with(".json")) {
            let path = folder.join(name);
            let mark: Mark = parsed(&path, &disk::read(&path)?)?;
            if *name != format!("{}.json", mark.name) {
                let said = "it holds another mark than its name says".to_owned();
                return Err(StoreError::Damaged { what: path.display().to_string(), said });
            }
            marks.push(mark);
        }
        Ok(marks)
    }

    fn mark(&self, machine: &str, mark: &Mark) -> Result<(), StoreError> {
        let folder = self.machine(machine)?.marks();
        let _held = Held::of(&self.root)?;
        observation_at(&self.machine(machine)?, mark.observation)?;
        make_folder(&folder)?;
        disk::write(&folder.join(format!("{}.json", mark.name)), &pretty(mark))
    }

    fn unmark(&self, machine: &str, name: &str) -> Result<bool, StoreError> {
        let machine = self.machine(machine)?;
        let _held = Held::of(&self.root)?;
        let path = machine.marks().join(format!("{name}.json"));
        let there = path.symlink_metadata().is_ok();
        disk::remove(&path)?;
        Ok(there)
    }

    fn remove(&self, key: &str, numbers: &BTreeSet<u64>) -> Result<(), StoreError> {
        let machine = self.machine(key)?;
        let mut held = Held::of(&self.root)?;
        held.count_one_more();
        let marked = self.marks(key)?.iter().map(|mark| mark.observation).collect();
        removing::remove(&machine, numbers, &marked)?;
        self.index().index.refresh_one(key)
    }

    fn latest_values(
        &self,
        machines: &[Latest],
        asked: &Asked<'_>,
        each: &(dyn Fn(usize, &Report) + Sync),
    ) -> Result<(), StoreError> {
        self.each_latest_value(machines, asked, each)
    }

    fn verify(&self, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
        verify::verify(&self.root, tell)
    }
}
