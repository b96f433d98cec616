//! Which paths a report can have at all, by the model's declarations.

use super::{
    condition::Condition,
    naming::Naming,
    path::{Part, Path},
};
use crate::{
    declare::{Described, FieldShape, Kind, Shape},
    leaf::LeafShape,
    model::{Inventory, Machine, Readings},
};

/// The roots of a report.
const ROOTS: [(&str, &Shape); 3] =
    [("machine", Machine::SHAPE), ("inventory", Inventory::SHAPE), ("readings", Readings::SHAPE)];

/// Whether some report can have a path.
pub(super) fn possible(path: &Path) -> bool {
    ROOTS.iter().any(|(name, shape)| {
        let parts = path.parts();
        let below = match parts.split_first() {
            Some((Part::Named(naming, _), rest)) => naming.is_match(name) && within(shape, rest),
            _ => false,
        };
        below || within(shape, parts)
    })
}

/// The fields of a shape whose name, with its unit or without, is like a pattern.
fn fields_like<'a>(
    shape: &'static Shape,
    naming: &'a Naming,
) -> impl Iterator<Item = &'static FieldShape> + use<'a> {
    shape.fields.iter().filter(move |field| {
        naming.is_match(field.name)
            || field.short_name().is_some_and(|short| naming.is_match(short))
    })
}

fn within(shape: &'static Shape, parts: &[Part]) -> bool {
    let Some((first, rest)) = parts.split_first() else { return true };
    match first {
        Part::Deep => {
            rest.is_empty()
                || within(shape, rest)
                || shape.fields.iter().any(|field| match field.kind {
                    Kind::Leaf(_) => false,
                    Kind::Record(inner) | Kind::Optional(inner) | Kind::List(inner) => {
                        within(inner, parts)
                    }
                })
        }
        Part::Named(naming, conditions) => {
            fields_like(shape, naming).any(|field| match field.kind {
                Kind::Leaf(_) => {
                    conditions.is_empty() && rest.iter().all(|part| matches!(part, Part::Deep))
                }
                Kind::Record(inner) | Kind::Optional(inner) => {
                    conditions.is_empty() && within(inner, rest)
                }
                Kind::List(inner) if conditions.is_empty() => element(inner, rest),
                Kind::List(inner) => fit(conditions, inner) && within(inner, rest),
            })
        }
    }
}

/// Whether elements of a shape can be asked all of these.
fn fit(conditions: &[Condition], shape: &'static Shape) -> bool {
    conditions.iter().all(|condition| condition.check(shape).is_ok())
}

impl Path {
    /// What is wrong with a condition, where the path without its conditions is one that a report can
    /// have.
    pub(super) fn misfit(&self) -> Option<String> {
        let conditions: Vec<&Condition> = self
            .parts()
            .iter()
            .filter_map(|part| match part {
                Part::Named(_, conditions) => Some(conditions),
                Part::Deep => None,
            })
            .flatten()
            .collect();
        let bare: Path = self.names_as_text().join(".").parse().ok()?;
        if conditions.is_empty() || !possible(&bare) {
            return None;
        }
        let shapes = lists_on(&bare);
        let wrong = |condition: &&Condition| {
            let (mut having, others): (Vec<&Shape>, Vec<&Shape>) =
                shapes.iter().partition(|shape| condition.is_of(shape));
            // What a list that has the field says of it is told before that another has none.
            having.extend(others);
            let all: Vec<Result<(), String>> =
                having.into_iter().map(|shape| condition.check(shape)).collect();
            match all.iter().any(Result::is_ok) {
                true => None,
                false => all.into_iter().find_map(Result::err),
            }
        };
        let found = conditions.iter().find_map(wrong);
        Some(found.unwrap_or_else(|| "a condition must stand behind a list or its element".into()))
    }
}

/// The shapes of the lists on a path, the last first: those of the inventory before those of readings.
fn lists_on(path: &Path) -> Vec<&'static Shape> {
    fn collect(shape: &'static Shape, names: &[String], lists: &mut Vec<&'static Shape>) {
        for field in shape.fields {
            let behind = names.iter().position(|name| name == field.name);
            let (Some(at), Some(inner)) = (behind, field.kind.inner()) else { continue };
            if matches!(field.kind, Kind::List(_)) {
                lists.insert(0, inner);
            }
            collect(inner, names.get(at + 1..).unwrap_or_default(), lists);
        }
    }
    let of_root = |(_, shape)| {
        let mut lists = Vec::new();
        collect(shape, path.names_as_text(), &mut lists);
        lists
    };
    ROOTS.into_iter().flat_map(of_root).collect()
}

