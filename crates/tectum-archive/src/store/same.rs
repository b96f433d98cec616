//! Sections that are the same on many machines, read once.

use std::sync::Arc;

use tectum_report::Report;

use super::{StoreError, bounded::Bounded};

/// The most bytes of reports and of the texts that they were read of.
const MOST_BYTES: usize = 8 << 20;

/// Reports of some sections, by the text of these.
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
        if let Some(known) = self.0.get(text) {
            return Ok(known);
        }
        let report = Arc::new(read()?);
        // Of what it holds beside its own size its text says how much that is.
        self.0.keep(text.to_owned(), Arc::clone(&report), size_of::<Report>() + 2 * text.len());
        Ok(report)
    }
}
