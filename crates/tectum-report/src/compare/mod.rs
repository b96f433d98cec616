//! What changed from one report to another.
//!
//! The machine is matched first, then its parts: by what makes each itself (a disk by its World
//! Wide Name, a module by part and serial number), by place, by kind, by name. What a field refers
//! to is the part that it names, so a name that the kernel gave anew is no change, and another part
//! under the same name is one. A part that sits elsewhere has moved, another part in the same place
//! has replaced the one before. One cause is told once: what follows from a change stands beneath
//! it. What either report could not see is not compared, and said.
//!
//! Everything here works on the model's declarations (see [`crate::declare`]); no field is named.

mod cause;
mod difference;
mod label;
mod machine;
mod pairing;

use schemars::JsonSchema;
use serde::{Serialize, Serializer};
use serde_json::Value;

use crate::{
    json::write::Plain,
    leaf::{Unit, codes},
    report::Report,
    version::{COMPARISON, FormatVersion},
};
use difference::Differences;
pub(crate) use label::{data, in_units};
pub use label::{label, read as shown};

/// What to compare.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// The inventory alone.
    Inventory,
    /// The inventory and the readings.
    InventoryAndReadings,
}

/// What changed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Comparison {
    /// The word that names the form.
    pub format: &'static str,
    /// The version of the form.
    pub format_version: FormatVersion,
    /// What was compared.
    pub before: Compared,
    /// What it was compared with.
    pub after: Compared,
    /// Whether both reports are of one machine.
    pub machines: Machines,
    /// How many changes each section has.
    pub summary: Vec<SectionSummary>,
    /// The changes, in the order of the report.
    pub changes: Vec<Change>,
    /// What could not be compared.
    pub not_compared: Vec<NotCompared>,
}

/// One of the two reports.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Compared {
    /// What was surveyed, as the user named it.
    pub subject: String,
    /// When it was surveyed.
    #[schemars(with = "String", extend("format" = "date-time"))]
    pub taken_at: jiff::Timestamp,
    /// Whether it was surveyed as root.
    pub privileged: bool,
    /// What says which machine it is.
    pub machine: Value,
    /// Digest of its inventory's canonical JSON (RFC 8785).
    pub inventory_digest: String,
}

impl Compared {
    fn of(report: &Report) -> Self {
        Self {
            subject: report.taken.subject.clone(),
            taken_at: report.taken.at,
            privileged: report.taken.privileged,
            machine: serde_json::to_value(Plain(&report.machine)).unwrap_or_default(),
            inventory_digest: report.inventory_digest(),
        }
    }
}

/// Whether both reports are of one machine, and by what that is known.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Machines {
    /// Whether they are.
    pub same: Sameness,
    /// The fields of the machine that say so.
    pub by: Vec<FieldChange>,
}

codes! {
    /// Whether two reports are of one machine.
    Sameness {
        /// One machine, by what makes it itself.
        Same = "same",
        /// Two machines, by what makes each itself.
        Other = "other",
        /// Nothing that both reports know says whether it is one machine.
        Unknown = "unknown",
    }
}

/// How many changes a section has.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct SectionSummary {
    /// The section.
    pub section: String,
    /// Parts added.
    pub added: usize,
    /// Parts removed.
    pub removed: usize,
    /// Parts replaced.
    pub replaced: usize,
    /// Parts moved.
    pub moved: usize,
    /// Parts changed.
    pub changed: usize,
}

/// One change.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Change {
    /// What happened.
    pub what: What,
    /// The section.
    pub section: String,
    /// What such a part is called.
    pub part: &'static str,
    /// The part before; absent where it was added.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<Side>,
    /// The part after; absent where it was removed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<Side>,
    /// The parts it lies in, outermost first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub within: Vec<String>,
    /// The fields that differ.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<FieldChange>,
    /// What follows from this change.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub follows: Vec<Change>,
}

