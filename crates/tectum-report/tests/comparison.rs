//! Comparison against the declarations: every kind of part and every field of the model, whatever
//! sections fill them in.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::collections::BTreeMap;

use support::{At, filled, hide, set, with};
use tectum_report::{
    Report,
    compare::{Change, Comparison, Scope, What, WhichSide, compare},
    declare::{AnyList, NodeMut},
    fact::{Gap, Why},
};

fn between(before: &Report, after: &Report) -> Comparison {
    compare(before, after, Scope::InventoryAndReadings)
}

/// Every change, what follows from others too.
fn all(changes: &[Change]) -> Vec<&Change> {
    changes.iter().flat_map(|change| std::iter::once(change).chain(&change.follows)).collect()
}

fn mirrored(what: What) -> What {
    match what {
        What::Added => What::Removed,
        What::Removed => What::Added,
        other => other,
    }
}

/// What happened to which kind of part, the other way round if asked.
fn told(result: &Comparison, back: bool) -> Vec<(What, &'static str, Vec<&'static str>)> {
    let mut told: Vec<_> = all(&result.changes)
        .into_iter()
        .map(|change| {
            let what = if back { mirrored(change.what) } else { change.what };
            (what, change.part, change.fields.iter().map(|field| field.field).collect())
        })
        .collect();
    told.sort();
    told
}

/// The fields or lists that are compared, section by section, each with a report of that section
/// alone: whole ones would take minutes.
fn by_section(report: &Report, all: Vec<At>) -> Vec<(Report, Vec<At>)> {
    let mut sections: BTreeMap<String, Vec<At>> = BTreeMap::new();
    for at in all.into_iter().filter(|at| at.root != "machine") {
        let section = at.path.split('.').nth(1).unwrap().to_owned();
        sections.entry(section).or_default().push(at);
    }
    let alone = |(section, all): (String, Vec<At>)| {
        let mut report = report.clone();
        report.keep_sections(&[&section]);
        (report, all)
    };
    sections.into_iter().map(alone).collect()
}

fn compared(at: &At) -> bool {
    at.root != "machine"
}

#[test]
fn a_report_with_every_field_is_the_same_as_itself() {
    let (report, leaves, lists) = filled();
    assert!(leaves.len() > 850, "{} fields", leaves.len());
    assert!(lists.len() > 90, "{} lists", lists.len());
    let result = between(&report, &report);
    assert_eq!(result.changes, []);
    assert_eq!(result.not_compared, []);
}

#[test]
fn the_order_of_a_list_is_no_change() {
    let (report, _, lists) = filled();
    let mut other = report.clone();
    for at in lists.iter().filter(|at| compared(at)) {
        with(&mut other, at, |node| {
            let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
            let order: Vec<usize> = (0..list.len()).rev().collect();
            list.reorder(&order);
        });
        let result = between(&report, &other);
        assert_eq!(result.changes, [], "{} in another order", at.path);
    }
}

#[test]
fn a_part_that_is_gone_is_told_once_and_one_that_comes_too() {
    let (report, _, lists) = filled();
    for at in lists.iter().filter(|at| compared(at)) {
        let mut other = report.clone();
        let noun = with(&mut other, at, |node| {
            let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
            let order: Vec<usize> = (1..list.len()).collect();
            list.reorder(&order);
            list.item_shape().noun
        });
        for (result, what) in
            [(between(&report, &other), What::Removed), (between(&other, &report), What::Added)]
        {
            let own: Vec<&Change> = all(&result.changes)
                .into_iter()
                .filter(|change| change.part == noun && change.what == what)
                .collect();
            assert_eq!(own.len(), 1, "{}: {:#?}", at.path, result.changes);
            assert_eq!(result.changes.len(), 1, "{}: {:#?}", at.path, result.changes);
        }
    }
}

