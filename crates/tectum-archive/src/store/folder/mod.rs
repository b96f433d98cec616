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
mod verify;

use std::{
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
    sync::{Arc, Mutex, MutexGuard, PoisonError},
};

use jiff::Timestamp;
use serde::{Serialize, de::DeserializeOwned};

use tectum_report::version::Readable;

use self::{
    bringing::{There, checksum},
    disk::{damaged, make_folder, names},
    index::{Added, Index, LastKnown},
    last::Last,
    layout::{ARCHIVE, Is, MACHINES, Machine, is_packed, look_in, look_name, pieces_in},
    lock::{Held, saved_by_nobody_now},
    look_file::{Line, LookFile, Of, list_key, piece_key, unreadable, written},
    reading::{Reading, files},
};
use super::{
    Brought, Entry, Holding, Latest, PieceAt, Problem, Remembered, Saved, Store, StoreError,
    Verified, bounded::Bounded, observation_of, remarks, shared,
};
use crate::{
    named::called,
    when::moment,
    who::{Belongs, belongs, is_key},
    written::{
        ARCHIVE as ARCHIVE_FORM, Mark, Observation, Piece, Prepared, Removed, digest,
        piece::sections,
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

    /// Writes the file of a look, with what is not there yet of what it needs; what the index has to know of it.
    fn write_look(
        &self,
        index: &Index,
        key: &str,
        reading: &Reading<'_>,
        look: &Look<'_>,
        last: Option<&str>,
    ) -> Result<Written, StoreError> {
        let machine = reading.machine();
        let like = index.look_with(key, look.state)?;
        let whole = |look: &str| index.checksum(key, look).ok().flatten();
        let there = There::of(reading, like.as_deref(), last, &whole);
        let sections = (look.state, look.sections);
        let origins = (look.origins_list, look.origins);
        let mut lines = there.lines(look.text, sections, origins);
        let name = look_name(look.number, look.at);
        // What others need of a look that was removed, and comes back, stays in its file.
        let kept = if look.comes_back { machine.look(&name) } else { None };
        if let Some(kept) = kept.as_ref().and_then(|_| reading.file(&name)) {
            let own: BTreeSet<_> = lines.iter().filter_map(Line::key).collect();
            let kept = kept.content().lines.into_iter();
            lines.extend(kept.filter(|line| line.key().is_some_and(|key| !own.contains(&key))));
        }
        let path = machine.look_path(&name, false, self.packed);
        let bytes =
            written(&lines, self.packed).map_err(|error| damaged(&path, error.to_string()))?;
        disk::write(&path, &bytes)?;
        if let Some(kept) = kept.filter(|kept| *kept != path) {
            disk::remove(&kept)?;
        }
        let brought = lines.iter().any(|line| line.key().is_some());
        let mut files = there.found_whole.clone();
        let checksum = checksum(&bytes);
        if brought {
            files.insert(name.clone(), checksum);
        }
        Ok(Written { name, checksum, files })
    }

    /// Saves a look; what became of it, and how many had been saved when the index was last what the files say, if
    /// that is another number now.
    fn save_with(
        &self,
        index: &mut Index,
        known_saved: Option<u64>,
        held: &mut Held,
        prepared: &Prepared,
    ) -> Result<(Saved, Option<Option<u64>>), StoreError> {
        let saved = held.saved();
        if saved.is_none_or(|saved| known_saved != Some(saved) && !index.is_fresh(saved)) {
            index.refresh()?;
        }
        let alike = index.alike(&prepared.who)?;
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
        let entries = index.entries(&key)?;
        let same = entries.iter().filter(|one| {
            one.at == prepared.taken_at() && one.state == prepared.state.inventory_digest
        });
        let reading = Reading::of(&machine);
        for entry in same {
            // What can no longer be read is saved anew.
            if stands_whole(&machine, &reading, entry.number, prepared) {
                return Ok((Saved::again(key, entry.number), None));
            }
        }
        let known_last = index.last_known(&key)?;
        let Behind { number, before, last } = behind(&machine, &reading, known_last.as_ref())?;
        let now = moment();
        let mut remarks = remarks(&prepared.who, now, &entries);
        remarks.extend(shared(&prepared.who, &key, known()));
        // Whoever looks from here on looks at the files, whatever becomes of this.
        let saved = saved.unwrap_or(0) + 1;
        held.count(saved);
        self.make_folders(&machine)?;
        let text = prepared.observation(number, before.as_deref(), now);
        let state = prepared.state.inventory_digest.as_str();
        let look = Look {
            number,
            at: prepared.taken_at(),
            text: &text,
            state,
            sections: &prepared.sections,
            origins_list: &prepared.origins_list,
            origins: &prepared.origins,
            comes_back: false,
        };
        let written = self.write_look(index, &key, &reading, &look, last.as_deref())?;
        let digest = digest(&text);
        Last { number, digest: digest.clone() }.write(&machine)?;
        // The index is made of the files: what it could not take over it reads when it is asked next.
        let added = Added {
            entry: &prepared.entry(number, now),
            last: LastKnown { look: written.name, checksum: written.checksum, digest },
            overview: &prepared.overview,
            files: &written.files,
        };
        let taken_over = index.add(&key, &added, saved);
        let known = taken_over.is_ok().then_some(saved);
        let new_state = entries.iter().all(|one| one.state != state);
        Ok((Saved::new(key, number, new_state, &entries, state, remarks), Some(known)))
    }

    /// Makes a machine's folders, if they are not there.
    fn make_folders(&self, machine: &Machine) -> Result<(), StoreError> {
        for folder in [&self.root.join(MACHINES), machine.folder(), &machine.looks()] {
            make_folder(folder)?;
        }
        Ok(())
    }
}

/// A look that is to be written.
struct Look<'a> {
    number: u64,
    at: Timestamp,
    /// The text of its observation.
    text: &'a [u8],
    state: &'a str,
    sections: &'a [Piece],
    origins_list: &'a str,
    origins: &'a [Piece],
    /// Whether it may have been here before.
    comes_back: bool,
}

