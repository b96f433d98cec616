//! A path names values of a report the way people speak of them: `memory.modules.A1.serial`,
//! `storage.disks.*.size_bytes`, `cpu.**`. A JSON Pointer (`/inventory/cpu/cores`) names one too.
//!
//! A path is resolved against the model first: one that no report can have is an error that names
//! the nearest one. Then against a report's values, where it may lead to nothing, to gaps or to
//! values.

use std::borrow::Cow;

use super::{
    condition::{Condition, Verdict},
    field::{columns, ends_at_a_value, leaves, nearest, possible},
    naming::Naming,
};
use crate::{
    declare::{AnyFact, FieldShape, Node, Record, Shape, fact_at, fields},
    fact::{Evidence, Gap},
    leaf::LeafShape,
    model::{Inventory, Readings},
    report::Report,
};

/// A path with wildcards.
///
/// Its parts are field names, with the unit at their end or without, and for an element of a list its
/// number from 0 or what it is called: the text of one of its names, places or identity fields.
/// Conditions in brackets behind a list or an element choose among the elements
/// (`storage.disks[rotating=yes, size>=4TB].serial`); all of them must be met. A name may hold points
/// (`pci.functions.0000:82:00.0.driver`). `*` stands for any text within a part, and alone for a whole name, a part `**` for any number of parts. A path that ends above the values names all beneath it. The
/// roots `machine`, `inventory` and `readings` may be left out. A text that begins with `/` is a JSON
/// Pointer (RFC 6901): there a number is an element's place in its list and nothing else.
#[derive(Debug, Clone)]
pub struct Path {
    text: String,
    names: Vec<String>,
    parts: Vec<Part>,
    is_pointer: bool,
}

#[derive(Debug, Clone)]
pub(super) enum Part {
    /// Any number of parts.
    Deep,
    /// A part of this form, and what must hold of the element that it names, or of the elements of the
    /// list.
    Named(Naming, Vec<Condition>),
}

/// Which elements of a list a path may name, told by their texts alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Elements<'a> {
    /// Any of them.
    Any,
    /// The one with this number.
    Numbered(usize),
    /// Those that are called so, and the one with this number: what an element is called is the text of one of its
    /// values, or of its beginning to a point.
    Called {
        /// The name.
        name: &'a str,
        /// The number that the name is, if it is one.
        number: Option<usize>,
    },
}

/// A path that no report can have.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("no report has a field {path:?}{}", match (condition, nearest) {
    (Some(condition), _) => format!(": {condition}"),
    (None, Some(nearest)) => format!("; the nearest is {nearest:?}"),
    (None, None) => String::new(),
})]
pub struct NoSuchField {
    /// The path.
    pub path: String,
    /// The nearest path that a report can have.
    pub nearest: Option<String>,
    /// What is wrong with a condition in it, if that is it.
    pub condition: Option<String>,
}

/// Why a text is no path.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{path:?} is no path: {reason}")]
pub struct PathError {
    /// The text.
    pub path: String,
    /// What is wrong with it.
    pub reason: String,
}

/// A value that a path names.
pub struct Hit<'a> {
    /// JSON Pointer to it.
    pub at: String,
    /// The record that holds it.
    pub record: &'a dyn Record,
    /// Its field.
    pub field: &'static FieldShape,
    /// What stands there.
    pub value: HitValue<'a>,
}

/// What stands where a path leads.
#[derive(Clone, Copy)]
pub enum HitValue<'a> {
    /// A fact.
    Fact(&'a dyn AnyFact),
    /// A list whose parts are not known.
    MissingList(&'a Gap),
    /// A list that is known to be empty.
    EmptyList(&'a [Evidence]),
}

impl std::str::FromStr for Path {
    type Err = PathError;

    fn from_str(text: &str) -> Result<Self, PathError> {
        let wrong = |reason: String| PathError { path: text.to_owned(), reason };
        let split: Vec<(String, &str)> = match text.strip_prefix('/') {
            Some(_) => crate::json::pointer::members(text).map(|name| (name, "")).collect(),
            None => split(text).map_err(wrong)?,
        };
        if split.len() > MOST_PARTS {
            return Err(wrong(format!("it has more than {MOST_PARTS} parts")));
        }
        let mut parts: Vec<Part> = Vec::new();
        for (name, conditions) in &split {
            match name.as_str() {
                "" => return Err(wrong("a part of it is empty".to_owned())),
                "**" if !conditions.is_empty() => {
                    return Err(wrong(
                        "a condition must stand behind a list or its element".into(),
                    ));
                }
                // Two of them name no more than one.
                "**" if matches!(parts.last(), Some(Part::Deep)) => {}
                "**" => parts.push(Part::Deep),
                name => {
                    let naming =
                        Naming::read(name).map_err(|error| wrong(error.kind().to_string()))?;
                    let conditions = conditions_of(conditions).map_err(wrong)?;
                    parts.push(Part::Named(naming, conditions));
                }
            }
        }
        let names = split.into_iter().map(|(name, _)| name).collect();
        Ok(Self { text: text.to_owned(), names, parts, is_pointer: text.starts_with('/') })
    }
}

impl std::fmt::Display for Path {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.text)
    }
}

