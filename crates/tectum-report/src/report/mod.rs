//! A report: what was found, and how it was found.

pub mod access;
mod note;

use jiff::Timestamp;
use ring::digest::{SHA256, digest};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    declare::{AnyFact, FieldShape, NodeMut, Record},
    fact::{Gap, Stance, Why},
    json::{
        canonical,
        pointer::{Pointer, members},
    },
    model::{Inventory, Machine, Readings},
    version::{FormatVersion, REPORT},
    walk::{Met, walk},
};
pub use access::{Operation, Outcome};
pub use note::Note;

/// A report.
#[derive(Debug, Clone, PartialEq)]
pub struct Report {
    /// The version of its form.
    pub format_version: FormatVersion,
    /// When, how and by whom it was taken.
    pub taken: Taken,
    /// Which machine it is.
    pub machine: Machine,
    /// What should only change when somebody changes the machine.
    pub inventory: Inventory,
    /// What moves by itself.
    pub readings: Readings,
    /// Every access to the machine, sorted.
    pub sources: Vec<SourceAccess>,
    /// What a reader should know and no field says.
    pub notes: Vec<Note>,
}

/// When, how and by whom a report was taken.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Taken {
    /// When.
    #[schemars(with = "String", extend("format" = "date-time"))]
    pub at: Timestamp,
    /// The tool and its version.
    pub tool: String,
    /// What was surveyed, as the user named it.
    pub subject: String,
    /// Whether the survey ran as root.
    pub privileged: bool,
    /// The sections asked for.
    pub sections: Vec<String>,
    /// Time it took in milliseconds.
    pub elapsed_ms: u64,
}

/// An access to the machine, as a report keeps it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct SourceAccess {
    /// The path; for a question that has none, the system call.
    pub path: String,
    /// What was asked.
    pub operation: Operation,
    /// How it ended.
    pub outcome: Outcome,
    /// Bytes given; left out of a redacted report.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bytes: Option<u64>,
    /// Time taken in microseconds, to the nearest ten; left out of a redacted report.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub elapsed_us: Option<u64>,
}

impl SourceAccess {
    /// By what accesses are sorted.
    pub fn order(&self) -> impl Ord {
        (&self.path, self.operation, self.outcome.code(), self.bytes, self.elapsed_us)
    }
}

/// What a survey found.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Observed {
    /// Which machine it is.
    pub machine: Machine,
    /// What should only change when somebody changes the machine.
    pub inventory: Inventory,
    /// What moves by itself.
    pub readings: Readings,
}

impl Report {
    /// A report of what was found, with how.
    pub fn new(
        observed: Observed,
        taken: Taken,
        mut sources: Vec<SourceAccess>,
        notes: Vec<Note>,
    ) -> Self {
        sources.sort_by(|a, b| a.order().cmp(&b.order()));
        let Observed { machine, inventory, readings } = observed;
        let mut report = Self {
            format_version: REPORT.current,
            taken,
            machine,
            inventory,
            readings,
            sources,
            notes,
        };
        let disagreements = report.disagreements();
        report.notes.extend(disagreements);
        report
    }

    /// A note for each value of which two sources say different things.
    fn disagreements(&self) -> Vec<Note> {
        let mut notes = Vec::new();
        self.walk(&mut |at, _, met| {
            let Met::Leaf(fact) = met else { return };
            let Some(value) = fact.text() else { return };
            let gives = fact.evidence().first().map_or("", |piece| &*piece.source);
            for piece in fact.evidence() {
                if let Stance::Differs(says) = &piece.stance {
                    notes.push(Note::SourcesDiffer {
                        at: at.as_str().to_owned(),
                        source: gives.to_owned(),
                        says: value.clone(),
                        other_source: piece.source.to_string(),
                        other_says: says.to_string(),
                    });
                }
            }
        });
        notes
    }

    /// The parts of the report that hold facts, with the pointers to them.
    pub fn roots(&self) -> [(&'static str, &dyn Record); 3] {
        [("machine", &self.machine), ("inventory", &self.inventory), ("readings", &self.readings)]
    }

    /// The same, to be changed.
    pub fn roots_mut(&mut self) -> [&mut dyn Record; 3] {
        [&mut self.machine, &mut self.inventory, &mut self.readings]
    }

    /// The fact at a JSON Pointer, to be changed.
    pub fn fact_mut(&mut self, pointer: &str) -> Option<&mut dyn AnyFact> {
        fn within<'a>(record: &'a mut dyn Record, way: &[String]) -> Option<&'a mut dyn AnyFact> {
            let (name, rest) = way.split_first()?;
            let index = record.shape().index_of(name)?;
            match record.node_mut(index)? {
                NodeMut::Leaf(fact) => rest.is_empty().then_some(fact),
                NodeMut::Record(inner) => within(inner, rest),
                NodeMut::Optional(inner) => within(inner.get_mut()?, rest),
                NodeMut::List(list) => {
                    let (number, rest) = rest.split_first()?;
                    within(list.get_mut(number.parse().ok()?)?, rest)
                }
            }
        }
        let way: Vec<String> = members(pointer).collect();
        let (root, way) = way.split_first()?;
        let at = self.roots().iter().position(|(name, _)| name == root)?;
        within(self.roots_mut().into_iter().nth(at)?, way)
    }

    /// Walks every fact of the report.
    pub fn walk<'a>(&'a self, visit: &mut dyn FnMut(&Pointer, &'static FieldShape, Met<'a>)) {
        for (name, root) in self.roots() {
            let mut at = Pointer::root();
            at.push(name);
            walk(root, &mut at, visit);
        }
    }

    /// Leaves only these sections in the report.
    pub fn keep_sections(&mut self, names: &[&str]) {
        for root in [&mut self.inventory as &mut dyn Record, &mut self.readings] {
            for (index, field) in root.shape().fields.iter().enumerate() {
                if let Some(NodeMut::Optional(section)) = root.node_mut(index)
                    && !names.contains(&field.name)
                {
                    section.clear();
                }
            }
        }
        self.taken.sections.retain(|section| names.contains(&section.as_str()));
    }

    /// Walks every gap.
    pub fn walk_gaps<'a>(&'a self, visit: &mut dyn FnMut(&Pointer, &'a Gap)) {
        self.walk(&mut |at, _, met| {
            let gap = match met {
                Met::Leaf(fact) => fact.missing().or_else(|| fact.hidden_part()),
                Met::List(list) => list.missing().or_else(|| list.hidden_part()),
                Met::Record(_) => None,
            };
            if let Some(gap) = gap {
                visit(at, gap);
            }
        });
    }

    /// Every gap, with the pointer to it.
    pub fn gaps(&self) -> Vec<(String, &Gap)> {
        let mut gaps = Vec::new();
        self.walk_gaps(&mut |at, gap| gaps.push((at.as_str().to_owned(), gap)));
        gaps
    }

    /// How many gaps there are for a reason.
    pub fn count_gaps(&self, why: Why) -> usize {
        let mut count = 0;
        self.walk_gaps(&mut |_, gap| count += usize::from(gap.why == why));
        count
    }

    /// `sha256:` and the digest of the inventory's canonical JSON (RFC 8785).
    pub fn inventory_digest(&self) -> String {
        let mut canonical = Vec::new();
        // Canonical JSON of values that are strings, integers, booleans, lists and maps with
        // string keys cannot fail; should it ever, an empty text makes the digest match no other.
        if canonical::write(&self.inventory, &mut canonical).is_err() {
            canonical.clear();
        }
        format!("sha256:{}", hex::encode(digest(&SHA256, &canonical)))
    }
}
