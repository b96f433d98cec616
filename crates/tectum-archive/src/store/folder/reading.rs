//! Reading what the files of a machine's looks hold: from the file that a list names, or, where that is damaged or
//! gone, from any other that has the piece too.

use std::{
    borrow::Borrow,
    cell::RefCell,
    collections::{BTreeMap, BTreeSet, HashMap},
    path::PathBuf,
    sync::Arc,
};

use super::{
    disk::{damaged, names},
    layout::{Machine, look_in, look_number, pieces_in},
    look_file::{List, LookFile, Of, digest_of_origins, piece_key},
    pack::Tag,
};
use crate::{
    store::{PieceAt, StoreError},
    written::State,
};

/// The most bytes of files that are kept in memory.
const MOST_OPENED: usize = 64 << 20;

/// The files of one machine's looks, each opened once.
pub(super) struct Reading<'a> {
    machine: &'a Machine,
    /// Whether they are packed, most likely.
    packed: bool,
    opened: RefCell<HashMap<String, Option<Arc<LookFile>>>>,
    /// Pieces that stood where they should, by look.
    stood: RefCell<BTreeSet<(String, Tag)>>,
}

/// A list, and the look in whose file it stands.
pub(super) struct Found {
    pub(super) list: List,
    pub(super) look: String,
}

impl Found {
    /// The look in whose file a piece stands.
    pub(super) fn look_of<'a>(&'a self, at: &'a PieceAt) -> &'a str {
        at.look.as_deref().unwrap_or(&self.look)
    }

    /// The pieces, each with where it stands.
    pub(super) fn pieces(&self) -> Vec<PieceAt> {
        let resolved =
            |at: &PieceAt| PieceAt { look: Some(self.look_of(at).to_owned()), ..at.clone() };
        self.list.pieces.iter().map(resolved).collect()
    }
}

impl<'a> Reading<'a> {
    pub(super) fn of(machine: &'a Machine) -> Self {
        Self::expecting(machine, false)
    }

    /// The same; packed files are looked for first, or last.
    pub(super) fn expecting(machine: &'a Machine, packed: bool) -> Self {
        Self { machine, packed, opened: RefCell::default(), stood: RefCell::default() }
    }

