//! What is written once against the declarations, for every field and list that the model has: the
//! written form and its schema, paths, digests, redaction.

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

use std::collections::{BTreeSet, HashSet};

use serde_json::{Value, json};
use support::{At, filled, hide, set, with};
use tectum_report::{
    Report,
    declare::NodeMut,
    fact::{Gap, Why},
    json::{print, schema, write::Form},
    leaf::{Identifies, Whose},
    query::{Path, find},
    redact::{Pseudonyms, of_redacted_capture},
};

fn written(report: &Report) -> Value {
    serde_json::to_value(report).unwrap()
}

fn pseudonyms() -> Pseudonyms {
    Pseudonyms::new(b"a key of a good length for a test", &BTreeSet::new())
}

/// A leaf's value and what is known of its type.
fn leaf(report: &mut Report, at: &At) -> (Option<Value>, Whose) {
    with(report, at, |node| {
        let NodeMut::Leaf(fact) = node else { panic!("no leaf at {}", at.path) };
        (fact.json(), fact.leaf_shape().whose)
    })
}

#[test]
fn a_report_with_every_field_is_read_back() {
    let (report, leaves, lists) = filled();
    assert!(leaves.len() > 800 && lists.len() > 60, "{} and {}", leaves.len(), lists.len());
    let mut bytes = Vec::new();
    print::to_writer(&mut bytes, &report).unwrap();
    assert_eq!(Report::from_json(&bytes).unwrap(), report);
    for form in [Form::Compact, Form::Expanded] {
        let mut bytes = Vec::new();
        report.write(&mut bytes, form).unwrap();
        assert_eq!(Report::from_json(&bytes).unwrap(), report);
    }
}

#[test]
fn a_report_with_every_field_is_valid_by_its_schema() {
    let (mut report, leaves, _) = filled();
    let schema = schema::report();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let errors = |report: &Report| -> Vec<String> {
        validator.iter_errors(&written(report)).map(|error| error.to_string()).take(5).collect()
    };
    assert_eq!(errors(&report), [""; 0]);
    // Every leaf may be missing, for every reason.
    for (number, at) in leaves.iter().enumerate() {
        let reasons = Why::ALL;
        hide(&mut report, at, Gap::new(reasons[number % reasons.len()]));
    }
    assert_eq!(errors(&report), [""; 0]);
    let bytes = serde_json::to_vec(&report).unwrap();
    assert_eq!(Report::from_json(&bytes).unwrap(), report);
}

/// What no leaf may hold is told with the pointer to it, and never taken.
#[test]
fn a_value_of_another_kind_is_refused_where_it_stands() {
    let (report, leaves, _) = filled();
    let whole = written(&report);
    for at in leaves.iter().step_by(7) {
        let steps: Vec<&str> = at.path.split('.').collect();
        let mut broken = whole.clone();
        let mut place = &mut broken;
        let mut way = String::new();
        for step in &steps {
            place = &mut place[*step];
            way = format!("{way}/{step}");
            // The way goes through the first element of a list of parts.
            if place.as_array().is_some_and(|items| items.first().is_some_and(Value::is_object)) {
                place = &mut place[0];
                way = format!("{way}/0");
            }
        }
        *place = json!({ "not": ["a", "value"] });
        let error = Report::from_json(&serde_json::to_vec(&broken).unwrap()).unwrap_err();
        let mut said = error.to_string();
        let mut source = std::error::Error::source(&error);
        while let Some(cause) = source {
            said = format!("{said}: {cause}");
            source = cause.source();
        }
        assert!(said.contains(&way), "{way}: {said}");
    }
}

#[test]
fn every_leaf_has_a_path_of_its_own() {
    let (report, leaves, _) = filled();
    let whole = written(&report);
    let mut seen = HashSet::new();
    for at in &leaves {
        assert!(seen.insert(at.path.clone()), "{} twice", at.path);
        let path = at.path.strip_prefix("inventory.").unwrap_or(&at.path);
        // Parts of lists are named by a star, wherever a list may be.
        let names: Vec<&str> = path.split('.').collect();
        let found = find(&report, &path_through(&whole, at, &names));
        assert!(!found.is_empty(), "{path} is not found");
    }
}

