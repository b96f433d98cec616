//! Copies fit to share: a report written anew from the model, with what an owner or user chose
//! replaced where it stands, and everything left out that is not known to be harmless.
//!
//! What is whose is declared by the types of the model's leaves ([`crate::leaf::Whose`]), so a new
//! field cannot be forgotten. A pseudonym follows from the text and a key alone: the same key gives
//! the same pseudonym, so redacted reports compare as the originals do.

mod address;
mod command_line;
mod mount;
mod name;
mod originals;
mod path;
mod pseudonym;

use std::{collections::BTreeSet, sync::Arc};

pub use originals::Originals;
pub use pseudonym::pseudonym;

use crate::{
    declare::{AnyList, Kind, NodeMut, Record, fact_at},
    fact::{Evidence, Gap, Place, Saying, Stance},
    leaf::{Identifies, LeafShape, Redact, Whose},
    report::{Note, Operation, Report},
    walk::Met,
};

/// Why nothing was written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum RedactError {
    /// An original still stands in the copy.
    #[error("a text that should have been replaced still stands {place}; nothing was written")]
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
    key: Vec<u8>,
    keep: BTreeSet<Identifies>,
}

impl Pseudonyms {
    /// Pseudonyms that follow from a key, but for the kinds to keep.
    pub fn new(key: &[u8], keep: &BTreeSet<Identifies>) -> Self {
        Self { key: key.to_vec(), keep: keep.clone() }
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
                Err(_) => pseudonym(&self.key, kind, text),
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
            _ => pseudonym(&self.key, kind, text),
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
        let copy = self.copy(original, self.kept());
        self.second_lock(original, &copy)?;
        Ok(copy)
    }

    /// The kinds of text that are kept, by their words.
    pub fn kept(&self) -> Vec<String> {
        self.keep.iter().map(|kind| kind.word().to_owned()).collect()
    }

    fn copy(&self, original: &Report, kept: Vec<String>) -> Report {
        let mut copy = original.clone();
        let mut left_out = 0;
        for root in copy.roots_mut() {
            self.record(root, &mut left_out);
        }
        for access in &mut copy.sources {
            access.path = match access.operation {
                Operation::Statvfs => self.text(Identifies::Path, &access.path),
                _ => self.source(&access.path),
            };
            // How long a file is tells of what stood in it; how long it took, of the machine.
            (access.bytes, access.elapsed_us) = (None, None);
        }
        copy.sources.sort_by(|a, b| (&a.path, a.operation).cmp(&(&b.path, b.operation)));
        copy.taken.subject = match copy.taken.subject.as_str() {
            "live" => "live".to_owned(),
            demo if demo.starts_with("demo:") => demo.to_owned(),
            _ => "redacted".to_owned(),
        };
        copy.notes.retain_mut(|note| match note {
            // What two sources say of a value is told by its evidence.
            Note::SourcesDiffer { .. } => false,
            Note::SectionFailed { said, .. } => {
                "…".clone_into(said);
                true
            }
            Note::NewerFormat { passed_over, .. } | Note::NotKnown { passed_over } => {
                passed_over.clear();
                true
            }
            Note::SectionUnfinished { .. } | Note::Redacted { .. } | Note::Other => true,
        });
        copy.notes.push(Note::Redacted { kept, raw_texts_left_out: left_out });
        copy
    }

    fn record(&self, record: &mut dyn Record, left_out: &mut u64) {
        for index in 0..record.shape().fields.len() {
            match record.node_mut(index) {
                Some(NodeMut::Leaf(fact)) => {
                    let shape = fact.leaf_shape();
                    let was = fact.text();
                    fact.redact_value(self);
                    let is = fact.text();
                    let mut evidence = fact.evidence().to_vec();
                    for piece in &mut evidence {
                        self.evidence(piece, shape, was.as_deref(), is.as_deref(), left_out);
                    }
                    fact.replace_evidence(evidence);
                    let part = fact.hidden_part().cloned();
                    if let Some(mut gap) = part {
                        self.gap(&mut gap, left_out);
                        fact.set_hidden_part(Some(gap));
                    }
                    if let Some(gap) = fact.missing_mut() {
                        self.gap(gap, left_out);
                    }
                }
                Some(NodeMut::Record(inner)) => self.record(inner, left_out),
                Some(NodeMut::Optional(slot)) => {
                    if let Some(inner) = slot.get_mut() {
                        self.record(inner, left_out);
                    }
                }
                Some(NodeMut::List(list)) => {
                    let mut evidence = list.evidence().to_vec();
                    for piece in &mut evidence {
                        let shape = LeafShape::own(crate::leaf::JsonForm::Boolean);
                        self.evidence(piece, shape, None, None, left_out);
                    }
                    list.set_evidence(evidence);
                    let part = list.hidden_part().cloned();
                    if let Some(mut gap) = part {
                        self.gap(&mut gap, left_out);
                        list.set_hidden_part(Some(gap));
                    }
                    if let Some(gap) = list.missing_mut() {
                        self.gap(gap, left_out);
                    }
                    let keys = sorted_by(list);
                    for item in 0..list.len() {
                        if let Some(item) = list.get_mut(item) {
                            self.record(item, left_out);
                        }
                    }
                    sort_by(list, &keys);
                }
                None => {}
            }
        }
    }

