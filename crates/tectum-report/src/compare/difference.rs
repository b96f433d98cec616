//! What differs between two reports, part by part, before it is asked what follows from what.

use serde_json::Value;

use super::{
    FieldChange, NotCompared, Side, What, WhichSide, WhyNot,
    label::{identity, joined, label, name},
    pairing::{Pairs, SideOf, pair},
};
use crate::{
    declare::{
        AnyFact, AnyList, Node, Record, Shape, Tells, fact_at,
        link::{PartId, Parts},
    },
    fact::{Gap, Why},
    json::pointer::Pointer,
    leaf::JsonForm,
    report::Report,
};

/// A change, before its cause is known.
pub(super) struct Found {
    pub(super) what: What,
    pub(super) section: String,
    pub(super) part: &'static str,
    pub(super) before: Option<Side>,
    pub(super) after: Option<Side>,
    pub(super) within: Vec<String>,
    pub(super) fields: Vec<FieldChange>,
    /// Whether all of it follows from elsewhere.
    pub(super) derived: bool,
    /// The field of the inventory that it changes with, by its pointer.
    pub(super) follows: Option<String>,
    /// Whether an identity of the part says which one it is.
    pub(super) is_itself: bool,
    /// Whether it refers to other parts than before.
    pub(super) by_reference: bool,
    /// The part, and those that it lies in, by pointers: before and after.
    pub(super) own: [Vec<String>; 2],
    /// The parts that it refers to, each with those that it lies in, by pointers: before and after.
    pub(super) refers: [Vec<Vec<String>>; 2],
}

/// The differences of two reports.
pub(super) struct Differences<'a> {
    before: &'a Report,
    after: &'a Report,
    old: Parts<'a>,
    new: Parts<'a>,
    pairs: Pairs,
    section: String,
    /// The parts that what is looked at lies in, outermost first.
    within: Vec<&'a dyn Record>,
    /// Whether what is looked at follows from elsewhere.
    derived: bool,
    found: Vec<Found>,
    not_compared: Vec<NotCompared>,
}

/// A record in one of the reports, with the pointer to it.
#[derive(Clone, Copy)]
struct At<'a, 'p> {
    record: &'a dyn Record,
    pointer: &'p str,
}

impl<'a> Differences<'a> {
    pub(super) fn of(before: &'a Report, after: &'a Report) -> Self {
        let mut old = Parts::of(&before.inventory, "/inventory");
        let mut new = Parts::of(&after.inventory, "/inventory");
        for parts in [&mut old, &mut new] {
            let shapes: Vec<&'static Shape> = parts.lists.iter().map(|list| list.shape).collect();
            parts.index(shapes.into_iter());
        }
        let pairs = pair(&old, &new);
        Self {
            before,
            after,
            old,
            new,
            pairs,
            section: String::new(),
            within: Vec::new(),
            derived: false,
            found: Vec::new(),
            not_compared: Vec::new(),
        }
    }

    pub(super) fn end(self) -> (Vec<Found>, Vec<NotCompared>) {
        (self.found, self.not_compared)
    }

