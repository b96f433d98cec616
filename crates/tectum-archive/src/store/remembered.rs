//! Where values are from, as it was read before: looks at one machine share it, and machines that are alike.

use std::{
    collections::HashMap,
    sync::{Arc, Mutex, PoisonError},
};

use tectum_report::json::origins::{Depth, Origins};

/// The most bytes of texts whose content is remembered.
const MOST_BYTES: usize = 8 << 20;

/// Where values are from, as it was read before, by the digest of what says so.
#[derive(Debug, Default)]
pub struct Remembered(Mutex<All>);

#[derive(Debug, Default)]
struct All {
    /// By how much of it was read.
    by_depth: HashMap<Depth, HashMap<String, Arc<Origins>>>,
    /// Bytes of the texts.
    bytes: usize,
}

impl Remembered {
    pub(crate) fn get(&self, digest: &str, depth: Depth) -> Option<Arc<Origins>> {
        let all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.by_depth.get(&depth)?.get(digest).cloned()
    }

    /// Keeps what was read of a text of so many bytes; where that is too much, all else is forgotten.
    pub(crate) fn keep(
        &self,
        digest: &str,
        depth: Depth,
        origins: Origins,
        bytes: usize,
    ) -> Arc<Origins> {
        let origins = Arc::new(origins);
        if bytes <= MOST_BYTES {
            let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
            if all.bytes + bytes > MOST_BYTES {
                *all = All::default();
            }
            all.bytes += bytes;
            let same = all.by_depth.entry(depth).or_default();
            same.insert(digest.to_owned(), Arc::clone(&origins));
        }
        origins
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    fn what_is_too_much_is_forgotten_and_what_is_remembered_is_of_its_depth() {
        let remembered = Remembered::default();
        let kept = remembered.keep("a", Depth::Gaps, Origins::default(), MOST_BYTES / 2);
        assert!(Arc::ptr_eq(&remembered.get("a", Depth::Gaps).unwrap(), &kept));
        assert!(remembered.get("a", Depth::Whole).is_none());
        remembered.keep("b", Depth::Gaps, Origins::default(), MOST_BYTES / 2 + 1);
        assert!(remembered.get("a", Depth::Gaps).is_none());
        assert!(remembered.get("b", Depth::Gaps).is_some());
        remembered.keep("c", Depth::Gaps, Origins::default(), MOST_BYTES + 1);
        assert!(remembered.get("c", Depth::Gaps).is_none());
    }
}
