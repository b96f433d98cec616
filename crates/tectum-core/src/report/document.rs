//! A report: what was found, and how it was found.

use jiff::Timestamp;
use sha2::{Digest, Sha256};

use super::{
    fact::{Gap, Stance, Why},
    model::{Inventory, Machine, Readings},
    pointer::Pointer,
    record::{NodeMut, Record},
    version::{CURRENT, FormatVersion},
    walk::{Met, walk},
    write::Plain,
};
use crate::{source::Operation, survey::Survey};

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
    /// Every access to the machine.
    pub sources: Vec<SourceAccess>,
    /// What a reader should know and no field says.
    pub notes: Vec<String>,
}

/// When, how and by whom a report was taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Taken {
    /// When.
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
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourceAccess {
    /// The path.
    pub path: String,
    /// What was asked, in a word.
    pub operation: String,
    /// How it ended, in words.
    pub outcome: String,
    /// Bytes given.
    pub bytes: u64,
    /// Time taken in microseconds.
    pub elapsed_us: u64,
}

impl Report {
    /// The report of a survey.
    pub fn new(survey: Survey, taken: Taken) -> Self {
        let mut sources: Vec<SourceAccess> = survey
            .accesses
            .into_iter()
            .map(|access| SourceAccess {
                path: match access.operation {
                    Operation::Uname => "uname(2)".to_owned(),
                    _ => access.path.to_string(),
                },
                operation: access.operation.word().to_owned(),
                outcome: access.outcome.words().into_owned(),
                bytes: access.bytes,
                elapsed_us: u64::try_from(access.elapsed.as_micros()).unwrap_or(u64::MAX),
            })
            .collect();
        sources.sort_by(|a, b| (&a.path, &a.operation).cmp(&(&b.path, &b.operation)));
        let notes: Vec<String> = survey
            .failures
            .into_iter()
            .map(|(section, said)| {
                format!("section {section} failed by a defect of Tectum and is left out: {said}")
            })
            .collect();
        let mut report = Self {
            format_version: CURRENT,
            taken,
            machine: survey.findings.machine,
            inventory: survey.findings.inventory,
            readings: survey.findings.readings,
            sources,
            notes,
        };
        let disagreements = report.disagreements();
        report.notes.extend(disagreements);
        report
    }

    /// A sentence for each value of which two sources say different things.
    fn disagreements(&self) -> Vec<String> {
        let mut notes = Vec::new();
        self.walk(&mut |at, _, met| {
            let Met::Leaf(fact) = met else { return };
            let Some(value) = fact.text() else { return };
            let gives = fact.evidence().first().map_or("", |piece| &*piece.source);
            for piece in fact.evidence() {
                if let Stance::Differs(says) = &piece.stance {
                    let other = &piece.source;
                    notes.push(format!(
                        "{}: {gives} says {value:?}, {other} says {says:?}; the first is taken",
                        at.as_str()
                    ));
                }
            }
        });
        notes
    }

    /// The parts of the report that hold facts, with the pointers to them.
    pub fn roots(&self) -> [(&'static str, &dyn Record); 3] {
        [("machine", &self.machine), ("inventory", &self.inventory), ("readings", &self.readings)]
    }

    /// Walks every fact of the report.
    pub fn walk<'a>(
        &'a self,
        visit: &mut dyn FnMut(&Pointer, &'static super::record::FieldShape, Met<'a>),
    ) {
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

    /// Every gap, with the pointer to it.
    pub fn gaps(&self) -> Vec<(String, &Gap)> {
        let mut gaps = Vec::new();
        self.walk(&mut |at, _, met| {
            let gap = match met {
                Met::Leaf(fact) => fact.missing(),
                Met::List(list) => list.missing(),
                Met::Record(_) => None,
            };
            if let Some(gap) = gap {
                gaps.push((at.as_str().to_owned(), gap));
            }
        });
        gaps
    }

    /// How many gaps there are for a reason.
    pub fn count_gaps(&self, why: Why) -> usize {
        self.gaps().iter().filter(|(_, gap)| gap.why == why).count()
    }

    /// `sha256:` and the digest of the inventory's canonical JSON (RFC 8785).
    pub fn inventory_digest(&self) -> String {
        // Canonical JSON of values that are strings, integers, booleans, lists and maps with
        // string keys cannot fail; should it ever, an empty text makes the digest match no other.
        let canonical =
            serde_json_canonicalizer::to_vec(&Plain(&self.inventory)).unwrap_or_default();
        let digest = Sha256::digest(&canonical);
        let mut text = String::from("sha256:");
        for byte in digest {
            text.push_str(&format!("{byte:02x}"));
        }
        text
    }
}
