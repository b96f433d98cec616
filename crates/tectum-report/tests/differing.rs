//! Two saved reports of which the texts alone tell what has to be read to compare them, held against the whole comparison,
//! for every field of some sections and for machines of which other sections differ.

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

use rstest::rstest;
use support::{At, filled, hide, set, with};
use tectum_report::{
    Report,
    compare::{Scope, compare},
    declare::NodeMut,
    fact::{Gap, Why},
    json::{
        origins::Depth,
        wanted::Wanted,
        write::{Form, Plain},
    },
};

/// Sections that are small enough to be written hundreds of times.
const SECTIONS: [&str; 4] = ["memory", "os", "firmware", "power"];

fn written(report: &Report) -> Vec<u8> {
    let mut text = Vec::new();
    report.write(&mut text, Form::Compact).unwrap();
    text
}

/// A report of these sections, the ways to its values and to its lists.
fn small() -> (Report, Vec<At>, Vec<At>) {
    let (mut report, leaves, lists) = filled();
    report.keep_sections(&SECTIONS);
    let own =
        |at: &At| at.root == "inventory" && SECTIONS.contains(&at.path.split('.').nth(1).unwrap());
    let [leaves, lists] =
        [leaves, lists].map(|all| all.into_iter().filter(own).collect::<Vec<_>>());
    assert!(leaves.len() > 150 && lists.len() > 15, "{} {}", leaves.len(), lists.len());
    (report, leaves, lists)
}

/// The sections that the texts tell have to be read, if they do; the comparison of what is then read must be that of the
/// whole reports.
fn told(before: &Report, after: &Report) -> Option<Vec<&'static str>> {
    let [before_text, after_text] = [written(before), written(after)];
    let sections = Report::sections_to_compare(&before_text, &after_text)?;
    let wanted =
        Wanted { sections: Some(&sections), readings: false, ..Wanted::all(Depth::Reasons) };
    let read = |text: &[u8]| Report::wanted_from_json(text, &wanted).unwrap();
    let [one, other] = [read(&before_text), read(&after_text)];
    for (read, whole) in [(&one, before), (&other, after)] {
        let values = |report: &Report| serde_json::to_value(Plain(&report.machine)).unwrap();
        assert_eq!(values(read), values(whole));
        assert_eq!(read.taken.at, whole.taken.at);
        assert_eq!(read.taken.privileged, whole.taken.privileged);
    }
    let whole = compare(before, after, Scope::Inventory);
    let quick = compare(&one, &other, Scope::Inventory);
    assert_eq!(quick.changes, whole.changes, "of {sections:?}");
    assert_eq!(quick.not_compared, whole.not_compared, "of {sections:?}");
    assert_eq!(quick.machines, whole.machines);
    if sections.is_empty() {
        assert_eq!(whole.changes, []);
        assert_eq!(whole.not_compared, []);
    }
    Some(sections)
}

/// Whether the texts tell that nothing changed.
fn is_told(before: &Report, after: &Report) -> bool {
    told(before, after).unwrap().is_empty()
}

#[test]
fn what_is_the_same_to_the_byte_is_told() {
    let (report, ..) = small();
    assert!(is_told(&report, &report));
    // Another look at it, by somebody else, at another time.
    let mut later = report.clone();
    later.taken.at = "2026-12-01T03:00:00Z".parse().unwrap();
    later.taken.privileged = false;
    later.taken.elapsed_ms = 99;
    assert!(is_told(&report, &later));
}

/// Halves, for they take long one behind the other.
#[rstest]
fn of_every_value_that_differs_nothing_is_told(#[values(0, 1)] half: usize) {
    let (report, leaves, _) = small();
    for at in leaves.iter().skip(half).step_by(2) {
        let mut other = report.clone();
        set(&mut other, at, 500_000);
        assert!(!is_told(&report, &other), "{} differs", at.path);
        assert!(!is_told(&other, &report), "{} differs", at.path);
        // As another machine's it is the same as itself.
        assert!(is_told(&other, &other), "{} is the same", at.path);
    }
}

/// A value that is missing on both sides is the same text on both; where it may be there and was not seen, nobody knows
/// that it did not change.
#[rstest]
#[case(Why::Permission, false)]
#[case(Why::Timeout, false)]
#[case(Why::NotProvided, true)]
#[case(Why::NotApplicable, true)]
fn what_neither_side_could_see_may_have_changed(#[case] why: Why, #[case] told: bool) {
    let (report, leaves, _) = small();
    for at in leaves.iter().step_by(5) {
        let mut other = report.clone();
        hide(&mut other, at, Gap::new(why));
        assert_eq!(is_told(&other, &other), told, "{} is {why:?}", at.path);
    }
}

