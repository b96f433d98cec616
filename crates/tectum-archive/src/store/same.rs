//! Sections that are the same on many machines, read once.

use std::sync::{
    Arc,
    atomic::{AtomicU64, Ordering},
};

use tectum_report::Report;

use super::{StoreError, bounded::Bounded};

/// The most bytes of reports and of the texts that they were read of.
const MOST_BYTES: usize = 8 << 20;

/// Reports of some sections, by the text of these, or by what digests say of it.
#[derive(Debug)]
pub(crate) struct SameSections {
    kept: Bounded<Vec<u8>, Arc<Report>>,
    /// How many were the same as one before, and how many were not.
    same: AtomicU64,
    other: AtomicU64,
}

impl Default for SameSections {
    fn default() -> Self {
        Self {
            kept: Bounded::new(MOST_BYTES),
            same: AtomicU64::default(),
            other: AtomicU64::default(),
        }
    }
}

/// So many are kept before anything is known of how many are the same.
const TRIED: u64 = 64;

/// Where fewer than one of so many is the same, only one of so many is kept.
const FEW: u64 = 16;

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
        let known = self.kept.get(key);
        let counted = if known.is_some() { &self.same } else { &self.other };
        counted.fetch_add(1, Ordering::Relaxed);
        known
    }

    /// Keeps what was read of a text of so many bytes.
    pub(crate) fn keep(&self, key: Vec<u8>, report: Report, bytes: usize) -> Arc<Report> {
        let report = Arc::new(report);
        let (same, other) = (self.same.load(Ordering::Relaxed), self.other.load(Ordering::Relaxed));
        if other > TRIED + FEW * same && !other.is_multiple_of(FEW) {
            return report;
        }
        // Of what it holds beside its own size its text says how much that is.
        let bytes = size_of::<Report>() + key.len() + bytes;
        self.kept.keep(key, Arc::clone(&report), bytes);
        report
    }
}

#[cfg(test)]
mod tests {
    use jiff::Timestamp;
    use tectum_report::report::{Observed, Taken};

    use super::*;

    fn report() -> Report {
        let taken = Taken {
            at: Timestamp::UNIX_EPOCH,
            tool: String::new(),
            subject: String::new(),
            privileged: false,
            sections: Vec::new(),
            elapsed_ms: 0,
        };
        Report::new(Observed::default(), taken, Vec::new(), Vec::new())
    }

    /// How many of so many texts are read, each of which stands for a machine.
    fn read(same: &SameSections, texts: impl Iterator<Item = String>) -> usize {
        let mut read = 0;
        for text in texts {
            let one = || {
                read += 1;
                Ok(report())
            };
            same.report(text.as_bytes(), one).unwrap();
        }
        read
    }

    #[test]
    fn what_is_the_same_is_read_once() {
        let same = SameSections::default();
        assert_eq!(read(&same, (0..1000).map(|number| (number % 10).to_string())), 10);
    }

    #[test]
    fn what_is_never_the_same_is_not_kept_and_what_is_again_is() {
        let same = SameSections::default();
        assert_eq!(read(&same, (0..1000).map(|number| format!("other {number}"))), 1000);
        let kept =
            (0..1000).filter(|number| same.get(format!("other {number}").as_bytes()).is_some());
        assert!(kept.count() < 130);
        // Sooner or later one of them is kept, and from then on it need not be read.
        let read = read(&same, (0..1000).map(|_| "the same".to_owned()));
        assert!(read <= 32, "{read}");
    }

    #[test]
    fn one_that_cannot_be_read_is_not_kept() {
        let same = SameSections::default();
        let failed = || Err(StoreError::Nothing { location: "/nowhere".into() });
        assert!(same.report(b"text", failed).is_err());
        assert_eq!(read(&same, ["text".to_owned()].into_iter()), 1);
    }
}
