//! Saving a look: one file, with what is not there yet of what it needs.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use jiff::Timestamp;

use super::{
    FolderStore,
    bringing::{There, checksum},
    called_in,
    disk::{self, damaged, make_folder},
    index::{Added, Index, LastKnown},
    last::Last,
    layout::{MACHINES, Machine, look_name},
    lock::Held,
    look_file::{Line, LookFile, written},
    observation_in, observation_text_at,
    reading::{Reading, files},
};
use crate::{
    store::{Brought, Saved, StoreError, remarks, shared},
    when::moment,
    who::{Belongs, belongs, is_key},
    written::{Piece, Prepared, digest, piece::sections},
};

impl FolderStore {
    /// Saves a look; what became of it, and how many had been saved when the index was last what the files say, if
    /// that is another number now.
    pub(super) fn save_with(
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

    /// Takes over a look from another archive; whether it was not here yet.
    pub(super) fn bring_look(&self, key: &str, brought: &Brought) -> Result<bool, StoreError> {
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
        let like = index.last_look_with(key, look.state)?;
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

/// Whether a text is JSON that has room in a line.
fn is_one_line(text: &[u8]) -> bool {
    !text.contains(&b'\n') && serde_json::from_slice::<serde::de::IgnoredAny>(text).is_ok()
}

fn not_as_written(what: String) -> StoreError {
    StoreError::Damaged { what, said: "it is not laid out as it was written".to_owned() }
}