/// The roots of a report.
const ROOTS: [&str; 3] = ["machine", "inventory", "readings"];

/// The most parts of a path; no way through the model has half as many.
const MOST_PARTS: usize = 40;

/// The parts of a dotted path, each with what stands in brackets behind it.
fn split(text: &str) -> Result<Vec<(String, &str)>, String> {
    let mut parts = Vec::new();
    let (mut begin, mut bracket, mut closed) = (0, None, None);
    let mut quoted = false;
    let mut escaped = false;
    let part = |begin: usize, end: usize, brackets: Option<(usize, usize)>| {
        let (name_end, conditions) = match brackets {
            Some((open, close)) => (open, text.get(open + 1..close).unwrap_or_default()),
            None => (end, ""),
        };
        (text.get(begin..name_end).unwrap_or_default().to_owned(), conditions)
    };
    for (at, character) in text.char_indices() {
        match (character, bracket) {
            _ if escaped => escaped = false,
            ('\\', Some(_)) if quoted => escaped = true,
            ('"', Some(_)) => quoted = !quoted,
            (']', Some(open)) if !quoted => {
                closed = Some((open, at));
                bracket = None;
            }
            (_, Some(_)) => {}
            // A pattern's own brackets hold no sign of a condition.
            ('[', None) if holds_condition(text.get(at + 1..).unwrap_or_default()) => {
                if closed.is_some() {
                    return Err("one pair of brackets holds all conditions of a part".to_owned());
                }
                bracket = Some(at);
            }
            ('.', None) => {
                parts.push(part(begin, at, closed.take()));
                begin = at + 1;
            }
            (_, None) if closed.is_some() => {
                return Err("a point must stand behind the conditions of a part".to_owned());
            }
            _ => {}
        }
    }
    if bracket.is_some() {
        return Err("a bracket is not closed".to_owned());
    }
    parts.push(part(begin, text.len(), closed));
    Ok(parts)
}

/// Whether what stands behind an opening bracket begins with a condition: a name and a sign.
fn holds_condition(rest: &str) -> bool {
    let name = rest.trim_start();
    let end = name.find(|c: char| !(c.is_ascii_alphanumeric() || c == '_')).unwrap_or(name.len());
    let behind = name.get(end..).unwrap_or_default().trim_start();
    end > 0 && behind.starts_with(['=', '!', '<', '>', '~'])
}

/// Conditions with commas between them.
fn conditions_of(text: &str) -> Result<Vec<Condition>, String> {
    if text.is_empty() {
        return Ok(Vec::new());
    }
    let mut conditions = Vec::new();
    let (mut begin, mut quoted, mut escaped) = (0, false, false);
    for (at, character) in text.char_indices() {
        match character {
            _ if escaped => escaped = false,
            '\\' if quoted => escaped = true,
            '"' => quoted = !quoted,
            ',' if !quoted => {
                conditions.push(Condition::read(text.get(begin..at).unwrap_or_default())?);
                begin = at + 1;
            }
            _ => {}
        }
    }
    conditions.push(Condition::read(text.get(begin..).unwrap_or_default())?);
    Ok(conditions)
}

/// A step of the way to a value: what it may be called, and the element of a list that it is. Of an element that
/// may be called anything there are no names.
pub(super) struct Step<'a> {
    names: Vec<Cow<'a, str>>,
    element: Option<&'a dyn Record>,
    /// Of an element.
    shape: Option<&'static Shape>,
}

impl<'a> Step<'a> {
    fn of(names: Vec<Cow<'a, str>>) -> Self {
        Self { names, element: None, shape: None }
    }

    /// Whether it is a root whose fields are sections.
    fn is_of_sections(&self) -> bool {
        self.names.iter().any(|name| name != "machine")
    }
}