/// A value that a path may lead to.
struct Reached {
    /// The way from the innermost element of a list to it, or from the report where there is none.
    column: String,
    /// Whether the path ends at it, and not at a part that holds it.
    exact: bool,
    /// Whether the path ends at the name of an element that holds it.
    of_element: bool,
    /// The field.
    field: &'static FieldShape,
}

/// Whether a path leads to values, and not to parts that hold values.
pub(super) fn ends_at_a_value(path: &Path) -> bool {
    reached(path).iter().any(|it| it.exact)
}

/// The columns that the values have which a path leads to, in the order of the declarations. Where it
/// ends at values by a plain name, an element that bears a field's name is not looked for.
pub(super) fn columns(path: &Path) -> Vec<String> {
    let mut columns: Vec<String> = Vec::new();
    let all = reached(path);
    let plain =
        path.names_as_text().last().is_some_and(|name| !name.contains(['*', '?', '[', '{']));
    let exact = plain && all.iter().any(|it| it.exact);
    for it in all.into_iter().filter(|it| !(exact && it.of_element)) {
        if !columns.contains(&it.column) {
            columns.push(it.column);
        }
    }
    columns
}

/// The fields of the values at which a path may end, with the shape of each.
pub(super) fn leaves(path: &Path) -> Vec<(&'static str, LeafShape)> {
    let all = reached(path).into_iter().filter(|it| it.exact);
    all.filter_map(|it| match it.field.kind {
        Kind::Leaf(leaf) => Some((it.field.name, leaf)),
        _ => None,
    })
    .collect()
}

fn reached(path: &Path) -> Vec<Reached> {
    let mut all = Vec::new();
    for (name, shape) in ROOTS {
        let root = if name == "inventory" { "" } else { name };
        let parts = path.parts();
        if let Some((Part::Named(naming, _), rest)) = parts.split_first()
            && naming.is_match(name)
        {
            reach(shape, rest, root, &mut all);
        }
        reach(shape, parts, root, &mut all);
    }
    all
}

/// Collects what the parts of a path lead to in a shape, whose own way is `at`.
fn reach(shape: &'static Shape, parts: &[Part], at: &str, all: &mut Vec<Reached>) {
    let Some((first, rest)) = parts.split_first() else {
        return everything(shape, at, false, all);
    };
    match first {
        Part::Deep if rest.is_empty() => everything(shape, at, false, all),
        Part::Deep => {
            reach(shape, rest, at, all);
            for field in shape.fields {
                match field.kind {
                    Kind::Leaf(_) => {}
                    Kind::Record(inner) | Kind::Optional(inner) => {
                        reach(inner, parts, &way(at, field), all);
                    }
                    Kind::List(inner) => reach(inner, parts, "", all),
                }
            }
        }
        Part::Named(naming, _) => {
            for field in fields_like(shape, naming) {
                match field.kind {
                    Kind::Leaf(_) if rest.is_empty() => {
                        all.push(Reached {
                            column: way(at, field),
                            exact: true,
                            of_element: false,
                            field,
                        });
                    }
                    Kind::Leaf(_) if rest.iter().all(|part| matches!(part, Part::Deep)) => {
                        all.push(Reached {
                            column: way(at, field),
                            exact: false,
                            of_element: false,
                            field,
                        });
                    }
                    Kind::Leaf(_) => {}
                    Kind::Record(inner) | Kind::Optional(inner) => {
                        reach(inner, rest, &way(at, field), all);
                    }
                    Kind::List(inner) => {
                        reach(inner, rest, "", all);
                        for own in 1..=rest.len() {
                            let (name, behind) = rest.split_at(own);
                            if behind.is_empty() && names_an_element(name, behind) {
                                everything(inner, "", true, all);
                            } else if names_an_element(name, behind) {
                                reach(inner, behind, "", all);
                            }
                        }
                    }
                }
            }
        }
    }
}

