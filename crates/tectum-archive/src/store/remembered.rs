//! Where values are from, as it was read before: looks at one machine share it, and machines that are alike.

use std::sync::Arc;

use tectum_report::json::origins::{Depth, Origins};

use super::bounded::Bounded;

/// The most bytes of texts whose content is remembered.
const MOST_BYTES: usize = 8 << 20;

/// Where values are from, as it was read before, by the digest of what says so.
#[derive(Debug)]
pub struct Remembered {
    whole: Bounded<String, Arc<Origins>>,
    gaps: Bounded<String, Arc<Origins>>,
}

impl Default for Remembered {
    fn default() -> Self {
        Self { whole: Bounded::new(MOST_BYTES), gaps: Bounded::new(MOST_BYTES) }
    }
}

impl Remembered {
    fn of(&self, depth: Depth) -> &Bounded<String, Arc<Origins>> {
        match depth {
            Depth::Whole => &self.whole,
            Depth::Gaps | Depth::Reasons => &self.gaps,
        }
    }

    pub(crate) fn get(&self, digest: &str, depth: Depth) -> Option<Arc<Origins>> {
        self.of(depth).get(digest)
    }

    /// Keeps what was read of a text of so many bytes.
    pub(crate) fn keep(
        &self,
        digest: &str,
        depth: Depth,
        origins: Origins,
        bytes: usize,
    ) -> Arc<Origins> {
        let origins = Arc::new(origins);
        self.of(depth).keep(digest.to_owned(), Arc::clone(&origins), bytes);
        origins
    }
}