    /// The sections of a root: one that only one report holds is not compared.
    pub(super) fn root(
        &mut self,
        root: &'static str,
        before: &'a dyn Record,
        after: &'a dyn Record,
    ) {
        if root != "inventory" {
            // Readings are paired by themselves: what they are readings of is their place.
            self.old = Parts::of(before, &format!("/{root}"));
            self.new = Parts::of(after, &format!("/{root}"));
            self.pairs = pair(&self.old, &self.new);
        }
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
                (Some(Node::Record(_)), _) => {
                    self.skip(at.as_str(), WhichSide::After, WhyNot::NotSurveyed);
                }
                (_, Some(Node::Record(_))) => {
                    self.skip(at.as_str(), WhichSide::Before, WhyNot::NotSurveyed);
                }
                _ => {}
            }
        }
    }

    fn skip(&mut self, at: &str, side: WhichSide, why: WhyNot) {
        self.not_compared.push(NotCompared { at: at.to_owned(), side, why });
    }

    /// Compares the two states of one part, and the parts within it.
    fn same_part(&mut self, before: At<'a, '_>, after: At<'a, '_>) {
        let shape = before.record.shape();
        let placed: Vec<usize> = shape
            .place
            .iter()
            .copied()
            .filter(|field| self.differs(before.record, after.record, *field))
            .collect();
        let moved = !placed.is_empty() && !shape.identity.is_empty();
        let (own, follow) = self.fields(before, after, moved);
        let changed = own.iter().filter_map(|change| shape.index_of(change.field));
        let by_reference =
            changed.chain(placed.iter().copied()).any(|field| shape.reference(field).is_some());
        let what = if moved { What::Moved } else { What::Changed };
        let follows = shape.follows.as_ref().filter(|follows| {
            follow.iter().any(|change| {
                shape.index_of(change.field).is_some_and(|field| follows.fields.contains(&field))
            })
        });
        let follows = follows.map(|follows| format!("/inventory/{}", follows.cause.join("/")));
        if moved || !own.is_empty() {
            let fields = own.into_iter().chain(follow).collect();
            self.change(what, shape, Some(before), Some(after), fields, by_reference, None);
        } else if !follow.is_empty() {
            let derived = std::mem::replace(&mut self.derived, true);
            self.change(what, shape, Some(before), Some(after), follow, false, follows);
            self.derived = derived;
        }
        self.inner_parts(before, after);
    }

    /// The fields of a part that differ: its own, and those that follow from elsewhere.
    fn fields(
        &mut self,
        before: At<'a, '_>,
        after: At<'a, '_>,
        moved: bool,
    ) -> (Vec<FieldChange>, Vec<FieldChange>) {
        let shape = before.record.shape();
        let (mut own, mut follow) = (Vec::new(), Vec::new());
        for index in 0..shape.fields.len() {
            let told_elsewhere = (shape.names.contains(&index) && shape.reference(index).is_none())
                || shape.incidental.contains(&index)
                || (moved && shape.place.contains(&index));
            if told_elsewhere {
                continue;
            }
            if let (Some(Node::Leaf(old)), Some(Node::Leaf(new))) =
                (before.record.node(index), after.record.node(index))
            {
                let derived = shape.derived.contains(&index) || self.changes_with(shape, index);
                if let Some(change) = self.leaf(index, old, new, before, after, derived) {
                    if derived { follow.push(change) } else { own.push(change) }
                }
            }
        }
        (own, follow)
    }

    /// Whether a field is declared to change with another, and that one did.
    fn changes_with(&self, shape: &'static Shape, field: usize) -> bool {
        let follows = shape.follows.as_ref().filter(|follows| follows.fields.contains(&field));
        follows.is_some_and(|follows| {
            let value = |report: &Report| value_at(&report.inventory, follows.cause);
            let (old, new) = (value(self.before), value(self.after));
            old.is_some() && new.is_some() && old != new
        })
    }

    fn leaf(
        &mut self,
        field: usize,
        old: &dyn AnyFact,
        new: &dyn AnyFact,
        before: At<'a, '_>,
        after: At<'a, '_>,
        derived: bool,
    ) -> Option<FieldChange> {
        let shape = before.record.shape();
        // Of a list that was seen in part, nothing is told: what came may have been there.
        let hides = |fact: &'_ dyn AnyFact| {
            let gap = fact.missing().filter(|gap| gap.why.hides_a_value());
            gap.or(fact.hidden_part()).map(why_not)
        };
        let unseen = match (hides(old), hides(new)) {
            (None, None) => None,
            (Some(why), Some(_)) => Some((before, WhichSide::Both, why)),
            (Some(why), None) => Some((before, WhichSide::Before, why)),
            (None, Some(why)) => Some((after, WhichSide::After, why)),
        };
        if let Some((at, side, why)) = unseen {
            self.skip(&format!("{}/{}", at.pointer, shape.field_name(field)), side, why);
            return None;
        }
        // Nearly everything is as it was.
        if old.holds_the_same(new) || self.same_reference(before.record, after.record, field) {
            return None;
        }
        let change = field_change(shape, field, old, new, derived)?;
        if change.before == change.after {
            return None;
        }
        // Nothing before and nothing after, or a set that is only told in another order.
        let same_set = change.came.is_empty() && change.went.is_empty();
        if same_set && change.before.is_array() && change.after.is_array() && is_set(old) {
            return None;
        }
        Some(change)
    }

    /// Whether a field refers to the same parts on both sides.
    fn same_reference(&self, before: &dyn Record, after: &dyn Record, field: usize) -> bool {
        let words = |parts: &Parts<'_>, record: &dyn Record, word: &dyn Fn(PartId) -> String| {
            let named = parts.references(record, field)?;
            let mut words: Vec<String> =
                named.into_iter().map(|(text, part)| part.map_or(text, word)).collect();
            words.sort_unstable();
            Some(words)
        };
        let old = words(&self.old, before, &|part| self.pairs.word_before(part));
        let new = words(&self.new, after, &|part| self.pairs.word_after(part));
        old.is_some() && old == new
    }

    /// Whether a field is known in both records and differs.
    fn differs(&self, before: &dyn Record, after: &dyn Record, field: usize) -> bool {
        let (Some(old), Some(new)) = (fact_at(before, field), fact_at(after, field)) else {
            return false;
        };
        !old.holds_the_same(new)
            && matches!((old.json(), new.json()), (Some(old), Some(new)) if old != new)
            && !self.same_reference(before, after, field)
    }

    /// Compares the records and lists that a part holds.
    fn inner_parts(&mut self, before: At<'a, '_>, after: At<'a, '_>) {
        let shape = before.record.shape();
        let is_part = shape.is_part();
        if is_part {
            self.within.push(after.record);
        }
        for (index, field) in shape.fields.iter().enumerate() {
            let derived = self.derived;
            self.derived |= shape.derived.contains(&index);
            let old_at = || format!("{}/{}", before.pointer, field.name);
            let new_at = || format!("{}/{}", after.pointer, field.name);
            match (before.record.node(index), after.record.node(index)) {
                (Some(Node::Record(old)), Some(Node::Record(new))) => self.same_part(
                    At { record: old, pointer: &old_at() },
                    At { record: new, pointer: &new_at() },
                ),
                (Some(Node::Record(old)), _) => match unseen(old) {
                    Some(gap) => self.skip(&old_at(), WhichSide::Before, why_not(gap)),
                    None => {
                        let old = At { record: old, pointer: &old_at() };
                        self.gone_or_new(What::Removed, old);
                    }
                },
                (_, Some(Node::Record(new))) => match unseen(new) {
                    Some(gap) => self.skip(&new_at(), WhichSide::After, why_not(gap)),
                    None => {
                        let new = At { record: new, pointer: &new_at() };
                        self.gone_or_new(What::Added, new);
                    }
                },
                (Some(Node::List(old)), Some(Node::List(new))) => {
                    self.lists(old, new, &old_at(), &new_at());
                }
                _ => {}
            }
            self.derived = derived;
        }
        if is_part {
            self.within.pop();
        }
    }

    fn gone_or_new(&mut self, what: What, at: At<'a, '_>) {
        let (before, after) = match what {
            What::Removed => (Some(at), None),
            _ => (None, Some(at)),
        };
        self.change(what, at.record.shape(), before, after, Vec::new(), false, None);
    }

    fn lists(&mut self, old: &'a dyn AnyList, new: &'a dyn AnyList, old_at: &str, new_at: &str) {
        match (old.missing(), new.missing()) {
            (None, None) => {}
            (Some(gap), Some(other)) => {
                // Where there was none there may be some now that nobody could see.
                let [hides, others] = [gap, other].map(|gap| gap.why.hides_a_value());
                return match (hides, others) {
                    (true, true) => self.skip(old_at, WhichSide::Both, why_not(gap)),
                    (true, false) => self.skip(old_at, WhichSide::Before, why_not(gap)),
                    (false, true) => self.skip(new_at, WhichSide::After, why_not(other)),
                    (false, false) => {}
                };
            }
            (Some(gap), None) => return self.skip(old_at, WhichSide::Before, why_not(gap)),
            (None, Some(gap)) => return self.skip(new_at, WhichSide::After, why_not(gap)),
        }
        match (old.hidden_part(), new.hidden_part()) {
            (None, None) => {}
            (Some(gap), Some(_)) => self.skip(old_at, WhichSide::Both, why_not(gap)),
            (Some(gap), None) => self.skip(old_at, WhichSide::Before, why_not(gap)),
            (None, Some(gap)) => self.skip(new_at, WhichSide::After, why_not(gap)),
        }
        // What a side may not have seen is no new part, or none that is gone.
        let may_be_new = old.hidden_part().is_none();
        let may_be_gone = new.hidden_part().is_none();
        for index in 0..new.len() {
            let Some(record) = new.get(index) else { continue };
            let own_at = format!("{new_at}/{index}");
            let after = At { record, pointer: &own_at };
            let part = self.new.at(&own_at);
            let Some(paired) = part.and_then(|part| self.pairs.of_after(part)) else {
                if part.is_some_and(|part| self.pairs.is_unsure(SideOf::After, part)) {
                    self.skip(&own_at, WhichSide::After, WhyNot::NotKnown);
                } else if may_be_new {
                    self.gone_or_new(What::Added, after);
                }
                continue;
            };
            let Some(was) = self.old.parts.get(paired) else { continue };
            let (was_at, was_record) = (was.at.clone(), was.record);
            let before = At { record: was_record, pointer: &was_at };
            let replaced = self.pairs.of_before(paired).is_some_and(|(_, another)| another);
            if replaced {
                let (own, follow) = self.fields(before, after, true);
                let fields = own.into_iter().chain(follow).collect();
                let shape = record.shape();
                self.change(What::Replaced, shape, Some(before), Some(after), fields, false, None);
            } else {
                self.same_part(before, after);
            }
        }
        for index in 0..old.len() {
            let Some(record) = old.get(index) else { continue };
            let own_at = format!("{old_at}/{index}");
            let part = self.old.at(&own_at);
            if part.is_some_and(|part| self.pairs.of_before(part).is_some()) {
                continue;
            }
            if part.is_some_and(|part| self.pairs.is_unsure(SideOf::Before, part)) {
                self.skip(&own_at, WhichSide::Before, WhyNot::NotKnown);
            } else if may_be_gone {
                self.gone_or_new(What::Removed, At { record, pointer: &own_at });
            }
        }
    }

    #[allow(clippy::too_many_arguments, reason = "each says another thing of the change")]
    fn change(
        &mut self,
        what: What,
        shape: &'static Shape,
        before: Option<At<'a, '_>>,
        after: Option<At<'a, '_>>,
        fields: Vec<FieldChange>,
        by_reference: bool,
        follows: Option<String>,
    ) {
        let is_itself = before.or(after).is_some_and(|at| {
            shape.identity.iter().filter(|one| one.tells == Tells::Which).any(|identity| {
                let known = |field: &usize| {
                    fact_at(at.record, *field).is_some_and(|fact| fact.json().is_some())
                };
                identity.fields.iter().all(known)
            })
        });
        let own = [
            before.map(|at| way_up(&self.old, at.pointer)).unwrap_or_default(),
            after.map(|at| way_up(&self.new, at.pointer)).unwrap_or_default(),
        ];
        let refers = [
            before.map(|at| targets(&self.old, at.record)).unwrap_or_default(),
            after.map(|at| targets(&self.new, at.record)).unwrap_or_default(),
        ];
        self.found.push(Found {
            what,
            section: self.section.clone(),
            part: shape.noun,
            before: before.map(side),
            after: after.map(side),
            within: self.within.iter().map(|part| label(*part)).collect(),
            fields,
            derived: self.derived,
            follows,
            is_itself,
            by_reference,
            own,
            refers,
        });
    }
}

