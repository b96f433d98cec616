//! What follows from what: one cause is told once, and what follows from it beneath it.
//!
//! A part that is gone takes with it what refers to it; a part that moved or was replaced changes
//! what refers to it. What is declared to follow from other parts of the model follows from a change
//! of those: of what it refers to, else of the same part, else of the same section. What follows
//! from nothing that is told is told itself.

use std::collections::HashMap;

use super::{Change, What, difference::Found};

/// Changes, each with what follows from it.
pub(super) fn by_cause(found: Vec<Found>) -> Vec<Change> {
    let mut causes: Vec<Option<usize>> = vec![None; found.len()];
    let structural = Structural::of(&found);
    for (index, one) in found.iter().enumerate() {
        let cause = structural.cause_of(index, one, &found);
        if let Some(slot) = causes.get_mut(index) {
            *slot = cause;
        }
    }
    for (index, one) in found.iter().enumerate() {
        if causes.get(index).copied().flatten().is_some() || !one.derived {
            continue;
        }
        let cause = nearest(index, one, &found, &causes);
        if let Some(slot) = causes.get_mut(index) {
            *slot = cause;
        }
    }
    let roots = promoted(&found, &causes);
    let mut follows: HashMap<usize, Vec<usize>> = HashMap::new();
    for (index, root) in roots.iter().enumerate() {
        if *root != index {
            follows.entry(*root).or_default().push(index);
        }
    }
    let mut found: Vec<Option<Found>> = found.into_iter().map(Some).collect();
    let mut changes = Vec::new();
    for (index, root) in roots.iter().enumerate() {
        if *root != index {
            continue;
        }
        let Some(own) = found.get_mut(index).and_then(Option::take) else { continue };
        let beneath = follows.remove(&index).unwrap_or_default();
        let beneath = beneath
            .into_iter()
            .filter_map(|one| found.get_mut(one).and_then(Option::take))
            .map(|one| change(one, Vec::new()))
            .collect();
        changes.push(change(own, beneath));
    }
    changes
}

fn change(found: Found, follows: Vec<Change>) -> Change {
    Change {
        what: found.what,
        section: found.section,
        part: found.part,
        before: found.before,
        after: found.after,
        within: found.within,
        fields: found.fields,
        follows,
    }
}

/// Parts that came, went, were replaced or moved, by their pointers on either side.
struct Structural {
    sides: [HashMap<String, usize>; 2],
}

impl Structural {
    fn of(found: &[Found]) -> Self {
        let mut sides = [HashMap::new(), HashMap::new()];
        for (index, one) in found.iter().enumerate() {
            if one.what == What::Changed || one.derived {
                continue;
            }
            for (side, own) in sides.iter_mut().zip(&one.own) {
                if let Some(pointer) = own.first() {
                    side.insert(pointer.clone(), index);
                }
            }
        }
        Self { sides }
    }

    /// The change of what a change refers to, if it is one that it follows from.
    fn cause_of(&self, index: usize, one: &Found, found: &[Found]) -> Option<usize> {
        let fits = |cause: &Found| match one.what {
            _ if one.derived => true,
            What::Removed => matches!(cause.what, What::Removed | What::Replaced),
            What::Added => matches!(cause.what, What::Added | What::Replaced),
            What::Replaced => cause.what == What::Replaced,
            What::Moved | What::Changed => one.by_reference,
        };
        self.sides.iter().zip(&one.refers).find_map(|(side, refers)| {
            refers.iter().flatten().find_map(|pointer| {
                let cause = *side.get(pointer)?;
                (cause != index && found.get(cause).is_some_and(fits)).then_some(cause)
            })
        })
    }
}

/// The change that what follows from elsewhere most likely follows from.
fn nearest(index: usize, one: &Found, found: &[Found], causes: &[Option<usize>]) -> Option<usize> {
    if let Some(pointer) = &one.follows {
        let section = pointer.rsplit_once('/').map_or("", |(record, _)| record);
        return found.iter().position(|other| {
            !other.derived
                && other.own.iter().any(|own| own.first().is_some_and(|at| at == section))
        });
    }
    let pointer = |found: &Found| found.own.iter().find_map(|own| own.first().cloned());
    let own = pointer(one)?;
    let told = |at: usize| {
        at != index
            && found.get(at).is_some_and(|other| !other.derived)
            && causes.get(at).copied().flatten().is_none()
    };
    let first = |test: &dyn Fn(&Found) -> bool| {
        (0..found.len()).find(|at| told(*at) && found.get(*at).is_some_and(test))
    };
    let is = |other: &Found, target: &[String]| {
        target.first().is_some_and(|target| other.own.iter().any(|own| own.first() == Some(target)))
    };
    // What it refers to has changed: a mount is as large as its partition.
    let to = |other: &Found| one.refers.iter().flatten().any(|target| is(other, target));
    // What lies in it, or what it lies in.
    let around = |other: &Found| {
        pointer(other).is_some_and(|theirs| {
            let below = |inner: &str, outer: &str| {
                inner.strip_prefix(outer).is_some_and(|rest| rest.starts_with('/'))
            };
            below(&theirs, &own) || below(&own, &theirs)
        })
    };
    // What refers to it: a slot is filled because a module moved there.
    let from =
        |other: &Found| other.refers.iter().flatten().any(|target| target.first() == Some(&own));
    if let Some(cause) = first(&to).or_else(|| first(&around)).or_else(|| first(&from)) {
        return Some(cause);
    }
    // What refers to other parts follows from those alone; a sum follows from its section.
    if one.refers.iter().any(|targets| !targets.is_empty()) {
        return None;
    }
    first(&|other| other.section == one.section)
}

/// For each change, the one that it is told beneath, itself where it is told by itself. Of a part
/// that only its kind is known of, and a part on it that something unique makes itself, the latter
/// is told: a disk rather than the function that it is on.
fn promoted(found: &[Found], causes: &[Option<usize>]) -> Vec<usize> {
    let root = |index: usize| {
        let mut way = vec![index];
        while let Some(cause) = way.last().and_then(|at| causes.get(*at).copied().flatten()) {
            // A circle of references is told beneath the first of its parts.
            if let Some(from) = way.iter().position(|at| *at == cause) {
                let circle = way.get(from..).unwrap_or_default();
                return circle.iter().min().copied().unwrap_or(index);
            }
            way.push(cause);
        }
        way.last().copied().unwrap_or(index)
    };
    let roots: Vec<usize> = (0..found.len()).map(root).collect();
    let mut instead: HashMap<usize, usize> = HashMap::new();
    for (index, root) in roots.iter().enumerate() {
        let (Some(own), Some(cause)) = (found.get(index), found.get(*root)) else { continue };
        let better = index != *root
            && own.is_itself
            && !cause.is_itself
            && own.what == cause.what
            && own.within.is_empty();
        if better {
            instead.entry(*root).or_insert(index);
        }
    }
    roots.into_iter().map(|root| instead.get(&root).copied().unwrap_or(root)).collect()
}