#[test]
fn a_field_that_differs_is_told_once_and_alike_both_ways() {
    let (report, leaves, _) = filled();
    let sections = by_section(&report, leaves);
    assert_eq!(sections.len(), 16);
    let each = sections.iter().flat_map(|(report, all)| all.iter().map(move |at| (report, at)));
    for (report, at) in each {
        let mut other = report.clone();
        set(&mut other, at, 500_000);
        let (there, back) = (between(report, &other), between(&other, report));
        assert_eq!(told(&there, false), told(&back, true), "{}", at.path);
        let field = at.field();
        let role = |fields: &[usize]| fields.contains(&field);
        if role(at.shape.incidental) {
            assert_eq!(there.changes, [], "{} is incidental", at.path);
            continue;
        }
        let identified = at.shape.identity.iter().any(|identity| !role(identity.fields))
            || (!at.shape.place.is_empty() && !role(at.shape.place));
        if role(at.shape.names) && !at.shape.place.contains(&field) {
            // Without anything else to know it by, a name is all there is of the part.
            assert!(there.changes.is_empty() || !identified, "{}: {:#?}", at.path, there.changes);
            continue;
        }
        assert!(!there.changes.is_empty(), "{} differs and nothing is told", at.path);
        let says = |change: &&Change| {
            change.what != What::Changed || change.fields.iter().any(|own| own.field == at.name())
        };
        let everything = all(&there.changes);
        assert!(everything.iter().any(says), "{}: {:#?}", at.path, there.changes);
    }
}

#[test]
fn what_one_side_could_not_see_is_no_change() {
    let (report, leaves, _) = filled();
    let mut wrong = Vec::new();
    let sections = by_section(&report, leaves);
    let each = sections.iter().flat_map(|(report, all)| all.iter().map(move |at| (report, at)));
    for (number, (report, at)) in each.enumerate() {
        let mut other = report.clone();
        let why = if number.is_multiple_of(2) { Why::Permission } else { Why::Timeout };
        hide(&mut other, at, Gap::new(why));
        let results = [between(report, &other), between(&other, report)];
        if results.iter().any(|result| !result.changes.is_empty()) {
            wrong.push(&at.path);
        }
        // What is not compared where one did not see it, is not told to be the same where neither did.
        let neither = between(&other, &other);
        let sides: Vec<WhichSide> = neither.not_compared.iter().map(|one| one.side).collect();
        let expected = vec![WhichSide::Both; results[0].not_compared.len()];
        if (neither.changes.len(), sides) != (0, expected) {
            wrong.push(&at.path);
        }
        // Where there was none there may be one now.
        let mut none = report.clone();
        hide(&mut none, at, Gap::new(Why::NotProvided));
        let result = between(&none, &other);
        let sides: Vec<WhichSide> = result.not_compared.iter().map(|one| one.side).collect();
        let expected = vec![WhichSide::After; results[0].not_compared.len()];
        if (result.changes.len(), sides) != (0, expected) {
            wrong.push(&at.path);
        }
    }
    assert!(wrong.is_empty(), "hidden and told as changes, or not told: {wrong:#?}");
}

#[test]
fn a_list_that_one_side_could_not_see_is_no_change() {
    let (report, _, lists) = filled();
    for at in lists.iter().filter(|at| compared(at)) {
        let mut other = report.clone();
        with(&mut other, at, |node| {
            let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
            list.reorder(&[]);
            list.set_missing(Some(Gap::new(Why::Permission)));
        });
        for result in [between(&report, &other), between(&other, &report)] {
            assert_eq!(result.changes, [], "{} hidden", at.path);
            assert!(!result.not_compared.is_empty(), "{}", at.path);
        }
        // Of a list that was seen in part, what is not there may be there.
        let mut other = report.clone();
        with(&mut other, at, |node| {
            let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
            list.reorder(&[0]);
            list.set_hidden_part(Some(Gap::new(Why::Permission)));
        });
        for result in [between(&report, &other), between(&other, &report)] {
            assert_eq!(result.changes, [], "{} seen in part", at.path);
        }
        let neither = between(&other, &other);
        let sides: Vec<WhichSide> = neither.not_compared.iter().map(|one| one.side).collect();
        assert_eq!((neither.changes.len(), sides), (0, vec![WhichSide::Both]), "{}", at.path);
    }
}

#[test]
fn what_a_list_that_was_seen_whole_did_not_have_is_new_or_gone() {
    let (report, _, lists) = filled();
    for at in lists.iter().filter(|at| compared(at)) {
        let changed = |change: &dyn Fn(&mut dyn AnyList)| {
            let mut other = report.clone();
            with(&mut other, at, |node| {
                let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
                change(list);
            });
            other
        };
        let more = changed(&|list| list.set_hidden_part(Some(Gap::new(Why::Permission))));
        let none = changed(&|list| list.reorder(&[]));
        // The one that has more may have others besides; what it has, the other had not.
        for (before, after, what) in [(&none, &more, What::Added), (&more, &none, What::Removed)] {
            let result = between(before, after);
            assert!(all(&result.changes).iter().any(|one| one.what == what), "{}", at.path);
        }
    }
}
