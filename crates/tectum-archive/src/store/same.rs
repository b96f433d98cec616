//! Sections that are the same on many machines, read once.

use std::sync::Arc;

use tectum_report::Report;

use super::{StoreError, bounded::Bounded};

/// The most bytes of reports and of the texts that they were read of.
const MOST_BYTES: usize = 8 << 20;

/// Reports of some sections, by the text of these, or by what digests say of it.
#[derive(Debug)]
pub(crate) struct SameSections(Bounded<Vec<u8>, Arc<Report>>);

impl Default for SameSections {
    fn default() -> Self {
        Self(Bounded::new(MOST_BYTES))
    }
}

impl SameSections {
    /// The report of a text, which is read where none was the same before it.
    pub(crate) fn report(
        &self,
        text: &[u8],
        read: impl FnOnce() -> Result<Report, StoreError>,
    ) -> Result<Arc<Report>, StoreError> {
        match self.get(text) {
            Some(known) => Ok(known),
            None => Ok(self.keep(text.to_owned(), read()?, text.len())),
        }
    }

    /// What was read of the same.
    pub(crate) fn get(&self, key: &[u8]) -> Option<Arc<Report>> {
        self.0.get(key)
    }

    /// Keeps what was read of a text of so many bytes.
    pub(crate) fn keep(&self, key: Vec<u8>, report: Report, bytes: usize) -> Arc<Report> {
        let report = Arc::new(report);
        // Of what it holds beside its own size its text says how much that is.
        let bytes = size_of::<Report>() + key.len() + bytes;
        self.0.keep(key, Arc::clone(&report), bytes);
        report
    }
}