/// A record's pointer, and those of the parts that it lies in, the innermost first.
fn way_up(parts: &Parts<'_>, pointer: &str) -> Vec<String> {
    let mut at = pointer;
    let mut way = vec![pointer.to_owned()];
    // The part that a plain record lies in is on the way too.
    while let Some((up, _)) = at.rsplit_once('/') {
        if parts.at(up).is_some() {
            way.push(up.to_owned());
        }
        at = up;
    }
    way
}

/// The parts that a record refers to, each with those that it lies in.
fn targets(parts: &Parts<'_>, record: &dyn Record) -> Vec<Vec<String>> {
    let references = record.shape().references.iter();
    references
        .filter_map(|reference| parts.references(record, reference.field))
        .flatten()
        .filter_map(|(_, part)| part)
        .map(|part| {
            parts
                .upwards(part)
                .filter_map(|part| parts.parts.get(part).map(|part| part.at.clone()))
                .collect()
        })
        .collect()
}

/// How a field differs; `None` where no value is known on either side.
pub(super) fn field_change(
    shape: &'static Shape,
    field: usize,
    old: &dyn AnyFact,
    new: &dyn AnyFact,
    derived: bool,
) -> Option<FieldChange> {
    let (before, after) = (old.json(), new.json());
    if before.is_none() && after.is_none() {
        return None;
    }
    let less = |one: &Option<Value>, other: &Option<Value>| -> Vec<Value> {
        match (one, other) {
            (Some(Value::Array(one)), Some(Value::Array(other))) if is_set(old) => {
                let other: std::collections::HashSet<String> =
                    other.iter().map(Value::to_string).collect();
                one.iter().filter(|item| !other.contains(&item.to_string())).cloned().collect()
            }
            _ => Vec::new(),
        }
    };
    Some(FieldChange {
        field: shape.field_name(field),
        unit: old.leaf_shape().unit,
        came: less(&after, &before),
        went: less(&before, &after),
        before: before.unwrap_or(Value::Null),
        after: after.unwrap_or(Value::Null),
        derived,
    })
}

