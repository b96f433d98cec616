//! The values of machines as they were looked at last: a file or two each, and of it what is asked for.

use std::sync::{
    Arc,
    atomic::{AtomicBool, Ordering},
};

use tectum_report::Report;

use super::{FolderStore, layout::Machine, look_file::Of, reading::Reading};
use crate::store::{Asked, Latest, StoreError, each_latest, same::SameSections, same_values};

impl FolderStore {
    /// See [`Store::latest_values`](crate::store::Store::latest_values).
    pub(super) fn each_latest_value(
        &self,
        machines: &[Latest],
        asked: &Asked<'_>,
        each: &(dyn Fn(usize, &Report) + Sync),
    ) -> Result<(), StoreError> {
        let same = SameSections::default();
        let packed = AtomicBool::new(self.packed);
        let looks = match asked.names() {
            Some(_) => self.index().index.looks_with_latest(machines)?,
            None => Vec::new(),
        };
        each_latest(machines, each, |row, latest| {
            let look = looks.get(row).and_then(Option::as_deref);
            match look.and_then(|look| self.by_digests(&same, latest, look, asked, &packed)) {
                Some(report) => Ok(report),
                // What is damaged or gone may stand elsewhere, and if it does not, that is told.
                None => same_values(self, &same, latest, asked),
            }
        })
    }

    /// The values that are wanted of a state by the look that saw it first. What is the same is told by the digests of
    /// sections, before their texts are read.
    fn by_digests(
        &self,
        same: &SameSections,
        latest: &Latest,
        look: &str,
        asked: &Asked<'_>,
        packed: &AtomicBool,
    ) -> Option<Arc<Report>> {
        let wanted = asked.names()?;
        let machine = Machine::at(&self.root, &latest.machine);
        // Most files of an archive are alike.
        let reading = Reading::expecting(&machine, packed.load(Ordering::Relaxed));
        let found = reading.list(Of::State, look, Some(&latest.state)).ok()?;
        if let Some(file) = reading.file(look) {
            packed.store(file.is_packed(), Ordering::Relaxed);
        }
        let pieces = found.list.pieces.iter();
        let pieces: Vec<_> = pieces.filter(|at| wanted.contains(&at.section.as_str())).collect();
        let mut key = Vec::new();
        for at in &pieces {
            key.extend_from_slice(at.section.as_bytes());
            key.extend_from_slice(at.digest.as_bytes());
        }
        if let Some(known) = same.get(&key) {
            return Some(known);
        }
        let mut text = b"{".to_vec();
        for at in pieces {
            if text.len() > 1 {
                text.push(b',');
            }
            serde_json::to_writer(&mut text, &at.section).ok()?;
            text.push(b':');
            text.append(&mut reading.piece(Of::State, at, &found.look).ok()?);
        }
        text.push(b'}');
        let text = std::str::from_utf8(&text).ok()?;
        let what = || format!("state {} of {}", latest.state, latest.machine);
        let report = asked.of_inventory(&what, &latest.state, text).ok()?;
        Some(same.keep(key, report, text.len()))
    }
}
