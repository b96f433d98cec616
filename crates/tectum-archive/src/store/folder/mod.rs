//! An archive in a folder: plain files that a person can read, copy and keep in version control, and an index
//! that is made of them.
//!
//! Who writes holds `lock`. What an observation needs is written before it, and the observation before
//! `last.json`, after which it is acknowledged: a writer that is stopped anywhere leaves the archive with the
//! observation or without it.

mod disk;
mod index;
mod layout;
mod lock;
mod pack;
mod verify;

use std::{
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
    sync::{Mutex, MutexGuard, PoisonError},
};

use serde::{Serialize, de::DeserializeOwned};
use tectum_report::{save::Together, version::Readable};

use self::{
    disk::{PACKED, either, make_folder, names},
    index::Index,
    layout::{ARCHIVE, Is, Last, MACHINES, Machine, observation_name, observation_number},
    lock::{Held, saved_by_nobody_now},
};
use super::{
    Brought, Entry, Latest, Problem, Remembered, Saved, Store, StoreError, Verified,
    observation_of, remarks, shared, state_of, text_of_state,
};
use crate::{
    named::called,
    when::moment,
    who::{Belongs, belongs, is_key},
    written::{
        ARCHIVE as ARCHIVE_FORM, Mark, Observation, Prepared, Removed, State, digest, digits,
    },
};

