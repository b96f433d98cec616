//! A path names values of a report the way people speak of them: `memory.modules.A1.serial`,
//! `storage.disks.*.size_bytes`, `cpu.**`. A JSON Pointer (`/inventory/cpu/cores`) names one too.
//!
//! A path is resolved against the model first: one that no report can have is an error that names
//! the nearest one. Then against a report's values, where it may lead to nothing, to gaps or to
//! values.

use super::{
    condition::Condition,
    field::{columns, ends_at_a_value, leaves, possible},
    naming::Naming,
    nearest::nearest,
};
use crate::{
    declare::{Node, Record},
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
/// (`pci.functions.0000:82:00.0.driver`). `*` stands for any text within a part, and alone for a whole
/// name, a part `**` for any number of parts. A path that ends above the values names all beneath it. The roots
/// `machine`, `inventory` and `readings` may be left out. A text that begins with `/` is a JSON
/// Pointer (RFC 6901): there a number is an element's place in its list and nothing else.
#[derive(Debug, Clone)]
pub struct Path {
    text: String,
    names: Vec<String>,
    pub(super) parts: Vec<Part>,
    pub(super) is_pointer: bool,
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
pub(super) const ROOTS: [&str; 3] = ["machine", "inventory", "readings"];

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

    /// The section that it leads into, where a report says nothing of that: it is of others alone, or this one failed,
    /// or there was no time for it.
    pub fn not_surveyed(&self, report: &Report) -> Option<&str> {
        let section = self.section()?;
        let told = report.roots().into_iter().any(|(_, root)| {
            let at = root.shape().index_of(section);
            at.is_some_and(|at| !matches!(root.node(at), None | Some(Node::Absent)))
        });
        (!told).then_some(section)
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
}
