//! What changed from one report to another.
//!
//! Parts are matched by identity first (a disk by its World Wide Name, a module by part and serial
//! number), then by place, then by name; so a part that sits elsewhere has moved, another part in
//! the same place has replaced the one before, and a name that the kernel gave anew is no change.
//! What either report could not see is not compared, and said.
//!
//! Everything here works on the model's declarations (see [`crate::report::record`]); no field is
//! named.

mod matching;

use serde::Serialize;
use serde_json::Value;

use crate::report::{
    Report,
    fact::Gap,
    pointer::Pointer,
    record::{AnyFact, AnyList, FieldShape, Node, Record, Shape, fact_named},
};
use matching::{Pairing, pair};

/// What to compare.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scope {
    /// The inventory alone.
    Inventory,
    /// The inventory and the readings.
    InventoryAndReadings,
}

/// What changed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Comparison {
    /// The changes, in the order of the report.
    pub changes: Vec<Change>,
    /// What could not be compared.
    pub not_compared: Vec<NotCompared>,
}

/// One change.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Change {
    /// What happened.
    pub what: What,
    /// The section, or `machine`.
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
}

/// What happened to a part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum What {
    /// It was not there before.
    Added,
    /// It is not there any more.
    Removed,
    /// Another part sits in its place.
    Replaced,
    /// The same part sits elsewhere.
    Moved,
    /// The same part in the same place has other properties.
    Changed,
}

/// A part in one of the two reports.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Side {
    /// JSON Pointer to it in its report.
    pub at: String,
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
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FieldChange {
    /// The field's name.
    pub field: &'static str,
    /// The value before; `null` where it was missing.
    pub before: Value,
    /// The value after; `null` where it is missing.
    pub after: Value,
}

/// Something that could not be compared, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct NotCompared {
    /// JSON Pointer to it.
    pub at: String,
    /// In which report it is not known.
    pub side: WhichSide,
    /// Why.
    pub why: String,
}

/// One of the two reports.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum WhichSide {
    /// The first.
    Before,
    /// The second.
    After,
}

impl What {
    /// The word.
    pub fn word(self) -> &'static str {
        match self {
            Self::Added => "added",
            Self::Removed => "removed",
            Self::Replaced => "replaced",
            Self::Moved => "moved",
            Self::Changed => "changed",
        }
    }
}

/// Compares two reports.
pub fn compare(before: &Report, after: &Report, scope: Scope) -> Comparison {
    let mut comparer = Comparer {
        section: String::new(),
        within: Vec::new(),
        result: Comparison { changes: Vec::new(), not_compared: Vec::new() },
    };
    comparer.sections("inventory", &before.inventory, &after.inventory);
    if scope == Scope::InventoryAndReadings {
        comparer.sections("readings", &before.readings, &after.readings);
    }
    comparer.result
}

struct Comparer {
    section: String,
    within: Vec<String>,
    result: Comparison,
}

/// A record in one of the reports, with the pointer to it.
#[derive(Clone, Copy)]
struct At<'a> {
    record: &'a dyn Record,
    pointer: &'a str,
}

impl Comparer {
    /// The sections of a root: one that only one report holds is not compared.
    fn sections(&mut self, root: &'static str, before: &dyn Record, after: &dyn Record) {
        for (index, field) in before.shape().fields.iter().enumerate() {
            let mut at = Pointer::root();
            at.push(root);
            at.push(field.name);
            field.name.clone_into(&mut self.section);
            match (before.node(index), after.node(index)) {
                (Some(Node::Record(before)), Some(Node::Record(after))) => {
                    let at = at.as_str();
                    self.same_part(
                        At { record: before, pointer: at },
                        At { record: after, pointer: at },
                    );
                }
                (Some(Node::Record(_)), _) => self.skip(&at, WhichSide::After, "not surveyed"),
                (_, Some(Node::Record(_))) => self.skip(&at, WhichSide::Before, "not surveyed"),
                _ => {}
            }
        }
    }

