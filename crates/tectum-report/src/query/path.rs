//! A path names values of a report the way people speak of them: `memory.modules.A1.serial`,
//! `storage.disks.*.size_bytes`, `cpu.**`. A JSON Pointer (`/inventory/cpu/cores`) names one too.
//!
//! A path is resolved against the model first: one that no report can have is an error that names
//! the nearest one. Then against a report's values, where it may lead to nothing, to gaps or to
//! values.

use globset::{GlobBuilder, GlobMatcher};

use super::field::{nearest, possible};
use crate::{
    declare::{AnyFact, FieldShape, Node, Record, fact_at, fields},
    fact::{Evidence, Gap},
    report::Report,
};

/// A path with wildcards.
///
/// Its parts are field names, and for an element of a list its number from 0 or what it is called:
/// the text of one of its names, places or identity fields. `*` stands for any text within a part,
/// a part `**` for any number of parts. A path that ends above the values names all beneath it. The
/// roots `machine`, `inventory` and `readings` may be left out. A text that begins with `/` is a JSON
/// Pointer (RFC 6901): there a number is an element's place in its list and nothing else.
#[derive(Debug, Clone)]
pub struct Path {
    names: Vec<String>,
    parts: Vec<Part>,
    is_pointer: bool,
}

#[derive(Debug, Clone)]
pub(super) enum Part {
    /// Any number of parts.
    Deep,
    /// A part of this form.
    Named(GlobMatcher),
}

/// A path that no report can have.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("no report has a field {path:?}{}", match nearest {
    Some(nearest) => format!("; the nearest is {nearest:?}"),
    None => String::new(),
})]
pub struct NoSuchField {
    /// The path.
    pub path: String,
    /// The nearest path that a report can have.
    pub nearest: Option<String>,
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
        let names: Vec<String> = match text.strip_prefix('/') {
            Some(_) => crate::json::pointer::members(text).collect(),
            None => text.split('.').map(str::to_owned).collect(),
        };
        let parts = names
            .iter()
            .map(|name| match name.as_str() {
                "" => Err(wrong("a part of it is empty".to_owned())),
                "**" => Ok(Part::Deep),
                name => GlobBuilder::new(name)
                    .build()
                    .map(|glob| Part::Named(glob.compile_matcher()))
                    .map_err(|error| wrong(error.kind().to_string())),
            })
            .collect::<Result<_, _>>()?;
        Ok(Self { names, parts, is_pointer: text.starts_with('/') })
    }
}

impl std::fmt::Display for Path {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.names.join("."))
    }
}

/// A step of the way to a value: what it may be called.
type Step = Vec<String>;

/// The values of a report that a path names, in the report's order.
pub fn find<'a>(report: &'a Report, pattern: &Path) -> Vec<Hit<'a>> {
    let mut hits = Vec::new();
    for (name, root) in report.roots() {
        let mut way = vec![vec![name.to_owned()]];
        descend(root, &format!("/{name}"), &mut way, pattern, &mut hits);
    }
    hits
}

fn descend<'a>(
    record: &'a dyn Record,
    at: &str,
    way: &mut Vec<Step>,
    pattern: &Path,
    hits: &mut Vec<Hit<'a>>,
) {
    for (field, node) in fields(record) {
        let at = format!("{at}/{}", field.name);
        way.push(vec![field.name.to_owned()]);
        let mut hit = |value| {
            if pattern.names(way) {
                hits.push(Hit { at: at.clone(), record, field, value });
            }
        };
        match node {
            Node::Absent => {}
            Node::Leaf(fact) => hit(HitValue::Fact(fact)),
            Node::Record(inner) => descend(inner, &at, way, pattern, hits),
            Node::List(list) => {
                if let Some(gap) = list.missing() {
                    hit(HitValue::MissingList(gap));
                } else if list.is_empty() {
                    hit(HitValue::EmptyList(list.evidence()));
                }
                for index in 0..list.len() {
                    let Some(item) = list.get(index) else { continue };
                    way.push(called(index, item));
                    descend(item, &format!("{at}/{index}"), way, pattern, hits);
                    way.pop();
                }
            }
        }
        way.pop();
    }
}

/// What an element of a list may be called.
fn called(index: usize, item: &dyn Record) -> Step {
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

    /// Whether a report can have such a path.
    ///
    /// # Errors
    /// [`NoSuchField`] with the nearest path that one can have.
    pub fn check(&self) -> Result<(), NoSuchField> {
        if possible(self) {
            return Ok(());
        }
        Err(NoSuchField { path: self.to_string(), nearest: nearest(self) })
    }

    /// Whether it names the value at the end of a way, or something on that way.
    fn names(&self, way: &[Step]) -> bool {
        if self.is_pointer {
            let by_number: Vec<Step> =
                way.iter().map(|step| step.iter().take(1).cloned().collect()).collect();
            return matches(&self.parts, &by_number);
        }
        let without_root = way.get(1..).unwrap_or_default();
        matches(&self.parts, way) || matches(&self.parts, without_root)
    }
}

/// What is left of the parts behind those that a name with points in it takes up, if it does: the
/// points of `0000:82:00.0` part it like any other.
fn several<'a>(parts: &'a [Part], name: &str) -> Option<&'a [Part]> {
    let pieces: Vec<&str> = name.split('.').collect();
    let (own, rest) = parts.split_at_checked(pieces.len())?;
    let fits = |(part, piece): (&Part, &&str)| match part {
        Part::Named(glob) => glob.is_match(piece),
        Part::Deep => false,
    };
    (pieces.len() > 1 && own.iter().zip(&pieces).all(fits)).then_some(rest)
}

fn matches(parts: &[Part], way: &[Step]) -> bool {
    match parts.split_first() {
        None => true,
        Some((Part::Deep, rest)) => {
            // Nothing behind it: everything beneath. Else it takes as many steps as it must.
            rest.is_empty()
                || (0..=way.len()).any(|steps| matches(rest, way.get(steps..).unwrap_or_default()))
        }
        Some((Part::Named(glob), rest)) => match way.split_first() {
            None => false,
            Some((step, ahead)) => step.iter().any(|name| {
                (glob.is_match(name) && matches(rest, ahead))
                    || several(parts, name).is_some_and(|rest| matches(rest, ahead))
            }),
        },
    }
}
