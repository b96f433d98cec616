//! A report as JSON.

use std::{
    collections::BTreeMap,
    sync::{Mutex, PoisonError},
    thread::{self, ScopedJoinHandle},
};

use serde::{
    Serialize, Serializer,
    ser::{Error, SerializeMap, SerializeSeq},
};

use super::{
    compact,
    envelope::{Envelope, GapAt},
    print::{in_a_line, report_to_writer},
};
use crate::{
    declare::{AnyList, Node, Record, fields},
    fact::{Evidence, Gap, Saying},
    finding::{Judgement, Limits},
    report::Report,
    version::REPORT,
    walk::Met,
};

/// A record as plain values: what is missing is `null`, what is absent is left out.
pub struct Plain<'a>(pub &'a dyn Record);

impl Serialize for Plain<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        Laid { record: self.0, parts_in_lines: false, missing: Missing::Null }.serialize(serializer)
    }
}

/// A record as the plain values that it has: what is missing is left out.
pub struct Values<'a>(pub &'a dyn Record);

impl Serialize for Values<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        Laid { record: self.0, parts_in_lines: false, missing: Missing::LeftOut }
            .serialize(serializer)
    }
}

/// How plain values are laid out, and what of them is written.
#[derive(Clone, Copy)]
struct Laid<T> {
    record: T,
    /// Whether a part that holds no records stands in a line, so that what a text search finds is the whole part.
    parts_in_lines: bool,
    missing: Missing,
}

/// What is written of values that are missing.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Missing {
    /// Each is `null`.
    Null,
    /// Those are that may be there and were not seen; where the machine has none, nothing is.
    NullIfUnseen,
    /// Nothing.
    LeftOut,
}

impl Missing {
    fn leaves_out(self, gap: Option<&Gap>) -> bool {
        gap.is_some_and(|gap| match self {
            Self::Null => false,
            Self::NullIfUnseen => gap.why.says_there_is_none(),
            Self::LeftOut => true,
        })
    }
}

impl<T> Laid<T> {
    /// Another record, likewise.
    fn with<U>(&self, record: U) -> Laid<U> {
        Laid { record, parts_in_lines: self.parts_in_lines, missing: self.missing }
    }
}

impl Serialize for Laid<&dyn Record> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        for (field, node) in fields(self.record) {
            match node {
                Node::Absent => {}
                Node::Leaf(fact) if self.missing.leaves_out(fact.missing()) => {}
                Node::Leaf(fact) => map.serialize_entry(field.name, &fact.json())?,
                Node::Record(record) => map.serialize_entry(field.name, &self.with(record))?,
                Node::List(list) if self.missing.leaves_out(list.missing()) => {}
                Node::List(list) if list.missing().is_some() => {
                    map.serialize_entry(field.name, &())?;
                }
                Node::List(list) => map.serialize_entry(field.name, &self.with(list))?,
            }
        }
        map.end()
    }
}

impl Serialize for Laid<&dyn AnyList> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let all = self.record;
        let mut list = serializer.serialize_seq(Some(all.len()))?;
        for record in (0..all.len()).filter_map(|index| all.get(index)) {
            let record = self.with(record);
            if self.parts_in_lines && holds_no_records(record.record) {
                list.serialize_element(&in_a_line(&record).map_err(Error::custom)?)?;
            } else {
                list.serialize_element(&record)?;
            }
        }
        list.end()
    }
}

fn holds_no_records(record: &dyn Record) -> bool {
    fields(record).all(|(_, node)| match node {
        Node::Absent | Node::Leaf(_) => true,
        Node::Record(_) => false,
        Node::List(list) => list.is_empty(),
    })
}

/// How a report says where its values are from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Form {
    /// In tables, in which parts of a kind share what they have in common.
    #[default]
    Compact,
    /// Value by value, each by its JSON Pointer.
    Expanded,
}

/// A report with what is odd about it.
pub struct WithFindings<'a>(pub &'a Report, pub &'a Judgement, pub Form);