    fn skip(&mut self, at: &Pointer, side: WhichSide, why: impl Into<String>) {
        let at = at.as_str().to_owned();
        self.result.not_compared.push(NotCompared { at, side, why: why.into() });
    }

    /// Compares the two states of one part, and the parts within it.
    fn same_part(&mut self, before: At<'_>, after: At<'_>) {
        let shape = before.record.shape();
        let moved = shape.place.iter().any(|name| differs(before.record, after.record, name))
            && !shape.identity.is_empty();
        let fields = self.fields(before, after, moved);
        if moved || !fields.is_empty() {
            let what = if moved { What::Moved } else { What::Changed };
            self.change(what, shape, Some(before), Some(after), fields);
        }
        self.inner_parts(before, after);
    }

    /// The fields of a part that differ, those of records within it that are no parts too.
    fn fields(&mut self, before: At<'_>, after: At<'_>, moved: bool) -> Vec<FieldChange> {
        let shape = before.record.shape();
        let mut changes = Vec::new();
        for (index, field) in shape.fields.iter().enumerate() {
            let told_elsewhere = shape.names.contains(&field.name)
                || shape.derived.contains(&field.name)
                || (moved && shape.place.contains(&field.name));
            if told_elsewhere {
                continue;
            }
            if let (Some(Node::Leaf(old)), Some(Node::Leaf(new))) =
                (before.record.node(index), after.record.node(index))
            {
                changes.extend(self.leaf(field, old, new, before, after));
            }
        }
        changes
    }

    fn leaf(
        &mut self,
        field: &'static FieldShape,
        old: &dyn AnyFact,
        new: &dyn AnyFact,
        before: At<'_>,
        after: At<'_>,
    ) -> Option<FieldChange> {
        let (old_value, new_value) = (old.json(), new.json());
        if old_value == new_value {
            return None;
        }
        let hidden =
            |gap: Option<&Gap>| gap.filter(|gap| gap.why.hides_a_value()).map(|gap| gap.why);
        let mut at = Pointer::root();
        if let Some(why) = hidden(old.missing()) {
            at.push(field.name);
            let at = Pointer::under(before.pointer, &at);
            self.skip(&at, WhichSide::Before, why.word());
            return None;
        }
        if let Some(why) = hidden(new.missing()) {
            at.push(field.name);
            let at = Pointer::under(after.pointer, &at);
            self.skip(&at, WhichSide::After, why.word());
            return None;
        }
        Some(FieldChange {
            field: field.name,
            before: old_value.unwrap_or(Value::Null),
            after: new_value.unwrap_or(Value::Null),
        })
    }

    /// Compares the records and lists that a part holds.
    fn inner_parts(&mut self, before: At<'_>, after: At<'_>) {
        let is_part = before.record.shape().is_part();
        if is_part {
            self.within.push(label(after));
        }
        let shape = before.record.shape();
        for (index, field) in shape.fields.iter().enumerate() {
            // What follows from elsewhere is told there.
            if shape.derived.contains(&field.name) {
                continue;
            }
            let mut tail = Pointer::root();
            tail.push(field.name);
            let old_at = Pointer::under(before.pointer, &tail);
            let new_at = Pointer::under(after.pointer, &tail);
            match (before.record.node(index), after.record.node(index)) {
                (Some(Node::Record(old)), Some(Node::Record(new))) => self.same_part(
                    At { record: old, pointer: old_at.as_str() },
                    At { record: new, pointer: new_at.as_str() },
                ),
                (Some(Node::Record(old)), _) => {
                    let old = At { record: old, pointer: old_at.as_str() };
                    self.change(What::Removed, old.record.shape(), Some(old), None, Vec::new());
                }
                (_, Some(Node::Record(new))) => {
                    let new = At { record: new, pointer: new_at.as_str() };
                    self.change(What::Added, new.record.shape(), None, Some(new), Vec::new());
                }
                (Some(Node::List(old)), Some(Node::List(new))) => {
                    self.lists(old, new, &old_at, &new_at);
                }
                _ => {}
            }
        }
        if is_part {
            self.within.pop();
        }
    }