    /// Evidence keeps source, place and rule, and its raw text only where it is nothing but the
    /// value.
    fn evidence(
        &self,
        piece: &mut Evidence,
        shape: LeafShape,
        was: Option<&str>,
        is: Option<&str>,
        left_out: &mut u64,
    ) {
        piece.source = self.shared_source(&piece.source);
        self.place(&mut piece.place);
        piece.rule.without_detail();
        if let Some(raw) = &piece.raw {
            let trimmed = raw.trim();
            let number = trimmed.len() <= 20 && trimmed.bytes().all(|byte| byte.is_ascii_digit());
            piece.raw = match (was, is) {
                (Some(was), Some(is)) if trimmed == was => Some(is.into()),
                (Some(_), Some(_)) if shape.whose == Whose::Nobodys && number => {
                    Some(Arc::clone(raw))
                }
                _ => {
                    *left_out += 1;
                    None
                }
            };
        }
        if let (Stance::Differs(says), Whose::Owners(kind)) = (&mut piece.stance, shape.whose) {
            **says = self.text(kind, says).into();
        }
    }

    /// A named place may be a mount point or another name of an owner's.
    fn place(&self, place: &mut Option<Place>) {
        if let Some(Place::Named(name)) = place
            && name.starts_with('/')
        {
            *place = Some(Place::Named(self.text(Identifies::Path, name).into()));
        }
    }

    fn gap(&self, gap: &mut Gap, left_out: &mut u64) {
        if gap.raw.take().is_some() {
            *left_out += 1;
        }
        if let Some(source) = &gap.source {
            gap.source = Some(self.shared_source(source));
        }
        if let Some(hint) = &mut gap.hint {
            hint.without_detail();
        }
        for attempt in &mut gap.tried {
            attempt.source = self.shared_source(&attempt.source);
            Saying::without_detail(&mut attempt.answer);
        }
    }

    fn shared_source(&self, source: &Arc<str>) -> Arc<str> {
        let new = self.source(source);
        if *new == **source { Arc::clone(source) } else { new.into() }
    }

    /// What must not stand in the copy is searched for in it: should a defect let it through,
    /// nothing is written.
    fn second_lock(&self, original: &Report, copy: &Report) -> Result<(), RedactError> {
        let originals = Originals::of(original, self)?;
        let mut found = None;
        copy.walk(&mut |at, _, met| {
            let Met::Leaf(fact) = met else { return };
            // What its maker says, and what is kept, may be anything.
            let checked = match fact.leaf_shape().whose {
                Whose::Makers => false,
                Whose::Owners(kind) => self.replaces(kind),
                Whose::Nobodys => true,
            };
            let pieces = fact.evidence().iter();
            let sources = pieces.clone().map(|piece| piece.source.to_string());
            let raws = pieces.filter_map(|piece| piece.raw.as_deref().map(str::to_owned));
            for text in fact.text().into_iter().chain(raws).chain(sources) {
                if checked && let Some(kind) = originals.stands_in(text.as_bytes()) {
                    found.get_or_insert_with(|| format!("at {} ({})", at.as_str(), kind.word()));
                }
            }
        });
        match found {
            Some(place) => Err(RedactError::StillThere { place }),
            None => Ok(()),
        }
    }
}

/// A report that was surveyed from a redacted capture: what a redacted report leaves out is left
/// out of it.
pub fn of_redacted_capture(report: &Report, kept: Vec<String>) -> Report {
    let all = Identifies::ALL.iter().copied().collect();
    let as_it_is = Pseudonyms::new(&[], &all);
    as_it_is.copy(report, kept)
}

/// The fields of an owner's words by which a list of parts is put into order once more: the old order
/// would say something of the old texts. That is the name, where the parts stood in the order of
/// their names; and where a part's line is all that says where it stood, its file.
fn sorted_by(list: &dyn AnyList) -> Vec<usize> {
    let shape = list.item_shape();
    let owners = |kinds: &[Identifies]| {
        shape.fields.iter().position(|field| match &field.kind {
            Kind::Leaf(leaf) => matches!(leaf.whose, Whose::Owners(kind) if kinds.contains(&kind)),
            _ => false,
        })
    };
    if let Some(line) = shape.incidental.first() {
        return owners(&[Identifies::Path]).into_iter().chain([*line]).collect();
    }
    let name = owners(&[Identifies::InterfaceName, Identifies::DeviceName]);
    let sorted = |index: &usize| (0..list.len()).map(|item| key(list, item, *index)).is_sorted();
    name.into_iter().filter(sorted).collect()
}

fn sort_by(list: &mut dyn AnyList, keys: &[usize]) {
    if keys.is_empty() {
        return;
    }
    let mut order: Vec<usize> = (0..list.len()).collect();
    order.sort_by_key(|item| keys.iter().map(|index| key(list, *item, *index)).collect::<Vec<_>>());
    list.reorder(&order);
}

/// A field as what is compared: a number as a number.
fn key(list: &dyn AnyList, item: usize, field: usize) -> Option<(u64, String)> {
    let text = fact_at(list.get(item)?, field)?.text()?;
    Some((text.parse().unwrap_or(0), text))
}

impl Redact for Pseudonyms {
    fn text(&self, kind: Identifies, text: &str) -> String {
        if self.replaces(kind) { self.plain(kind, text) } else { text.to_owned() }
    }
}