#[rstest]
#[case(Why::Permission)]
#[case(Why::Timeout)]
fn a_list_that_could_not_be_seen_whole_may_have_changed(#[case] why: Why) {
    let (report, _, lists) = small();
    for at in &lists {
        for in_part in [false, true] {
            let mut other = report.clone();
            with(&mut other, at, |node| {
                let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
                if in_part {
                    list.set_hidden_part(Some(Gap::new(why)));
                } else {
                    list.reorder(&[]);
                    list.set_missing(Some(Gap::new(why)));
                }
            });
            assert!(!is_told(&other, &other), "{} was not seen, in part: {in_part}", at.path);
            assert!(!is_told(&report, &other), "{} was not seen, in part: {in_part}", at.path);
        }
    }
}

/// The numbers of the lines in which a member of a report stands.
fn text_of<'a>(lines: &'a [&[u8]], name: &str) -> impl Iterator<Item = usize> + use<'a> {
    let begins = format!(" \"{name}\":");
    let first = lines.iter().position(|line| line.starts_with(begins.as_bytes())).unwrap();
    let behind = lines[first + 1..].iter().take_while(|line| !line.starts_with(b" \""));
    first..first + 1 + behind.count()
}

/// Whatever a text is cut to, or however its lines are mixed, it is not taken for one that did not change unless it is.
#[test]
fn a_text_that_is_damaged_is_read_as_a_whole() {
    let (report, ..) = small();
    let text = written(&report);
    let lines: Vec<&[u8]> = text.split_inclusive(|byte| *byte == b'\n').collect();
    let told = |other: &[u8]| {
        Report::sections_to_compare(&text, other).is_some_and(|sections| sections.is_empty())
    };
    let mut wrong = Vec::new();
    for (number, _) in lines.iter().enumerate().step_by(7) {
        let cut = lines[..number].concat();
        if told(&cut) {
            wrong.push(format!("cut before line {number}"));
        }
        let without = [&lines[..number], &lines[number + 1..]].concat().concat();
        // What is left may be whole by itself: then it must read as what was told. Damage behind the inventory is
        // none of it.
        if told(&without) {
            let Ok(read) = Report::from_json(&without) else {
                assert!(text_of(&lines, "inventory").all(|own| own != number));
                continue;
            };
            if !compare(&report, &read, Scope::Inventory).changes.is_empty() {
                wrong.push(format!("without line {number}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// Of a value that differs its section is read, and those that it needs; of what only other sections hold nothing.
#[test]
fn sections_that_are_the_same_are_left_out() {
    let (report, leaves, _) = small();
    let mut memory = 0;
    for at in leaves.iter().filter(|at| at.path.starts_with("inventory.memory.")) {
        let mut other = report.clone();
        set(&mut other, at, 500_000);
        let sections = told(&report, &other).unwrap();
        assert!(sections.contains(&"memory"), "{}: {sections:?}", at.path);
        assert!(!sections.contains(&"firmware"), "{}: {sections:?}", at.path);
        memory += 1;
    }
    assert!(memory > 50, "{memory}");
}

/// Whatever is another in any section of a whole report, and whatever cannot be seen in one.
#[test]
fn what_differs_anywhere_is_compared_as_in_the_whole() {
    let (report, leaves, lists) = filled();
    let own = |at: &&At| at.root == "inventory";
    let mut left_out = 0;
    for (number, at) in leaves.iter().filter(own).enumerate().step_by(23) {
        let mut other = report.clone();
        match number % 2 {
            0 => set(&mut other, at, 500_000),
            _ => hide(&mut other, at, Gap::new(Why::Permission)),
        }
        left_out += usize::from(!told(&report, &other).unwrap().contains(&"cpu"));
    }
    for at in lists.iter().filter(own).step_by(11) {
        let mut other = report.clone();
        with(&mut other, at, |node| {
            let NodeMut::List(list) = node else { panic!("no list at {}", at.path) };
            list.reorder(&[1]);
        });
        told(&report, &other).unwrap();
        told(&other, &report).unwrap();
    }
    assert!(left_out > 0);
}

/// A name that other parts have now: what refers to them is compared too, though it is the same text.
#[test]
fn what_refers_to_what_differs_is_read() {
    let (report, leaves, _) = filled();
    let find = |path: &str| leaves.iter().find(|at| at.path == path).unwrap();
    for (changed, refers) in [
        ("inventory.storage.disks.name", "filesystems"),
        ("inventory.pci.functions.address", "network"),
        ("inventory.filesystems.mounts.mount_point", "storage"),
    ] {
        let mut other = report.clone();
        set(&mut other, find(changed), 500_000);
        let sections = told(&report, &other).unwrap();
        assert!(sections.contains(&refers), "{changed}: {sections:?}");
    }
}