/// A step of a way through declarations.
#[derive(Debug, Clone, Copy)]
pub(crate) enum Along<'a> {
    /// What is called so.
    Named(&'a str),
    /// A field.
    Field(&'a FieldShape),
    /// An element of a list, whatever it is called.
    Element(&'static Shape),
}

/// What a path names of a report.
#[derive(Default)]
pub struct Found<'a> {
    /// The values, in the report's order.
    pub hits: Vec<Hit<'a>>,
    /// Conditions that could not be judged: where, and why.
    pub not_judged: Vec<(String, &'a Gap)>,
}

/// The values of a report that a path names, in the report's order.
pub fn find<'a>(report: &'a Report, pattern: &Path) -> Vec<Hit<'a>> {
    find_all(report, pattern).hits
}

/// The values of a report that a path names, and the conditions that could not be judged.
pub fn find_all<'a>(report: &'a Report, pattern: &Path) -> Found<'a> {
    let mut found = Found::default();
    for (name, root) in report.roots() {
        let mut way = vec![Step::of(vec![name.into()])];
        descend(root, &format!("/{name}"), &mut way, pattern, &mut found);
    }
    found
}

fn descend<'a>(
    record: &'a dyn Record,
    at: &str,
    way: &mut Vec<Step<'a>>,
    pattern: &Path,
    found: &mut Found<'a>,
) {
    // What a path names within one section is not looked for in the others.
    let section = (way.len() == 1 && way.first().is_some_and(Step::is_of_sections))
        .then(|| pattern.section())
        .flatten();
    // A name with points in it takes up several parts of a path.
    let each_a_part = !way.iter().any(|step| {
        step.names.iter().any(|name| name.contains('.')) && pattern.may_part_names(step.shape)
    });
    for (field, node) in fields(record) {
        if section.is_some_and(|section| section != field.name) {
            continue;
        }
        if matches!(node, Node::Leaf(_)) && each_a_part && pattern.passes_by(way.len() + 1, field) {
            continue;
        }
        // What another field is called whole is no short name for this one.
        let short = field.short_name().filter(|short| record.shape().index_of(short).is_none());
        let names = std::iter::once(field.name).chain(short).map(Cow::Borrowed);
        way.push(Step::of(names.collect()));
        let mut hit = |value| {
            if pattern.names(way) {
                found.hits.push(Hit { at: format!("{at}/{}", field.name), record, field, value });
            }
        };
        match node {
            Node::Absent => {}
            Node::Leaf(fact) => hit(HitValue::Fact(fact)),
            Node::Record(_) | Node::List(_) if !pattern.may_lead(way) => {}
            Node::Record(inner) => {
                descend(inner, &format!("{at}/{}", field.name), way, pattern, found);
            }
            Node::List(list) => {
                if let Some(gap) = list.missing() {
                    hit(HitValue::MissingList(gap));
                } else if list.is_empty() {
                    hit(HitValue::EmptyList(list.evidence()));
                }
                for index in 0..list.len() {
                    let Some(item) = list.get(index) else { continue };
                    let (element, shape) = (Some(item), Some(item.shape()));
                    way.push(Step { names: called(index, item), element, shape });
                    if pattern.may_lead(way) {
                        let inner = format!("{at}/{}/{index}", field.name);
                        let gaps = pattern.not_judged(way).into_iter();
                        found
                            .not_judged
                            .extend(gaps.map(|(field, gap)| (format!("{inner}/{field}"), gap)));
                        descend(item, &inner, way, pattern, found);
                    }
                    way.pop();
                }
            }
        }
        way.pop();
    }
}

/// What an element of a list may be called.
fn called(index: usize, item: &dyn Record) -> Vec<Cow<'static, str>> {
    let shape = item.shape();
    let names = shape
        .identity
        .iter()
        .flat_map(|identity| identity.fields)
        .chain(shape.place)
        .chain(shape.names)
        .chain(shape.called);
    std::iter::once(index.to_string())
        .chain(names.filter_map(|field| fact_at(item, *field)?.text()))
        .map(Cow::Owned)
        .collect()
}

impl Path {
    /// The path's parts as text.
    pub(super) fn names_as_text(&self) -> &[String] {
        &self.names
    }

    /// The parts of the path.
    pub(super) fn parts(&self) -> &[Part] {
        &self.parts
    }

    /// Whether its first part is this name alone, the root before it left out.
    pub fn begins_with(&self, name: &str) -> bool {
        let mut own = self.names.iter().map(String::as_str);
        own.find(|own| !matches!(*own, "inventory" | "readings")) == Some(name)
    }

