//! What a look brings: of its pieces those that are not there yet, whole.

use std::collections::{BTreeMap, HashMap};

use super::{
    look_file::{Line, List, Of, StandsIn},
    reading::{Found, Reading},
};
use crate::{store::PieceAt, written::Piece};

/// What a piece is of, its section and its digest.
type Key = (Of, String, String);

/// What is in an archive of what a look needs.
pub(super) struct There<'a> {
    reading: &'a Reading<'a>,
    /// Checksums of files that were whole when they were written or looked through, by look.
    whole: &'a dyn Fn(&str) -> Option<i64>,
    state: Option<Found>,
    origins: Option<Found>,
    /// In which look's file pieces stand.
    pieces: HashMap<Key, String>,
    /// Files that were looked through just now and are whole, with their checksums.
    pub(super) found_whole: BTreeMap<String, i64>,
}

impl<'a> There<'a> {
    /// Looks what is there of the pieces of a state and of origins: `like` names a look that saw the state, if one did,
    /// and else one that saw most of it.
    pub(super) fn of(
        reading: &'a Reading<'a>,
        like: Option<&str>,
        last: Option<&str>,
        whole: &'a dyn Fn(&str) -> Option<i64>,
    ) -> Self {
        let found = |of, look: Option<&str>| reading.list(of, look?, None).ok();
        let state = found(Of::State, like.or(last));
        let origins = found(Of::Origins, last);
        let mut there = Self {
            reading,
            whole,
            state: None,
            origins: None,
            pieces: HashMap::new(),
            found_whole: BTreeMap::new(),
        };
        there.state = there.checked(state);
        there.origins = there.checked(origins);
        there
    }

    /// Notes which pieces of a list are whole; the list, if all are.
    fn checked(&mut self, found: Option<Found>) -> Option<Found> {
        let found = found?;
        let mut by_look: BTreeMap<String, Vec<PieceAt>> = BTreeMap::new();
        for at in found.pieces() {
            by_look.entry(at.look.clone().unwrap_or_default()).or_default().push(at);
        }
        // The list's own file counts too, even where no piece stands in it.
        by_look.entry(found.look.clone()).or_default();
        let mut all = true;
        for (look, pieces) in by_look {
            let Some(file) = self.reading.file(&look) else {
                all = false;
                continue;
            };
            let own = checksum(file.bytes());
            let known = self.found_whole.get(&look) == Some(&own)
                || (self.whole)(&look).is_some_and(|known| known == own);
            let mut whole = true;
            for at in pieces {
                match known || file.piece(found.list.of, &at).is_some() {
                    true => {
                        let key = (found.list.of, at.section, at.digest);
                        self.pieces.insert(key, look.clone());
                    }
                    false => whole = false,
                }
            }
            if whole && !known && file.is_whole() {
                self.found_whole.insert(look, own);
            }
            all &= whole;
        }
        all.then_some(found)
    }

    /// The lines of a look's file: the observation, and what is not there yet of what it needs.
    pub(super) fn lines(
        &self,
        text: &[u8],
        (state, sections): (&str, &[Piece]),
        (origins_list, origins): (&str, &[Piece]),
    ) -> Vec<Line> {
        let mut stands_in = StandsIn::default();
        let mut lines = vec![Line::Observation(text.to_owned())];
        let mut behind = Vec::new();
        for (of, digest, pieces) in
            [(Of::State, state, sections), (Of::Origins, origins_list, origins)]
        {
            let known = match of {
                Of::State => &self.state,
                Of::Origins => &self.origins,
            };
            if let Some(known) = known.as_ref().filter(|known| known.list.digest == digest) {
                let at = Some(known.look.clone());
                match of {
                    Of::State => stands_in.state = at,
                    Of::Origins => stands_in.origins = at,
                }
                continue;
            }
            let mut list = List { of, digest: digest.to_owned(), pieces: Vec::new() };
            for piece in pieces {
                let (section, digest) = (piece.section.clone(), piece.digest.clone());
                let look = self.pieces.get(&(of, section.clone(), digest.clone())).cloned();
                if look.is_none() {
                    behind.push(Line::Piece(of, piece.clone()));
                }
                list.pieces.push(PieceAt { section, digest, look });
            }
            lines.push(Line::List(list));
        }
        if stands_in != StandsIn::default() {
            lines.insert(1, Line::Elsewhere(stands_in));
        }
        lines.append(&mut behind);
        lines
    }
}

/// A checksum of a file, with its length: what tells that it is as it was when it was written.
pub(super) fn checksum(bytes: &[u8]) -> i64 {
    let length = u32::try_from(bytes.len()).unwrap_or(u32::MAX);
    i64::from_ne_bytes((u64::from(length) << 32 | u64::from(crc32fast::hash(bytes))).to_ne_bytes())
}
