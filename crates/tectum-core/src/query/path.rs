//! A path names values of a report the way people speak of them: `memory.modules.A1.serial`,
//! `storage.disks.*.size_bytes`, `cpu.**`. A JSON Pointer (`/inventory/cpu/cores`) names one too.

use globset::{GlobBuilder, GlobMatcher};

use crate::report::{
    Report,
    fact::{Evidence, Gap},
    record::{AnyFact, FieldShape, Node, Record, fact_named, fields},
};

/// A path with wildcards.
///
/// Its parts are field names, and for an element of a list its number from 0 or what it is called:
/// the text of one of its names, places or identity fields. `*` stands for any text within a part,
/// a part `**` for any number of parts. A path that ends above the values names all beneath it. The
/// roots `machine`, `inventory` and `readings` may be left out.
#[derive(Debug, Clone)]
pub struct PathPattern {
    parts: Vec<Part>,
}

#[derive(Debug, Clone)]
enum Part {
    Deep,
    Named(GlobMatcher),
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

impl std::str::FromStr for PathPattern {
    type Err = PathError;

    fn from_str(text: &str) -> Result<Self, PathError> {
        let wrong = |reason: String| PathError { path: text.to_owned(), reason };
        let names: Vec<String> = match text.strip_prefix('/') {
            Some(pointer) => {
                pointer.split('/').map(|part| part.replace("~1", "/").replace("~0", "~")).collect()
            }
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
        Ok(Self { parts })
    }
}

/// A step of the way to a value: what it may be called.
type Step = Vec<String>;

/// The values of a report that a path names, in the report's order.
pub fn find<'a>(report: &'a Report, pattern: &PathPattern) -> Vec<Hit<'a>> {
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
    pattern: &PathPattern,
    hits: &mut Vec<Hit<'a>>,
) {
    for (field, node) in fields(record) {
        let at = format!("{at}/{}", field.name);
        way.push(vec![field.name.to_owned()]);
        let mut hit = |value| {
            if pattern.names(way) {
                hits.push(Hit { at: at.clone(), field, value });
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
    let names = shape.identity.iter().copied().flatten().chain(shape.place).chain(shape.names);
    std::iter::once(index.to_string())
        .chain(names.filter_map(|name| fact_named(item, name)?.text()))
        .collect()
}

impl PathPattern {
    /// Whether it names the value at the end of a way, or something on that way.
    fn names(&self, way: &[Step]) -> bool {
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