    pub(super) fn machine(&self) -> &'a Machine {
        self.machine
    }

    /// The file of a look; nothing where it cannot be read.
    pub(super) fn file(&self, look: &str) -> Option<Arc<LookFile>> {
        if let Some(known) = self.opened.borrow().get(look) {
            return known.clone();
        }
        let mut paths = self.machine.look_paths(look, self.packed);
        let file = paths.find_map(|path| LookFile::open(&path).ok()).map(Arc::new);
        let mut opened = self.opened.borrow_mut();
        let bytes =
            |file: &Option<Arc<LookFile>>| file.as_ref().map_or(0, |file| file.bytes().len());
        if opened.values().map(bytes).sum::<usize>() + bytes(&file) > MOST_OPENED {
            opened.clear();
        }
        opened.insert(look.to_owned(), file.clone());
        file
    }

    /// All that the machine's looks are called, the last first.
    fn all(&self) -> Vec<String> {
        let names = names(&self.machine.looks()).unwrap_or_default();
        names.iter().rev().filter_map(|name| pieces_in(name)).map(str::to_owned).collect()
    }

    /// The list of a look: its own, or the one of a digest.
    pub(super) fn list(
        &self,
        of: Of,
        look: &str,
        digest: Option<&str>,
    ) -> Result<Found, StoreError> {
        let own = self.file(look);
        let here = own.as_ref().and_then(|own| own.list_as_written(of, digest)).filter(is_whole);
        if let Some(list) = here {
            return Ok(Found { list, look: look.to_owned() });
        }
        let elsewhere = own.as_ref().and_then(|own| own.stands_in().of(of).map(str::to_owned));
        let look = elsewhere.unwrap_or_else(|| look.to_owned());
        let file = self.file(&look);
        if let Some(list) = file.and_then(|file| file.list(of, digest)).filter(is_whole) {
            return Ok(Found { list, look });
        }
        let missing = || match self.machine.look(&look) {
            None => damaged(&self.machine.looks().join(&look), "it is not there"),
            Some(path) => damaged(&path, "it no longer says what a look saw"),
        };
        let Some(digest) = digest else { return Err(missing()) };
        let mut others = self.all().into_iter().filter(|other| *other != look);
        let found = others.find_map(|other| {
            let list = self.file(&other)?.list(of, Some(digest)).filter(is_whole)?;
            Some(Found { list, look: other })
        });
        found.ok_or_else(missing)
    }

    /// Whether the list that a look names, and the pieces in it, stand where they should.
    pub(super) fn stands(&self, look: &str, found: &Found) -> bool {
        let of = found.list.of;
        let named = || self.file(look)?.stands_in().of(of).map(str::to_owned);
        let there = |at: &PieceAt| {
            let key = (found.look_of(at).to_owned(), piece_key(of, &at.digest));
            // Many looks share what they need.
            if self.stood.borrow().contains(&key) {
                return true;
            }
            let is = self.file(&key.0).is_some_and(|file| file.piece(of, at).is_some());
            is && self.stood.borrow_mut().insert(key)
        };
        let here = found.look == look || named().as_ref() == Some(&found.look);
        here && found.list.pieces.iter().all(there)
    }

    /// The text of a piece.
    pub(super) fn piece(&self, of: Of, at: &PieceAt, look: &str) -> Result<Vec<u8>, StoreError> {
        let own = at.look.as_deref().unwrap_or(look);
        if let Some(text) = self.file(own).and_then(|file| file.piece(of, at)) {
            return Ok(text);
        }
        let mut others = self.all().into_iter().filter(|other| other != own);
        let found = others.find_map(|other| self.file(&other)?.piece(of, at));
        found.ok_or_else(|| {
            let path = self.machine.look(own).unwrap_or_else(|| self.machine.looks().join(own));
            let said =
                format!("it no longer holds what a look needs of it: {}, as it was", at.section);
            damaged(&path, said)
        })
    }

    /// The text of a state with these sections, or with all; `piece` gives the text of a section.
    pub(super) fn state<T: Borrow<Vec<u8>>>(
        &self,
        look: &str,
        digest: &str,
        sections: Option<&[&str]>,
        piece: impl Fn(&PieceAt, &str) -> Result<T, StoreError>,
    ) -> Result<Vec<u8>, StoreError> {
        let text = |found: &Found| {
            let is_wanted =
                |at: &&PieceAt| sections.is_none_or(|all| all.contains(&at.section.as_str()));
            let wanted = found.list.pieces.iter().filter(is_wanted);
            let texts = wanted.map(|at| Ok((at.section.as_str(), piece(at, &found.look)?)));
            let texts = texts.collect::<Result<Vec<_>, StoreError>>()?;
            let texts = texts.iter().map(|(name, text)| (*name, text.borrow().as_slice()));
            State::text_of_sections(digest, texts)
                .map_err(|error| damaged(&self.machine.looks().join(look), error.to_string()))
        };
        let found = self.list(Of::State, look, Some(digest))?;
        text(&found).or_else(|error| {
            // Of a list that is damaged another look may have brought a whole one.
            let mut others = self.all().into_iter().filter(|other| *other != found.look);
            let other = others.find_map(|other| {
                let list = self.file(&other)?.list(Of::State, Some(digest))?;
                text(&Found { list, look: other }).ok()
            });
            other.ok_or(error)
        })
    }

    /// Whether all that a look needs can be read.
    pub(super) fn is_readable(&self, look: &str, state: &str, origins: &str) -> bool {
        let piece = |found: &Found, at: &PieceAt| self.piece(Of::Origins, at, &found.look);
        self.whole_state(look, state).is_ok()
            && self
                .list(Of::Origins, look, Some(origins))
                .is_ok_and(|found| found.list.pieces.iter().all(|at| piece(&found, at).is_ok()))
    }

    /// The text of a state, whole.
    pub(super) fn whole_state(&self, look: &str, digest: &str) -> Result<Vec<u8>, StoreError> {
        self.state(look, digest, None, |at, look| self.piece(Of::State, at, look))
    }
}

/// Whether a list is as it was written, as far as it says itself.
fn is_whole(list: &List) -> bool {
    match list.of {
        // Its digest is that of all its sections together; its own checksum was looked at as it was read.
        Of::State => true,
        Of::Origins => digest_of_origins(&list.pieces) == list.digest,
    }
}

/// The files of a machine's looks, by number.
pub(super) fn files(machine: &Machine) -> Result<BTreeMap<u64, PathBuf>, StoreError> {
    let folder = machine.looks();
    let files = names(&folder)?.into_iter();
    let number = |name: &str| look_in(name).and_then(look_number);
    Ok(files.filter_map(|name| Some((number(&name)?, folder.join(name)))).collect())
}
