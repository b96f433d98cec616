//! Which paths a report can have at all, by the model's declarations.

use super::path::{Part, Path};
use crate::{
    declare::{Described, Kind, Shape},
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
            Some((Part::Named(glob), rest)) => glob.is_match(name) && within(shape, rest),
            _ => false,
        };
        below || within(shape, parts)
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
        Part::Named(glob) => {
            shape.fields.iter().filter(|field| glob.is_match(field.name)).any(|field| {
                match field.kind {
                    Kind::Leaf(_) => rest.iter().all(|part| matches!(part, Part::Deep)),
                    Kind::Record(inner) | Kind::Optional(inner) => within(inner, rest),
                    Kind::List(inner) => element(inner, rest),
                }
            })
        }
    }
}

/// What stands behind a list: nothing, or an element's name, which may have points in it.
fn element(inner: &'static Shape, parts: &[Part]) -> bool {
    match parts {
        [] => true,
        [Part::Deep, ..] => within(inner, parts),
        [Part::Named(_)] => true,
        _ => (1..=parts.len()).any(|length| {
            let (name, rest) = parts.split_at(length);
            let named = name.iter().all(|part| matches!(part, Part::Named(_)));
            let ends_in_number = match name.last() {
                Some(Part::Named(glob)) => {
                    glob.glob().glob().starts_with(|c: char| c.is_ascii_digit() || c == '*')
                }
                _ => false,
            };
            named && (length == 1 || !rest.is_empty() || ends_in_number) && within(inner, rest)
        }),
    }
}

/// Every path that a report can have, with `*` for the elements of lists, in the report's order.
pub fn every_path() -> Vec<String> {
    fn collect(shape: &'static Shape, at: &str, paths: &mut Vec<String>) {
        for field in shape.fields {
            let own =
                if at.is_empty() { field.name.to_owned() } else { format!("{at}.{}", field.name) };
            match field.kind {
                Kind::Leaf(_) => paths.push(own),
                Kind::Record(inner) | Kind::Optional(inner) => {
                    paths.push(own.clone());
                    collect(inner, &own, paths);
                }
                Kind::List(inner) => {
                    paths.push(own.clone());
                    collect(inner, &format!("{own}.*"), paths);
                }
            }
        }
    }
    let mut paths = Vec::new();
    for (name, shape) in ROOTS {
        let root = if name == "inventory" { "" } else { name };
        collect(shape, root, &mut paths);
    }
    paths
}

/// The path that a report can have and that is most like another.
pub(super) fn nearest(path: &Path) -> Option<String> {
    let given: Vec<&str> = path.names_as_text().iter().map(String::as_str).collect();
    let given = match given.as_slice() {
        ["inventory", rest @ ..] if !rest.is_empty() => rest,
        all => all,
    };
    let text = given.join(".");
    let last = given.last().copied().unwrap_or_default();
    let mut best: Option<(f64, String)> = None;
    for candidate in every_path() {
        let names: Vec<&str> = candidate.split('.').collect();
        // An element's own name is kept where the path has one at that place.
        let shown: Vec<&str> = names
            .iter()
            .enumerate()
            .map(|(index, name)| match given.get(index) {
                Some(own) if *name == "*" && given.len() == names.len() => *own,
                _ => *name,
            })
            .collect();
        let own = names.last().copied().unwrap_or_default();
        let whole = strsim::jaro_winkler(&text, &shown.join("."));
        let end = strsim::jaro_winkler(last, own);
        let likeness = whole + end;
        if best.as_ref().is_none_or(|(most, _)| likeness > *most) {
            best = Some((likeness, shown.join(".")));
        }
    }
    best.filter(|(likeness, _)| *likeness > 1.5).map(|(_, candidate)| candidate)
}