codes! {
    /// What happened to a part.
    What {
        /// It was not there before.
        Added = "added",
        /// It is not there any more.
        Removed = "removed",
        /// Another part sits in its place.
        Replaced = "replaced",
        /// The same part sits elsewhere.
        Moved = "moved",
        /// The same part in the same place has other properties.
        Changed = "changed",
    }
}

/// A part in one of the two reports.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Side {
    /// JSON Pointer to it in its report.
    pub at: String,
    /// What a person calls it.
    pub label: String,
    /// Where it sits.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub place: Option<String>,
    /// What it is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub identity: Option<String>,
    /// The kernel's name for it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
}

/// A field that differs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct FieldChange {
    /// The field's name.
    pub field: &'static str,
    /// The unit of its number or numbers.
    #[serde(skip_serializing_if = "Option::is_none", serialize_with = "unit_name")]
    #[schemars(with = "Option<String>")]
    pub unit: Option<&'static Unit>,
    /// The value before; `null` where it was missing.
    pub before: Value,
    /// The value after; `null` where it is missing.
    pub after: Value,
    /// Of a list that is a set: what is there after and was not before.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub came: Vec<Value>,
    /// Of a list that is a set: what was there before and is not after.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub went: Vec<Value>,
    /// Whether it follows from other fields or parts.
    pub derived: bool,
}

fn unit_name<S: Serializer>(
    unit: &Option<&'static Unit>,
    serializer: S,
) -> Result<S::Ok, S::Error> {
    unit.map(|unit| unit.name).serialize(serializer)
}

/// Something that could not be compared, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct NotCompared {
    /// JSON Pointer to it.
    pub at: String,
    /// In which report it is not known.
    pub side: WhichSide,
    /// Why.
    pub why: WhyNot,
}

codes! {
    /// Of the two reports, which.
    WhichSide {
        /// The first.
        Before = "before",
        /// The second.
        After = "after",
        /// Both of them.
        Both = "both",
    }
}

codes! {
    /// Why something could not be compared.
    WhyNot {
        /// The section was not surveyed.
        NotSurveyed = "not-surveyed",
        /// The kernel gives it to root only.
        Permission = "permission",
        /// The source did not answer in time.
        Timeout = "timeout",
        /// It is not known which parts there are.
        NotKnown = "not-known",
    }
}

/// Compares two reports.
pub fn compare(before: &Report, after: &Report, scope: Scope) -> Comparison {
    let (found, not_compared, [one, other]) = std::thread::scope(|scope_of_threads| {
        // Digests take as long as all the rest.
        let sides = scope_of_threads.spawn(|| [before, after].map(Compared::of));
        let mut differences = Differences::of(before, after);
        differences.root("inventory", &before.inventory, &after.inventory);
        if scope == Scope::InventoryAndReadings {
            differences.root("readings", &before.readings, &after.readings);
        }
        let (found, not_compared) = differences.end();
        let sides = sides.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
        (found, not_compared, sides)
    });
    let changes = cause::by_cause(found);
    Comparison {
        format: COMPARISON.name,
        format_version: COMPARISON.current,
        before: one,
        after: other,
        machines: machine::matched(&before.machine, &after.machine),
        summary: summary(&changes),
        changes,
        not_compared,
    }
}

/// How many changes each section has.
pub fn summary(changes: &[Change]) -> Vec<SectionSummary> {
    let mut sections: Vec<SectionSummary> = Vec::new();
    for change in changes {
        let known = sections.iter_mut().position(|one| one.section == change.section);
        let at = known.unwrap_or_else(|| {
            sections.push(SectionSummary {
                section: change.section.clone(),
                added: 0,
                removed: 0,
                replaced: 0,
                moved: 0,
                changed: 0,
            });
            sections.len() - 1
        });
        if let Some(own) = sections.get_mut(at) {
            *match change.what {
                What::Added => &mut own.added,
                What::Removed => &mut own.removed,
                What::Replaced => &mut own.replaced,
                What::Moved => &mut own.moved,
                What::Changed => &mut own.changed,
            } += 1;
        }
    }
    sections
}
