//! Removing looks: what others need of their files stays, under the name of the look.

use std::{
    collections::{BTreeMap, BTreeSet},
    path::PathBuf,
};

use super::{
    called_in,
    disk::{self, damaged, names},
    layout::{Machine, is_packed, look_in, pieces_in},
    look_file::{Line, LookFile, Of, list_key, piece_key, unreadable, written},
    observation_in, optional, pieces_of, pretty,
    reading::{Reading, files},
};
use crate::{
    store::StoreError,
    when::moment,
    written::{Removed, digest},
};

/// Removes looks of a machine, but for the last one and those that are marked.
pub(super) fn remove(
    machine: &Machine,
    numbers: &BTreeSet<u64>,
    marked: &BTreeSet<u64>,
) -> Result<(), StoreError> {
    let mut looks = BTreeMap::new();
    for (number, path) in files(machine)? {
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
    let reading = Reading::of(machine);
    let mut needed = BTreeSet::new();
    let mut going = kept_files(machine)?;
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
        let is_needed =
            |line: &&Line| line.key().is_some_and(|key| needed.contains(&(look.to_owned(), key)));
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
    Ok(())
}

/// The files of what is kept of looks that were removed.
pub(super) fn kept_files(machine: &Machine) -> Result<Vec<PathBuf>, StoreError> {
    let folder = machine.looks();
    let names = names(&folder)?.into_iter();
    let kept = names.filter(|name| pieces_in(name).is_some() && look_in(name).is_none());
    Ok(kept.map(|name| folder.join(name)).collect())
}
