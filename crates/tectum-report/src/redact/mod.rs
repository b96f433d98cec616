//! Copies fit to share: a report written anew from the model, with what an owner or user chose
//! replaced where it stands, and everything left out that is not known to be harmless.
//!
//! What is whose is declared by the types of the model's leaves ([`crate::leaf::Whose`]), so a new
//! field cannot be forgotten. A pseudonym follows from the text and a key alone: the same key gives
//! the same pseudonym, so redacted reports compare as the originals do.

mod address;
mod command_line;
mod copy;
mod mount;
mod name;
mod originals;
mod path;
mod pseudonym;

use std::{
    collections::BTreeSet,
    sync::Arc,
    thread::{self, ScopedJoinHandle},
};

pub use originals::Originals;
use originals::Texts;
pub use pseudonym::pseudonym;
use pseudonym::same_form;

use crate::{
    keyed::Set,
    leaf::{Identifies, Redact, Whose},
    report::Report,
    walk::Met,
};

/// Why nothing was written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum RedactError {
    /// An original still stands in the copy.
    #[error(
        "a text that should have been replaced still stands {place}; nothing was written; \
             a kind of text (the word in parentheses) can be kept as it is"
    )]
    StillThere {
        /// Where, without the text itself.
        place: String,
    },
    /// The patterns could not be made ready.
    #[error("the texts to replace cannot be searched for: {0}")]
    Search(String),
}

/// What replaces the texts of some kinds, by a key.
#[derive(Debug, Clone)]
pub struct Pseudonyms {
    key: ring::hmac::Key,
    keep: BTreeSet<Identifies>,
}

impl Pseudonyms {
    /// Pseudonyms that follow from a key, but for the kinds to keep.
    pub fn new(key: &[u8], keep: &BTreeSet<Identifies>) -> Self {
        Self { key: pseudonym::key(key), keep: keep.clone() }
    }

    /// Whether texts of a kind are replaced.
    pub fn replaces(&self, kind: Identifies) -> bool {
        !self.keep.contains(&kind)
    }

    /// A text as what it is, whatever is kept.
    fn plain(&self, kind: Identifies, text: &str) -> String {
        if text.trim().is_empty() {
            return text.to_owned();
        }
        match kind {
            Identifies::Address => match text.parse() {
                Ok(address) => address::pseudonym(&self.key, address).to_string(),
                Err(_) => same_form(&self.key, kind, text),
            },
            Identifies::InterfaceName => name::interface(self, text),
            Identifies::DeviceName => name::device(self, text),
            Identifies::Path if text.starts_with("/etc/") => path::source(self, text),
            Identifies::Path => path::folders(self, text),
            Identifies::MountSource => mount::source(self, text),
            Identifies::MountOption => mount::option(self, text),
            Identifies::FilesystemKind => mount::filesystem(self, text),
            Identifies::ParameterName => command_line::parameter(self, text),
            Identifies::ParameterValue => command_line::value(self, text),
            Identifies::CommandLine => command_line::line(self, text),
            _ => same_form(&self.key, kind, text),
        }
    }

    /// A path of a file that was read, with the names in it that an owner chose replaced.
    pub fn source(&self, path: &str) -> String {
        path::source(self, path)
    }

    /// A copy of a report, fit to share.
    ///
    /// # Errors
    /// When an original still stands in the copy.
    pub fn report(&self, original: &Report) -> Result<Report, RedactError> {
        self.report_and(original.clone(), |_| ()).map(|(copy, ())| copy)
    }

    /// The same of a report that nobody needs any more, with what is made of the copy while it is searched for originals:
    /// nobody has either before nothing was found.
    ///
    /// # Errors
    /// As [`Self::report`].
    pub fn report_and<T>(
        &self,
        original: Report,
        make: impl FnOnce(&Report) -> T,
    ) -> Result<(Report, T), RedactError> {
        thread::scope(|beside| {
            // To make ready what is searched for takes as long as the copy.
            let texts = Texts::of(&original);
            let originals = beside.spawn(|| Originals::of(texts, self));
            let (copy, texts) = copy::of(self, original, self.kept());
            let made = thread::scope(|beside| {
                let searched = beside.spawn(|| {
                    let mut originals = joined(originals)?;
                    originals.know_made(texts.texts());
                    self.second_lock(&originals, &copy)
                });
                let made = make(&copy);
                joined(searched).map(|()| made)
            })?;
            Ok((copy, made))
        })
    }

    /// The originals of a report, for what is written anew outside of one: files of a capture.
    ///
    /// # Errors
    /// When there are more than can be searched for.
    pub fn originals(&self, original: &Report) -> Result<Originals, RedactError> {
        let (_, made) = copy::of(self, original.clone(), self.kept());
        let mut originals = Originals::of(Texts::of(original), self)?;
        originals.know_made(made.texts());
        Ok(originals)
    }

    /// The kinds of text that are kept, by their words.
    pub fn kept(&self) -> Vec<String> {
        self.keep.iter().map(|kind| kind.word().to_owned()).collect()
    }

    /// What must not stand in the copy is searched for in it: should a defect let it through,
    /// nothing is written.
    fn second_lock(&self, originals: &Originals, copy: &Report) -> Result<(), RedactError> {
        let mut found = None;
        // Most values are from files that others are from too.
        let mut searched: Set<Arc<str>> = Set::default();
        copy.walk(&mut |at, _, met| {
            let Met::Leaf(fact) = met else { return };
            // What is kept may be anything. A maker's word may not: firmware and drivers put serial numbers and addresses
            // where a model is asked for.
            let checked = match fact.leaf_shape().whose {
                Whose::Owners(kind) => self.replaces(kind),
                Whose::Makers | Whose::Nobodys => true,
            };
            if !checked {
                return;
            }
            let mut search = |text: &str| {
                if let Some(kind) = originals.stands_in(text.as_bytes()) {
                    found.get_or_insert_with(|| format!("at {} ({})", at.as_str(), kind.word()));
                }
            };
            let text = fact.text();
            text.iter().for_each(|text| search(text));
            for piece in fact.evidence() {
                // Mostly the raw text is the value.
                let raw = piece.raw.as_deref().filter(|raw| Some(*raw) != text.as_deref());
                raw.iter().for_each(|raw| search(raw));
                if !searched.contains(&piece.source) {
                    search(&piece.source);
                    searched.insert(Arc::clone(&piece.source));
                }
            }
        });
        match found {
            Some(place) => Err(RedactError::StillThere { place }),
            None => Ok(()),
        }
    }
}

/// What a thread has made.
fn joined<T>(thread: ScopedJoinHandle<'_, T>) -> T {
    thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
}

/// A report that was surveyed from a redacted capture: what a redacted report leaves out is left
/// out of it.
pub fn of_redacted_capture(report: &Report, kept: Vec<String>) -> Report {
    let all = Identifies::ALL.iter().copied().collect();
    let as_it_is = Pseudonyms::new(&[], &all);
    copy::of(&as_it_is, report.clone(), kept).0
}

impl Redact for Pseudonyms {
    fn text(&self, kind: Identifies, text: &str) -> String {
        if self.replaces(kind) { self.plain(kind, text) } else { text.to_owned() }
    }
}