/// An archive in a folder.
#[derive(Debug)]
pub struct FolderStore {
    root: PathBuf,
    /// Whether what is written is packed.
    packed: bool,
    index: Mutex<Indexed>,
    remembered: Remembered,
}

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
        if machine.observations().is_dir() { Ok(machine) } else { Err(no()) }
    }

    fn index(&self) -> MutexGuard<'_, Indexed> {
        self.index.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Where a file of this name is written.
    fn named(&self, folder: &Path, name: &str) -> PathBuf {
        folder.join(if self.packed { format!("{name}{PACKED}") } else { name.to_owned() })
    }

    /// Keeps a text by its digest, unless it is there and whole.
    fn keep(
        &self,
        together: &mut Together,
        folder: &Path,
        own: &str,
        text: &[u8],
        whole: impl Fn(&[u8]) -> bool,
    ) -> Result<bool, StoreError> {
        let name = format!("{}.json", digits(own).unwrap_or(own));
        if let Some(path) = either(folder, &name) {
            if !disk::read(&path).is_ok_and(|there| there == text || whole(&there)) {
                // What is damaged is written anew, under the name that it has.
                disk::write_with(together, &path, text)?;
            }
            return Ok(false);
        }
        disk::write_with(together, &self.named(folder, &name), text)?;
        Ok(true)
    }

    fn keep_origins(
        &self,
        together: &mut Together,
        machine: &Machine,
        own: &str,
        text: &[u8],
    ) -> Result<bool, StoreError> {
        self.keep(together, &machine.origins(), own, text, |text| digest(text) == own)
    }

    fn keep_state(
        &self,
        together: &mut Together,
        machine: &Machine,
        state: &State,
    ) -> Result<bool, StoreError> {
        let what = || format!("state {}", state.inventory_digest);
        let whole = |text: &[u8]| {
            state_of(&what, &state.inventory_digest, text).is_ok_and(|there| there.is_whole())
        };
        let text = text_of_state(state)?;
        self.keep(together, &machine.states(), &state.inventory_digest, &text, whole)
    }

    /// Writes an observation, behind what it needs.
    fn write_observation(
        &self,
        together: &mut Together,
        machine: &Machine,
        observation: &Observation,
        text: &[u8],
    ) -> Result<(), StoreError> {
        together.stage();
        let name = observation_name(observation.number, observation.taken.at);
        disk::write_with(together, &self.named(&machine.observations(), &name), text)
    }

    /// Says which observation was saved last, once it is there.
    fn write_last(
        together: &mut Together,
        machine: &Machine,
        last: &Last,
    ) -> Result<(), StoreError> {
        together.stage();
        disk::write_with(together, &machine.last(), &pretty(last))
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

/// The files of a machine's observations, by number.
fn files(machine: &Machine) -> Result<BTreeMap<u64, PathBuf>, StoreError> {
    let folder = machine.observations();
    let files = names(&folder)?.into_iter();
    Ok(files.filter_map(|name| Some((observation_number(&name)?, folder.join(name)))).collect())
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
    let text = disk::read(&path)?;
    Ok((path, text))
}

fn observation_at(machine: &Machine, number: u64) -> Result<Observation, StoreError> {
    let (path, text) = observation_text_at(machine, number)?;
    observation_in(&path, &text)
}

fn state_at(machine: &Machine, own: &str) -> Result<State, StoreError> {
    let path = kept(&machine.states(), own)?;
    state_of(&|| path.display().to_string(), own, &disk::read(&path)?)
}

/// Where a text is kept by its digest.
fn kept(folder: &Path, own: &str) -> Result<PathBuf, StoreError> {
    let missing = |said: &str| StoreError::Damaged {
        what: folder.join(own).display().to_string(),
        said: said.to_owned(),
    };
    let digits = digits(own).ok_or_else(|| missing("that is no digest"))?;
    either(folder, &format!("{digits}.json")).ok_or_else(|| missing("it is not there"))
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
        disk::read(&kept(&self.machine(machine)?.states(), digest)?)
    }

    fn state_text_in_part(
        &self,
        machine: &str,
        digest: &str,
        sections: &[&str],
    ) -> Result<Vec<u8>, StoreError> {
        disk::read_in_part(&kept(&self.machine(machine)?.states(), digest)?, sections)
    }

    fn remembered(&self) -> &Remembered {
        &self.remembered
    }

    fn origins_text(&self, machine: &str, digest: &str) -> Result<Vec<u8>, StoreError> {
        disk::read(&kept(&self.machine(machine)?.origins(), digest)?)
    }

    fn removed(&self, machine: &str) -> Result<Vec<Removed>, StoreError> {
        Ok(optional(&self.machine(machine)?.removed())?.unwrap_or_default())
    }

    fn bring(&self, key: &str, brought: &Brought) -> Result<bool, StoreError> {
        if !is_key(key) {
            return Err(StoreError::NoMachine { machine: key.to_owned() });
        }
        let mut held = Held::of(&self.root)?;
        held.count_one_more();
        let machine = Machine::at(&self.root, key);
        let number = brought.observation.number;
        if let Some(path) = files(&machine)?.get(&number) {
            return match disk::read(path)? == brought.text {
                true => Ok(false),
                false => Err(StoreError::Differs { machine: key.to_owned(), number }),
            };
        }
        make_folder(&self.root.join(MACHINES))?;
        make_folder(machine.folder())?;
        machine.make_folders()?;
        let mut together = Together::default();
        for (own, text) in &brought.origins {
            self.keep_origins(&mut together, &machine, own, text)?;
        }
        self.keep_state(&mut together, &machine, &brought.state)?;
        self.write_observation(&mut together, &machine, &brought.observation, &brought.text)?;
        let last: Option<Last> = optional(&machine.last())?;
        if last.is_none_or(|last| last.number < number) {
            let last = Last { number, digest: digest(&brought.text) };
            Self::write_last(&mut together, &machine, &last)?;
        }
        together.publish()?;
        Ok(true)
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
        let saved = held.saved();
        if saved.is_none_or(|saved| indexed.saved != Some(saved) && !indexed.index.is_fresh(saved))
        {
            indexed.index.refresh()?;
        }
        let alike = indexed.index.alike(&prepared.who)?;
        let known = || alike.iter().map(|one| (one.machine.as_str(), &one.who));
        let key = match belongs(&prepared.who, known()) {
            Belongs::To(key) => key,
            Belongs::ToNone => prepared.who.key(),
            Belongs::ToSeveral(machines) => {
                let subject = prepared.who.host.clone().unwrap_or_default();
                return Err(StoreError::Several { subject, machines });
            }
        };
        let machine = Machine::at(&self.root, &key);
        let files = files(&machine)?;
        let entries = indexed.index.entries(&key)?;
        let same = entries.iter().filter(|one| {
            one.at == prepared.taken_at() && one.state == prepared.state.inventory_digest
        });
        for entry in same {
            if observation_at(&machine, entry.number).is_ok_and(|one| prepared.is(&one)) {
                return Ok(Saved::again(key, entry.number));
            }
        }
        let (number, before) = behind(&machine, &files)?;
        let now = moment();
        let mut remarks = remarks(&prepared.who, now, &entries);
        remarks.extend(shared(&prepared.who, &key, known()));
        // Whoever looks from here on looks at the files, whatever becomes of this.
        let saved = saved.unwrap_or(0) + 1;
        held.count(saved);
        make_folder(&self.root.join(MACHINES))?;
        make_folder(machine.folder())?;
        machine.make_folders()?;
        let mut together = Together::default();
        for piece in prepared.origins.values() {
            self.keep_origins(&mut together, &machine, &piece.digest, &piece.text)?;
        }
        let new_state = self.keep_state(&mut together, &machine, &prepared.state)?;
        let observation = prepared.observation(number, before, now);
        let text = compact(&observation);
        self.write_observation(&mut together, &machine, &observation, &text)?;
        Self::write_last(&mut together, &machine, &Last { number, digest: digest(&text) })?;
        together.publish()?;
        // The index is made of the files: what it could not take over it reads when it is asked next.
        let indexed = &mut *indexed;
        let taken_over = indexed
            .index
            .add(&key, &observation, &prepared.who, &prepared.overview)
            .and_then(|()| indexed.index.set_fresh(Some(saved)));
        indexed.saved = taken_over.is_ok().then_some(saved);
        let state = &prepared.state.inventory_digest;
        Ok(Saved::new(key, number, new_state, &entries, state, remarks))
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
        let files = files(&machine)?;
        let last = files.last_key_value().map(|(number, _)| *number);
        let marked: BTreeSet<u64> = self.marks(key)?.iter().map(|mark| mark.observation).collect();
        let going: BTreeSet<u64> = numbers
            .iter()
            .copied()
            .filter(|number| files.contains_key(number) && Some(*number) != last)
            .filter(|number| !marked.contains(number))
            .collect();
        let mut removed: Vec<Removed> = optional(&machine.removed())?.unwrap_or_default();
        let now = moment();
        for number in &going {
            let Some(path) = files.get(number) else { continue };
            let text = disk::read(path)?;
            let before = observation_in(path, &text)?.before;
            removed.retain(|one| one.number != *number);
            removed.push(Removed {
                number: *number,
                digest: digest(&text),
                before,
                removed_at: now,
            });
        }
        removed.sort_by_key(|one| one.number);
        // What is gone is said before it goes, so that nobody takes it for lost.
        disk::write(&machine.removed(), &pretty(&removed))?;
        for path in going.iter().filter_map(|number| files.get(number)) {
            disk::remove(path)?;
        }
        let mut states = BTreeSet::new();
        let mut origins = BTreeSet::new();
        for path in files.iter().filter(|(number, _)| !going.contains(number)).map(|(_, path)| path)
        {
            // Where one cannot be read, nobody knows what it needs: then all stays.
            let one = observation_in(path, &disk::read(path)?)?;
            states.insert(one.state);
            origins.extend(one.origins.into_values());
        }
        for (folder, needed) in [(machine.states(), states), (machine.origins(), origins)] {
            let needed: BTreeSet<&str> = needed.iter().filter_map(|own| digits(own)).collect();
            for name in names(&folder)? {
                let own = name.strip_suffix(PACKED).unwrap_or(&name).strip_suffix(".json");
                if own.is_some_and(|own| !needed.contains(own)) {
                    disk::remove(&folder.join(name))?;
                }
            }
        }
        self.index().index.refresh_one(key)
    }

    fn verify(&self, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
        verify::verify(&self.root, tell)
    }
}

/// The number of the next observation of a machine, and the digest of the one before it.
fn behind(
    machine: &Machine,
    files: &BTreeMap<u64, PathBuf>,
) -> Result<(u64, Option<String>), StoreError> {
    let last: Option<Last> = optional(&machine.last()).unwrap_or_default();
    let highest = files.last_key_value();
    match (highest, last) {
        // One that is gone stays a link of the chain, so that its loss is told.
        (Some((number, _)), Some(last)) if last.number > *number => {
            Ok((last.number + 1, Some(last.digest)))
        }
        (None, Some(last)) => Ok((last.number + 1, Some(last.digest))),
        (Some((number, path)), _) => Ok((number + 1, Some(digest(&disk::read(path)?)))),
        (None, None) => Ok((1, None)),
    }
}