    /// The section that it leads into, where it begins with the name of one and so with no pattern.
    pub fn section(&self) -> Option<&str> {
        let mut own = self.names.iter().map(String::as_str);
        let first = own.find(|own| !matches!(*own, "inventory" | "readings"))?;
        let is = |record: &dyn Record| record.shape().index_of(first).is_some();
        (is(&Inventory::default()) || is(&Readings::default())).then_some(first)
    }

    /// Whether it may name anything at the end of a way of fields' names that begins with a root, or beneath it.
    pub(crate) fn may_lead_into(&self, way: &[&str]) -> bool {
        let way: Vec<Step<'_>> = way.iter().map(|name| Step::of(vec![(*name).into()])).collect();
        self.may_lead(&way)
    }

    /// Whether it may name anything at the end of a way through declarations that begins with a root, or beneath it.
    pub(crate) fn may_lead_along<'a>(&self, way: &[Along<'a>]) -> bool {
        let names = |step: &Along<'a>| match *step {
            Along::Named(name) => vec![name.into()],
            Along::Field(field) => {
                std::iter::once(field.name).chain(field.short_name()).map(Cow::Borrowed).collect()
            }
            Along::Element(_) => Vec::new(),
        };
        let shape = |step: &Along<'a>| match *step {
            Along::Element(shape) => Some(shape),
            Along::Named(_) | Along::Field(_) => None,
        };
        let way: Vec<Step<'_>> = way
            .iter()
            .map(|step| Step { names: names(step), element: None, shape: shape(step) })
            .collect();
        self.may_lead(&way)
    }

    /// Whether any of its parts has conditions.
    pub(crate) fn has_conditions(&self) -> bool {
        let with =
            |part: &Part| matches!(part, Part::Named(_, conditions) if !conditions.is_empty());
        self.parts.iter().any(with)
    }

    /// Which elements it may name of a list that a section holds.
    pub(crate) fn elements(&self, root: &str, section: &str, list: &str) -> Elements<'_> {
        let named = |part: &Part, name: &str| {
            matches!(part, Part::Named(Naming::Name(own), conditions)
                if own == name && conditions.is_empty())
        };
        let behind_root = match self.parts.split_first() {
            Some((first, rest)) if named(first, root) => rest,
            _ => self.parts.as_slice(),
        };
        let [first, second, Part::Named(Naming::Name(name), _), ..] = behind_root else {
            return Elements::Any;
        };
        if !(named(first, section) && named(second, list)) {
            return Elements::Any;
        }
        // Other signs may be written otherwise in a report, and so may numbers with a sign between them.
        let plain = |sign: u8| sign.is_ascii_alphanumeric() || b"_:-".contains(&sign);
        let is_number = name.bytes().all(|sign| sign.is_ascii_digit());
        let has_letter = name.bytes().any(|sign| sign.is_ascii_alphabetic());
        match name.parse() {
            Ok(number) if self.is_pointer => Elements::Numbered(number),
            number if is_number || (has_letter && name.bytes().all(plain)) => {
                Elements::Called { name, number: number.ok() }
            }
            _ => Elements::Any,
        }
    }

    /// Whether it says this root itself: `readings`.
    pub fn begins_in(&self, root: &str) -> bool {
        self.names.first().is_some_and(|name| name == root)
    }

    /// Whether a path as it is declared, with `*` for elements, is one that it names.
    pub fn holds(&self, declared: &str) -> bool {
        let way: Vec<Step<'_>> = std::iter::once("inventory")
            .chain(declared.split('.'))
            .map(|name| Step::of(vec![name.into()]))
            .collect();
        let parts: Vec<Part> = self
            .parts
            .iter()
            .map(|part| match part {
                Part::Deep => Part::Deep,
                Part::Named(naming, _) => Part::Named(naming.clone(), Vec::new()),
            })
            .collect();
        let without_root = way.get(1..).unwrap_or_default();
        matches(&parts, &way) || matches(&parts, without_root)
    }

    /// Whether it leads to values, and not to parts that hold values.
    pub fn ends_at_a_value(&self) -> bool {
        ends_at_a_value(self)
    }

    /// The names of the columns that its values have side by side (see [`Rows`](super::Rows)), in the
    /// order of the declarations: all that a report can have there, whatever one machine has.
    pub fn columns(&self) -> Vec<String> {
        columns(self)
    }

    /// The fields at which it may end, each with the shape of its values.
    pub fn leaves(&self) -> Vec<(&'static str, LeafShape)> {
        leaves(self)
    }

    /// Whether it begins with a pattern, and so with no section's name.
    pub fn is_wild(&self) -> bool {
        self.names.first().is_none_or(|name| name.contains(['*', '?', '[', '{']))
    }

    /// Whether a report can have such a path.
    ///
    /// # Errors
    /// [`NoSuchField`] with the nearest path that one can have.
    pub fn check(&self) -> Result<(), NoSuchField> {
        if possible(self) {
            return Ok(());
        }
        Err(NoSuchField {
            path: self.to_string(),
            nearest: nearest(self),
            condition: self.misfit(),
        })
    }

    /// The conditions of the way's last element that it gives no answer to.
    fn not_judged<'a>(&self, way: &[Step<'a>]) -> Vec<(&'static str, &'a Gap)> {
        let Some((Step { element: Some(element), .. }, before)) = way.split_last() else {
            return Vec::new();
        };
        let mut gaps = Vec::new();
        for condition in self.conditions_at(before) {
            match condition.judge(*element) {
                Verdict::NotKnown(field, gap) => gaps.push((field, gap)),
                Verdict::Met => {}
                // One that is not met decides, whatever the others would say.
                Verdict::NotMet => return Vec::new(),
            }
        }
        gaps
    }

    /// The conditions on the elements of the list at the end of a way.
    fn conditions_at(&self, way: &[Step<'_>]) -> &[Condition] {
        let without_root = way.get(1..).unwrap_or_default();
        for (at, part) in self.parts.iter().enumerate() {
            let Part::Named(_, conditions) = part else { continue };
            let before = self.parts.get(..=at).unwrap_or_default();
            let leads = || leads_to(before, way) || leads_to(before, without_root);
            if !conditions.is_empty() && leads() {
                return conditions;
            }
        }
        &[]
    }

    /// Whether the name of a value's field alone tells that it does not name it, at the end of so many steps, each of
    /// one part: most are told by that.
    fn passes_by(&self, steps: usize, field: &FieldShape) -> bool {
        // A condition may leave out the element that it chooses, and a pattern may name a root.
        let plain =
            |part: &Part| matches!(part, Part::Named(_, conditions) if conditions.is_empty());
        let (Some(Part::Named(Naming::Name(first), _)), Some(Part::Named(last, _))) =
            (self.parts.first(), self.parts.last())
        else {
            return false;
        };
        let from_root = ROOTS.contains(&first.as_str());
        // A path that ends above values names all beneath it.
        let ends_above = self.parts.len() + usize::from(!from_root) < steps;
        let is_last = |name: &str| last.is_match(name);
        !ends_above
            && self.parts.iter().all(plain)
            && !is_last(field.name)
            && !field.short_name().is_some_and(is_last)
    }

    /// Whether any of its parts may be a piece of the name of an element of this shape; the first element stands in a
    /// list of a section.
    fn may_part_names(&self, shape: Option<&'static Shape>) -> bool {
        let behind_list = self.parts.get(2..).unwrap_or_default();
        behind_list.windows(2).any(|parts| may_be_joined(parts, shape))
    }

    /// Whether it names the value at the end of a way, or something on that way.
    fn names(&self, way: &[Step<'_>]) -> bool {
        self.holds_of(way, matches)
    }

    /// Whether anything at the end of a way or beneath it may be named: what is not is not looked at.
    fn may_lead(&self, way: &[Step<'_>]) -> bool {
        self.holds_of(way, may_lead)
    }

    fn holds_of(&self, way: &[Step<'_>], holds: fn(&[Part], &[Step<'_>]) -> bool) -> bool {
        if self.is_pointer {
            let by_number: Vec<Step<'_>> = way
                .iter()
                .map(|step| Step {
                    names: step.names.iter().take(1).cloned().collect(),
                    element: step.element,
                    shape: step.shape,
                })
                .collect();
            return holds(&self.parts, &by_number);
        }
        let without_root = way.get(1..).unwrap_or_default();
        holds(&self.parts, way) || holds(&self.parts, without_root)
    }
}

/// Whether the first two of some parts may be pieces of one name of an element of this shape. A pattern takes a name
/// whole where a field's name stands behind it, and one that names any also before another pattern.
fn may_be_joined(parts: &[Part], shape: Option<&'static Shape>) -> bool {
    let is_field = |name: &str| {
        let fields = shape.into_iter().flat_map(|shape| shape.fields);
        fields.into_iter().any(|field| field.name == name || field.short_name() == Some(name))
    };
    match parts {
        [Part::Named(Naming::Any | Naming::Form(_), _), Part::Named(Naming::Name(name), _), ..] => {
            !is_field(name)
        }
        [Part::Named(Naming::Any, _), ..] => false,
        [_, _, ..] => true,
        _ => false,
    }
}

/// What is left of the parts behind those that a name with points in it takes up, if it does: the
/// points of `0000:82:00.0` part it like any other.
fn several<'a>(parts: &'a [Part], name: &str, shape: Option<&'static Shape>) -> Option<&'a [Part]> {
    // Nearly no name holds a point.
    if !name.contains('.') || !may_be_joined(parts, shape) {
        return None;
    }
    let pieces: Vec<&str> = name.split('.').collect();
    let (own, rest) = parts.split_at_checked(pieces.len())?;
    let fits = |(part, piece): (&Part, &&str)| match part {
        Part::Named(naming, _) => naming.is_match(piece),
        Part::Deep => false,
    };
    own.iter().zip(&pieces).all(fits).then_some(rest)
}

/// Whether conditions hold of an element.
fn all_met(conditions: &[Condition], element: &dyn Record) -> bool {
    conditions.iter().all(|condition| matches!(condition.judge(element), Verdict::Met))
}

/// Whether parts, the last of them with conditions, lead to the list at the end of a way, or to any of
/// its elements.
fn leads_to(parts: &[Part], way: &[Step<'_>]) -> bool {
    let bare: Vec<Part> = parts
        .iter()
        .map(|part| match part {
            Part::Deep => Part::Deep,
            Part::Named(naming, _) => Part::Named(naming.clone(), Vec::new()),
        })
        .collect();
    let (list, element) = (matches(&bare, way), bare.split_last());
    let by_element = element.is_some_and(|(_, before)| !before.is_empty() && matches(before, way));
    list || by_element
}

fn matches(parts: &[Part], way: &[Step<'_>]) -> bool {
    match parts.split_first() {
        None => true,
        Some((Part::Deep, rest)) => {
            // Nothing behind it: everything beneath. Else it takes as many steps as it must.
            rest.is_empty()
                || (0..=way.len()).any(|steps| matches(rest, way.get(steps..).unwrap_or_default()))
        }
        Some((Part::Named(naming, conditions), rest)) => match way.split_first() {
            None => false,
            Some((step, ahead)) => step.names.iter().any(|name| {
                (naming.is_match(name) && meets(conditions, step, rest, ahead))
                    || several(parts, name, step.shape).is_some_and(|rest| matches(rest, ahead))
            }),
        },
    }
}

/// Whether parts may name something beneath the end of a way, whatever conditions say.
fn may_lead(parts: &[Part], way: &[Step<'_>]) -> bool {
    let (Some((part, rest)), Some((step, ahead))) = (parts.split_first(), way.split_first()) else {
        return true;
    };
    let Part::Named(naming, conditions) = part else { return true };
    if step.names.is_empty() {
        // A name with points in it takes up several parts.
        let takes = |count: usize| parts.get(count..).is_some_and(|rest| may_lead(rest, ahead));
        let most = if may_be_joined(parts, step.shape) { parts.len() } else { 1 };
        return !conditions.is_empty() || (1..=most).any(takes);
    }
    // A condition may stand behind the name of a list, and leave out its elements'.
    let element_left_out = || {
        !conditions.is_empty() && ahead.split_first().is_none_or(|(_, ahead)| may_lead(rest, ahead))
    };
    step.names.iter().any(|name| {
        (naming.is_match(name) && (may_lead(rest, ahead) || element_left_out()))
            || several(parts, name, step.shape).is_some_and(|rest| may_lead(rest, ahead))
    })
}

/// Whether the element that a part names meets the part's conditions, and the rest leads on: the
/// element itself, or the one behind the name of its list.
fn meets(conditions: &[Condition], step: &Step<'_>, rest: &[Part], ahead: &[Step<'_>]) -> bool {
    if conditions.is_empty() {
        return matches(rest, ahead);
    }
    match (step.element, ahead.split_first()) {
        (Some(element), _) => all_met(conditions, element) && matches(rest, ahead),
        (None, Some((Step { element: Some(element), .. }, ahead))) => {
            all_met(conditions, *element) && matches(rest, ahead)
        }
        _ => false,
    }
}
