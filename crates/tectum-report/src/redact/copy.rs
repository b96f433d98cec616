//! The copy of a report: every text of an owner's written anew, where it stands.

use std::{cell::RefCell, collections::BTreeMap, sync::Arc};

use super::Pseudonyms;
use crate::{
    declare::{AnyList, Kind, NodeMut, Record, fact_at},
    fact::{Evidence, Gap, Place, Saying, Stance},
    keyed::Map,
    leaf::{Identifies, LeafShape, Redact, Whose},
    report::{Note, Operation, Report},
};

/// What texts of a kind became.
type Texts = BTreeMap<Identifies, Map<String, String>>;

/// What became what in a copy.
#[derive(Debug)]
pub(super) struct Made {
    texts: Texts,
    sources: Map<Arc<str>, Arc<str>>,
}

impl Made {
    /// Every text that was written anew, with what it became.
    pub(super) fn texts(&self) -> impl Iterator<Item = (&str, &str)> {
        let texts = self.texts.values().flatten().map(|(was, is)| (was.as_str(), is.as_str()));
        texts.chain(self.sources.iter().map(|(was, is)| (&**was, &**is)))
    }
}

/// What becomes of a report, and what became what in it. The kinds that are kept are told in it.
pub(super) fn of(by: &Pseudonyms, original: Report, kept: Vec<String>) -> (Report, Made) {
    let mut copier = Copier { by, texts: RefCell::default(), sources: Map::default(), left_out: 0 };
    let mut copy = original;
    for root in copy.roots_mut() {
        copier.record(root);
    }
    for access in &mut copy.sources {
        access.path = match access.operation {
            Operation::Statvfs => copier.text(Identifies::Path, &access.path),
            _ => copier.by.source(&access.path),
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
        Note::SectionUnfinished { .. }
        | Note::TimeByOwnClock
        | Note::Redacted { .. }
        | Note::Other => true,
    });
    copy.notes.push(Note::Redacted { kept, raw_texts_left_out: copier.left_out });
    (copy, Made { texts: copier.texts.into_inner(), sources: copier.sources })
}

/// Writes anew what a report says, each text once: the same stands in many places.
struct Copier<'a> {
    by: &'a Pseudonyms,
    texts: RefCell<Texts>,
    /// What files' paths became.
    sources: Map<Arc<str>, Arc<str>>,
    /// Raw texts that were left out.
    left_out: u64,
}

impl Copier<'_> {
    fn record(&mut self, record: &mut dyn Record) {
        for index in 0..record.shape().fields.len() {
            match record.node_mut(index) {
                Some(NodeMut::Leaf(fact)) => {
                    let shape = fact.leaf_shape();
                    let was = fact.text();
                    fact.redact_value(self);
                    let is = fact.text();
                    for piece in fact.evidence_mut() {
                        self.evidence(piece, shape, was.as_deref(), is.as_deref());
                    }
                    let part = fact.hidden_part().cloned();
                    if let Some(mut gap) = part {
                        self.gap(&mut gap);
                        fact.set_hidden_part(Some(gap));
                    }
                    if let Some(gap) = fact.missing_mut() {
                        self.gap(gap);
                    }
                }
                Some(NodeMut::Record(inner)) => self.record(inner),
                Some(NodeMut::Optional(slot)) => {
                    if let Some(inner) = slot.get_mut() {
                        self.record(inner);
                    }
                }
                Some(NodeMut::List(list)) => {
                    for piece in list.evidence_mut() {
                        let shape = LeafShape::own(crate::leaf::JsonForm::Boolean);
                        self.evidence(piece, shape, None, None);
                    }
                    let part = list.hidden_part().cloned();
                    if let Some(mut gap) = part {
                        self.gap(&mut gap);
                        list.set_hidden_part(Some(gap));
                    }
                    if let Some(gap) = list.missing_mut() {
                        self.gap(gap);
                    }
                    let keys = sorted_by(list);
                    for item in 0..list.len() {
                        if let Some(item) = list.get_mut(item) {
                            self.record(item);
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
        &mut self,
        piece: &mut Evidence,
        shape: LeafShape,
        was: Option<&str>,
        is: Option<&str>,
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
                    self.left_out += 1;
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

    fn gap(&mut self, gap: &mut Gap) {
        if gap.raw.take().is_some() {
            self.left_out += 1;
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

    fn shared_source(&mut self, source: &Arc<str>) -> Arc<str> {
        if let Some(new) = self.sources.get(source) {
            return Arc::clone(new);
        }
        let new = self.by.source(source);
        let new = if *new == **source { Arc::clone(source) } else { new.into() };
        self.sources.insert(Arc::clone(source), Arc::clone(&new));
        new
    }
}

impl Redact for Copier<'_> {
    fn text(&self, kind: Identifies, text: &str) -> String {
        let mut texts = self.texts.borrow_mut();
        let of_kind = texts.entry(kind).or_default();
        match of_kind.get(text) {
            Some(new) => new.clone(),
            None => {
                let new = self.by.text(kind, text);
                of_kind.insert(text.to_owned(), new.clone());
                new
            }
        }
    }
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