/// The path to a leaf: its names, with a star behind each that is a list of parts.
fn path_through(whole: &Value, at: &At, names: &[&str]) -> Path {
    let mut value = &whole[at.root];
    let mut text = String::new();
    let own: Vec<&str> = at.path.split('.').skip(1).collect();
    let prefix = names.len() - own.len();
    for name in &names[..prefix] {
        text = format!("{text}{name}.");
    }
    for name in own {
        value = &value[name];
        text = format!("{text}{name}.");
        if value.as_array().is_some_and(|items| items.first().is_some_and(Value::is_object)) {
            value = &value[0];
            text = format!("{text}*.");
        }
    }
    let path: Path = text.trim_end_matches('.').parse().unwrap();
    path.check().unwrap();
    path
}

/// The digest is of the inventory's values: each of them counts, and nothing else does.
#[test]
fn every_value_of_the_inventory_counts_in_its_digest() {
    let (report, leaves, _) = filled();
    let before = report.inventory_digest();
    for (number, at) in leaves.iter().enumerate().step_by(5) {
        let mut changed = report.clone();
        set(&mut changed, at, 500_000 + number as u64 * 60);
        let same = changed.inventory_digest() == before;
        assert_eq!(same, at.root != "inventory", "{}", at.path);
    }
}

/// An owner's words are replaced in every leaf that may hold them, makers' and nobody's stay.
#[test]
fn every_leaf_is_redacted_by_whose_words_it_holds() {
    let (mut report, leaves, _) = filled();
    let mut copy = pseudonyms().report(&report).unwrap();
    let mut replaced = BTreeSet::new();
    for at in &leaves {
        let (before, whose) = leaf(&mut report, at);
        // Parts may stand in another order, which their own test looks at.
        let in_a_list = at.steps.iter().any(|(_, element)| element.is_some());
        let (after, _) = leaf(&mut copy, at);
        match whose {
            Whose::Owners(kind) => {
                assert_ne!(before, after, "{} ({})", at.path, kind.word());
                replaced.insert(kind);
            }
            Whose::Makers | Whose::Nobodys if !in_a_list => {
                assert_eq!(before, after, "{}", at.path);
            }
            Whose::Makers | Whose::Nobodys => {}
        }
    }
    assert_eq!(replaced.len(), Identifies::ALL.len(), "every kind stands somewhere");
}

#[test]
fn each_kind_can_be_kept_and_then_stays() {
    let (report, leaves, _) = filled();
    for kind in Identifies::ALL {
        let keep = BTreeSet::from([*kind]);
        let by = Pseudonyms::new(b"a key of a good length for a test", &keep);
        let (mut original, mut copy) = (report.clone(), by.report(&report).unwrap());
        let mut kept = 0;
        for at in leaves.iter().filter(|at| at.steps.iter().all(|(_, element)| element.is_none())) {
            let (before, whose) = leaf(&mut original, at);
            if whose == Whose::Owners(*kind) {
                assert_eq!(leaf(&mut copy, at).0, before, "{}", at.path);
                kept += 1;
            }
        }
        let note = written(&copy)["notes"][0].clone();
        assert_eq!(note["kept"], json!([kind.word()]), "{kept} of {}", kind.word());
    }
}

/// What was redacted is a report like any other, and of a redacted capture the same is left out.
#[test]
fn a_redacted_report_is_whole_and_valid() {
    let (report, ..) = filled();
    let copy = pseudonyms().report(&report).unwrap();
    let bytes = serde_json::to_vec(&copy).unwrap();
    assert_eq!(Report::from_json(&bytes).unwrap(), copy);
    let schema = schema::report();
    let validator = jsonschema::validator_for(&schema).unwrap();
    assert!(validator.is_valid(&written(&copy)));
    let again = of_redacted_capture(&copy, Vec::new());
    assert_eq!(again.inventory, copy.inventory, "what is left out once is left out");
    assert_eq!(again.readings, copy.readings);
    // Another key gives another copy, the same key the same.
    assert_eq!(pseudonyms().report(&report).unwrap(), copy);
    let other = Pseudonyms::new(b"another key of a good length, too", &BTreeSet::new());
    assert_ne!(other.report(&report).unwrap().inventory, copy.inventory);
}