fn is_set(fact: &dyn AnyFact) -> bool {
    matches!(fact.leaf_shape().form, JsonForm::Set(_))
}

/// Why nothing of a record was seen, where that is so: nobody knows then whether there is one.
fn unseen(record: &dyn Record) -> Option<&Gap> {
    let mut why = None;
    for node in (0..record.shape().fields.len()).filter_map(|index| record.node(index)) {
        why = why.or(match node {
            Node::Leaf(fact) if fact.json().is_some() => return None,
            Node::Leaf(fact) => fact.missing(),
            Node::List(list) if list.missing().is_none() => return None,
            Node::List(list) => list.missing(),
            Node::Record(inner) => Some(unseen(inner)?),
            Node::Absent => None,
        });
    }
    why.filter(|gap| gap.why.hides_a_value())
}

fn why_not(gap: &Gap) -> WhyNot {
    match gap.why {
        Why::Permission => WhyNot::Permission,
        Why::Timeout => WhyNot::Timeout,
        _ => WhyNot::NotKnown,
    }
}

/// The value at the end of a way of field names.
fn value_at(record: &dyn Record, way: &[&str]) -> Option<Value> {
    let (first, rest) = way.split_first()?;
    match record.node(record.shape().index_of(first)?)? {
        Node::Leaf(fact) => fact.json(),
        Node::Record(inner) => value_at(inner, rest),
        Node::List(_) | Node::Absent => None,
    }
}

fn side(part: At<'_, '_>) -> Side {
    Side {
        at: part.pointer.to_owned(),
        label: label(part.record),
        place: joined(part.record, part.record.shape().place),
        identity: identity(part.record),
        name: name(part.record),
    }
}