/// A look that was written.
struct Written {
    name: String,
    checksum: i64,
    /// Files that are known to be whole, with their checksums.
    files: BTreeMap<String, i64>,
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

/// Whether a look is this one, and all of it can be read.
fn stands_whole(
    machine: &Machine,
    reading: &Reading<'_>,
    number: u64,
    prepared: &Prepared,
) -> bool {
    let Ok((path, text)) = observation_text_at(machine, number) else { return false };
    let Ok(one) = observation_in(&path, &text) else { return false };
    let look = called_in(&path).unwrap_or_default();
    prepared.is(&one) && reading.is_readable(look, &one.state, &one.origins)
}

/// What the look in a file is called.
fn called_in(path: &Path) -> Option<&str> {
    look_in(path.file_name()?.to_str()?)
}

/// What the look is called of which pieces are in a file.
fn pieces_of(path: &Path) -> Option<&str> {
    pieces_in(path.file_name()?.to_str()?)
}

/// The files of what is kept of looks that were removed.
fn kept_files(machine: &Machine) -> Result<Vec<PathBuf>, StoreError> {
    let folder = machine.looks();
    let names = names(&folder)?.into_iter();
    let kept = names.filter(|name| pieces_in(name).is_some() && look_in(name).is_none());
    Ok(kept.map(|name| folder.join(name)).collect())
}

/// Whether a text is JSON that has room in a line.
fn is_one_line(text: &[u8]) -> bool {
    !text.contains(&b'\n') && serde_json::from_slice::<serde::de::IgnoredAny>(text).is_ok()
}

fn not_as_written(what: String) -> StoreError {
    StoreError::Damaged { what, said: "it is not laid out as it was written".to_owned() }
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
        if !is_key(key) {
            return Err(StoreError::NoMachine { machine: key.to_owned() });
        }
        let mut held = Held::of(&self.root)?;
        held.count_one_more();
        let machine = Machine::at(&self.root, key);
        let Brought { observation, text, state, origins } = brought;
        let number = observation.number;
        match observation_text_at(&machine, number) {
            Ok((_, there)) if there == *text => return Ok(false),
            Ok(_) => return Err(StoreError::Differs { machine: key.to_owned(), number }),
            Err(StoreError::NoObservation { .. }) => {}
            Err(error) => return Err(error),
        }
        let what = || format!("observation {number} of {key}");
        let own = text.strip_suffix(b"\n").filter(|own| is_one_line(own));
        own.ok_or_else(|| not_as_written(what()))?;
        if let Some(piece) = origins.iter().find(|piece| !is_one_line(&piece.text)) {
            return Err(not_as_written(format!("origins {} of {key}", piece.digest)));
        }
        let sections = sections(&state.inventory)
            .map_err(|error| damaged(machine.folder(), error.to_string()))?;
        self.make_folders(&machine)?;
        let mut indexed = self.index();
        indexed.index.refresh_one(key)?;
        let last = indexed.index.last_look(key)?;
        let look = Look {
            number,
            at: observation.taken.at,
            text,
            state: &observation.state,
            sections: &sections,
            origins_list: &observation.origins,
            origins,
            comes_back: true,
        };
        let reading = Reading::of(&machine);
        let written = self.write_look(&indexed.index, key, &reading, &look, last.as_deref())?;
        let _ = indexed.index.keep_files(key, &written.files);
        if Last::read(&machine)?.is_none_or(|last| last.number < number) {
            Last { number, digest: digest(text) }.write(&machine)?;
        }
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
        let marked: BTreeSet<u64> = self.marks(key)?.iter().map(|mark| mark.observation).collect();
        let mut looks = BTreeMap::new();
        for (number, path) in files(&machine)? {
            // Where one cannot be read, nobody knows what it needs: then all stays.
            let text = LookFile::open(&path)?.observation().ok_or_else(|| unreadable(&path))?;
            let observation = observation_in(&path, &text)?;
            looks.insert(number, (path, text, observation));
        }
        let last = looks.last_key_value().map(|(number, _)| *number);
        let goes = |number: u64| {
            numbers.contains(&number) && Some(number) != last && !marked.contains(&number)
        };
        let mut removed: Vec<Removed> = optional(&machine.removed())?.unwrap_or_default();
        let now = moment();
        let reading = Reading::of(&machine);
        let mut needed = BTreeSet::new();
        let mut going = kept_files(&machine)?;
        for (number, (path, text, one)) in &looks {
            if goes(*number) {
                removed.retain(|other| other.number != *number);
                let (digest, before) = (digest(text), one.before.clone());
                removed.push(Removed { number: *number, digest, before, removed_at: now });
                going.push(path.clone());
                continue;
            }
            let look = called_in(path).unwrap_or_default();
            for (of, own) in [(Of::State, &one.state), (Of::Origins, &one.origins)] {
                let found = reading.list(of, look, Some(own))?;
                needed.insert((found.look.clone(), list_key(of, own)));
                for at in &found.list.pieces {
                    needed.insert((found.look_of(at).to_owned(), piece_key(of, &at.digest)));
                }
            }
        }
        removed.sort_by_key(|one| one.number);
        // What is gone is said before it goes, so that nobody takes it for lost.
        disk::write(&machine.removed(), &pretty(&removed))?;
        for path in &going {
            let look = pieces_of(path).unwrap_or_default();
            let before = LookFile::open(path)?.content().lines;
            let is_needed = |line: &&Line| {
                line.key().is_some_and(|key| needed.contains(&(look.to_owned(), key)))
            };
            let lines: Vec<Line> = before.iter().filter(is_needed).cloned().collect();
            let kept = machine.look_path(look, true, is_packed(path));
            if !lines.is_empty() && lines.len() < before.len() {
                let bytes = written(&lines, is_packed(path));
                disk::write(&kept, &bytes.map_err(|error| damaged(path, error.to_string()))?)?;
            }
            if lines.is_empty() || kept != *path {
                disk::remove(path)?;
            }
        }
        self.index().index.refresh_one(key)
    }