/// Every value of a shape and of what it holds.
fn everything(shape: &'static Shape, at: &str, of_element: bool, all: &mut Vec<Reached>) {
    for field in shape.fields {
        match field.kind {
            Kind::Leaf(_) => {
                all.push(Reached { column: way(at, field), exact: false, of_element, field });
            }
            Kind::Record(inner) | Kind::Optional(inner) => {
                everything(inner, &way(at, field), of_element, all);
            }
            Kind::List(inner) => everything(inner, "", of_element, all),
        }
    }
}

fn way(at: &str, field: &FieldShape) -> String {
    if at.is_empty() { field.name.to_owned() } else { format!("{at}.{}", field.name) }
}

/// Whether some parts of a path may together be the name of an element, which may have points in it.
fn names_an_element(name: &[Part], behind: &[Part]) -> bool {
    let ends_in_number = match name.last() {
        Some(Part::Named(naming, _)) => {
            naming.text().starts_with(|c: char| c.is_ascii_digit() || c == '*')
        }
        _ => false,
    };
    let words = name.iter().all(|part| matches!(part, Part::Named(..)));
    words && (name.len() == 1 || !behind.is_empty() || ends_in_number)
}

/// What stands behind a list: nothing, or an element's name, which may have points in it.
fn element(inner: &'static Shape, parts: &[Part]) -> bool {
    match parts {
        [] => true,
        [Part::Deep, ..] => within(inner, parts),
        [Part::Named(_, conditions)] => fit(conditions, inner),
        _ => (1..=parts.len()).any(|length| {
            let (name, rest) = parts.split_at(length);
            let named = name.iter().all(|part| match part {
                Part::Named(_, conditions) => fit(conditions, inner),
                Part::Deep => false,
            });
            named && names_an_element(name, rest) && within(inner, rest)
        }),
    }
}

/// What is declared of a value that reports can have.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DescribedField {
    /// The path, with `*` for the elements of lists.
    pub path: String,
    /// What it means.
    pub meaning: String,
    /// Its unit, if it has one.
    pub unit: Option<&'static str>,
    /// Where it is from: a standard with its clause, a kernel document, a file.
    pub source: &'static str,
}

/// Every value that reports can have, in the report's order.
pub fn described_fields() -> Vec<DescribedField> {
    fn collect(shape: &'static Shape, at: &str, all: &mut Vec<DescribedField>) {
        for field in shape.fields {
            let path =
                if at.is_empty() { field.name.to_owned() } else { format!("{at}.{}", field.name) };
            match field.kind {
                Kind::Leaf(leaf) => all.push(DescribedField {
                    path,
                    meaning: field.doc.split_whitespace().collect::<Vec<_>>().join(" "),
                    unit: leaf.unit.map(|unit| unit.name),
                    source: field.source.unwrap_or(shape.source),
                }),
                Kind::Record(inner) | Kind::Optional(inner) => collect(inner, &path, all),
                Kind::List(inner) => collect(inner, &format!("{path}.*"), all),
            }
        }
    }
    let mut all = Vec::new();
    for (name, shape) in ROOTS {
        let root = if name == "inventory" { "" } else { name };
        collect(shape, root, &mut all);
    }
    all
}

/// Every path that a report can have, with `*` for the elements of lists, in the report's order.
pub fn every_path() -> Vec<String> {
    let mut paths = Vec::new();
    visit_paths(&mut |path, _| paths.push(path));
    paths
}

/// Tells every path that a report can have, with its field.
pub(super) fn visit_paths(tell: &mut dyn FnMut(String, &'static FieldShape)) {
    fn within(shape: &'static Shape, at: &str, tell: &mut dyn FnMut(String, &'static FieldShape)) {
        for field in shape.fields {
            let own =
                if at.is_empty() { field.name.to_owned() } else { format!("{at}.{}", field.name) };
            tell(own.clone(), field);
            match field.kind {
                Kind::Leaf(_) => {}
                Kind::Record(inner) | Kind::Optional(inner) => within(inner, &own, tell),
                Kind::List(inner) => within(inner, &format!("{own}.*"), tell),
            }
        }
    }
    for (name, shape) in ROOTS {
        let root = if name == "inventory" { "" } else { name };
        within(shape, root, tell);
    }
}