    fn lists(&mut self, old: &dyn AnyList, new: &dyn AnyList, old_at: &Pointer, new_at: &Pointer) {
        match (old.missing(), new.missing()) {
            (None, None) => {}
            (Some(_), Some(_)) => return,
            (Some(gap), None) => return self.skip(old_at, WhichSide::Before, gap.why.word()),
            (None, Some(gap)) => return self.skip(new_at, WhichSide::After, gap.why.word()),
        }
        let pointer = |base: &Pointer, index: usize| {
            let mut at = base.clone();
            at.push_index(index);
            at
        };
        for pairing in pair(old, new) {
            match pairing {
                Pairing::Same(a, b) | Pairing::Replaced(a, b) => {
                    let (Some(first), Some(second)) = (old.get(a), new.get(b)) else { continue };
                    let (old_at, new_at) = (pointer(old_at, a), pointer(new_at, b));
                    let before = At { record: first, pointer: old_at.as_str() };
                    let after = At { record: second, pointer: new_at.as_str() };
                    if matches!(pairing, Pairing::Same(..)) {
                        self.same_part(before, after);
                    } else {
                        let fields = self.fields(before, after, true);
                        let shape = first.shape();
                        self.change(What::Replaced, shape, Some(before), Some(after), fields);
                    }
                }
                Pairing::Removed(a) => {
                    let Some(record) = old.get(a) else { continue };
                    let at = pointer(old_at, a);
                    let before = At { record, pointer: at.as_str() };
                    self.change(What::Removed, record.shape(), Some(before), None, Vec::new());
                }
                Pairing::Added(b) => {
                    let Some(record) = new.get(b) else { continue };
                    let at = pointer(new_at, b);
                    let after = At { record, pointer: at.as_str() };
                    self.change(What::Added, record.shape(), None, Some(after), Vec::new());
                }
            }
        }
    }

    fn change(
        &mut self,
        what: What,
        shape: &'static Shape,
        before: Option<At<'_>>,
        after: Option<At<'_>>,
        fields: Vec<FieldChange>,
    ) {
        self.result.changes.push(Change {
            what,
            section: self.section.clone(),
            part: shape.noun,
            before: before.map(side),
            after: after.map(side),
            within: self.within.clone(),
            fields,
        });
    }
}

/// Whether a field is known in both records and differs.
fn differs(before: &dyn Record, after: &dyn Record, name: &str) -> bool {
    let value = |record| fact_named(record, name).and_then(AnyFact::json);
    matches!((value(before), value(after)), (Some(old), Some(new)) if old != new)
}

fn side(part: At<'_>) -> Side {
    let shape = part.record.shape();
    Side {
        at: part.pointer.to_owned(),
        place: joined(part.record, shape.place),
        identity: identity(part.record),
        name: joined(part.record, shape.names),
    }
}

/// The known values of some fields, as people would read them.
fn joined(record: &dyn Record, names: &[&str]) -> Option<String> {
    let known: Vec<String> =
        names.iter().filter_map(|name| fact_named(record, name)?.text()).collect();
    (!known.is_empty()).then(|| known.join(", "))
}

/// What makes a part itself, as people would say it: rather model and serial number than a World
/// Wide Name.
fn identity(record: &dyn Record) -> Option<String> {
    let whole = |set: &&&[&str]| {
        set.iter().all(|name| fact_named(record, name).is_some_and(|fact| fact.json().is_some()))
    };
    let known: Vec<&&[&str]> = record.shape().identity.iter().filter(whole).collect();
    let set = known.iter().find(|set| set.len() > 1).or_else(|| known.first())?;
    joined(record, set)
}

fn label(part: At<'_>) -> String {
    let side = side(part);
    let noun = part.record.shape().noun;
    match side.name.or(side.place).or(side.identity) {
        Some(name) => format!("{noun} {name}"),
        None => noun.to_owned(),
    }
}