    fn verify(&self, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
        verify::verify(&self.root, tell)
    }
}

/// What a look that is saved now is behind.
struct Behind {
    /// Its number.
    number: u64,
    /// The digest of the observation before it.
    before: Option<String>,
    /// What the last look that is there is called.
    last: Option<String>,
}

/// What a look of a machine that is saved now is behind.
fn behind(
    machine: &Machine,
    reading: &Reading<'_>,
    known: Option<&LastKnown>,
) -> Result<Behind, StoreError> {
    let said: Option<Last> = Last::read(machine).unwrap_or_default();
    let there = match files(machine)?.pop_last() {
        None => None,
        Some((number, path)) => {
            let look = called_in(&path).unwrap_or_default().to_owned();
            let file = match reading.file(&look) {
                Some(file) => file,
                None => Arc::new(LookFile::open(&path)?),
            };
            let as_it_was = known
                .filter(|known| known.look == look && known.checksum == checksum(file.bytes()));
            Some(match (as_it_was, file.observation()) {
                (Some(known), _) => (number, known.digest.clone(), Some(look)),
                (None, Some(text)) => (number, digest(&text), Some(look)),
                // What is damaged stays a link of the chain, as it is now.
                (None, None) => (number, digest(file.bytes()), None),
            })
        }
    };
    let last = there.as_ref().and_then(|(_, _, name)| name.clone());
    Ok(match (there, said) {
        // One that is gone stays a link of the chain, so that its loss is told.
        (Some((number, ..)), Some(said)) if said.number > number => {
            Behind { number: said.number + 1, before: Some(said.digest), last }
        }
        (None, Some(said)) => Behind { number: said.number + 1, before: Some(said.digest), last },
        (Some((number, own, _)), _) => Behind { number: number + 1, before: Some(own), last },
        (None, None) => Behind { number: 1, before: None, last },
    })
}