impl Serialize for WithFindings<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let Self(report, judgement, form) = self;
        let expanded = *form == Form::Expanded;
        thread::scope(|scope| {
            let beside = || {
                let making = thread::Builder::new().spawn_scoped(scope, || compact::tables(report));
                Some(Tables::Coming(Mutex::new(Some(making.ok()?))))
            };
            let tables = (!expanded).then(|| {
                let coming = (report.sources.len() >= MANY).then(beside).flatten();
                coming.unwrap_or_else(|| Tables::There(compact::tables(report)))
            });
            let missing = if expanded { Missing::Null } else { Missing::NullIfUnseen };
            let values = |record| Laid { record, parts_in_lines: true, missing };
            Envelope {
                format: REPORT.name.into(),
                format_version: report.format_version,
                inventory_digest: report.inventory_digest(),
                taken: report.taken.clone(),
                machine: values(&report.machine as &dyn Record),
                inventory: values(&report.inventory),
                readings: values(&report.readings),
                findings: &judgement.findings,
                notes: &report.notes,
                meanings: meanings(report),
                origins: tables,
                gaps: expanded.then_some(Gaps(report)),
                evidence: expanded.then_some(AllEvidence(report)),
                sources: expanded.then_some(&report.sources),
            }
            .serialize(serializer)
        })
    }
}

/// From so many accesses on it takes less time to make the tables beside the values that stand before them.
const MANY: usize = 4096;

/// The tables of a report, made where they are written or beside that.
enum Tables<'scope, 'a> {
    There(compact::Written<'a>),
    Coming(Mutex<Option<ScopedJoinHandle<'scope, compact::Written<'a>>>>),
}

impl Serialize for Tables<'_, '_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self {
            Self::There(tables) => tables.serialize(serializer),
            Self::Coming(making) => {
                let making = making.lock().unwrap_or_else(PoisonError::into_inner).take();
                let made =
                    making.ok_or_else(|| S::Error::custom("the tables were written before"))?;
                let tables = made.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
                tables.serialize(serializer)
            }
        }
    }
}

impl Report {
    /// The report as it is written in a form, with what is odd about it by the usual limits.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn write(&self, to: impl std::io::Write, form: Form) -> std::io::Result<()> {
        let judgement = Judgement::of(self, &Limits::default());
        report_to_writer(to, &WithFindings(self, &judgement, form))
    }
}

impl Serialize for Report {
    /// The report, with what is odd about it by the usual limits, and each value's evidence by its pointer.
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let judgement = Judgement::of(self, &Limits::default());
        WithFindings(self, &judgement, Form::Expanded).serialize(serializer)
    }
}

struct Gaps<'a>(&'a Report);

impl Serialize for Gaps<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(None)?;
        let mut result = Ok(());
        self.0.walk_gaps(&mut |at, gap| {
            if result.is_ok() {
                result = list.serialize_element(&GapAt { at: at.as_str(), gap });
            }
        });
        result?;
        list.end()
    }
}

struct AllEvidence<'a>(&'a Report);

impl Serialize for AllEvidence<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        let mut result = Ok(());
        self.0.walk(&mut |at, _, met| {
            let evidence = match met {
                Met::Leaf(fact) => fact.evidence(),
                Met::List(list) => list.evidence(),
                Met::Record(_) => &[],
            };
            if !evidence.is_empty() && result.is_ok() {
                result = map.serialize_entry(at.as_str(), evidence);
            }
        });
        result?;
        map.end()
    }
}

/// The sentences that the report's codes stand for.
fn meanings(report: &Report) -> BTreeMap<String, String> {
    let mut table = BTreeMap::new();
    report.walk(&mut |_, _, met| {
        let (evidence, gaps) = match met {
            Met::Leaf(fact) => (fact.evidence(), [fact.missing(), fact.hidden_part()]),
            Met::List(list) => (list.evidence(), [list.missing(), list.hidden_part()]),
            Met::Record(_) => return,
        };
        add_meanings(&mut table, evidence, gaps.into_iter().flatten());
    });
    table
}

/// Adds the sentences of some evidence and gaps.
pub(super) fn add_meanings<'a>(
    table: &mut BTreeMap<String, String>,
    evidence: impl IntoIterator<Item = &'a Evidence>,
    gaps: impl IntoIterator<Item = &'a Gap>,
) {
    let mut add = |saying: &Saying| {
        if !table.contains_key(saying.code()) {
            table.insert(saying.code().to_owned(), saying.words().to_owned());
        }
    };
    evidence.into_iter().for_each(|piece| add(&piece.rule));
    for gap in gaps {
        gap.hint.as_deref().into_iter().for_each(&mut add);
        gap.tried.iter().for_each(|attempt| add(&attempt.answer));
    }
}
