//! Paths against recorded machines: each value is found by its own path, each path is a field of the
//! model, and what is no field, what is not there and what is missing are three things.

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

use rstest::rstest;
use support::{RECORDED, demo, look, recorded};
use tectum_report::{
    query::{HitValue, Path, every_path, find, rows},
    report::Report,
    walk::Met,
};

fn path(text: &str) -> Path {
    text.parse().unwrap()
}

fn pointers(report: &Report) -> Vec<String> {
    let mut found = Vec::new();
    report.walk(&mut |at, _, met| {
        if matches!(met, Met::Leaf(_)) {
            found.push(at.as_str().to_owned());
        }
    });
    found
}

#[rstest]
fn a_pointer_finds_its_value_alone(#[values("arm-board", "s390")] name: &str) {
    let report = look(recorded(name).path());
    for pointer in pointers(&report) {
        let pattern = path(&pointer);
        assert!(pattern.check().is_ok(), "{pointer}");
        let at: Vec<String> = find(&report, &pattern).into_iter().map(|hit| hit.at).collect();
        assert_eq!(at, [pointer]);
    }
}

#[test]
fn two_stars_find_every_value() {
    let report = look(demo("gannet-before").path());
    let mut found: Vec<String> = find(&report, &path("**")).into_iter().map(|hit| hit.at).collect();
    let mut all = pointers(&report);
    found.sort();
    found.dedup();
    all.sort();
    assert!(all.iter().all(|pointer| found.binary_search(pointer).is_ok()));
}

/// Every declared path, as it stands, with each of its names as a pattern, and each that it goes through.
fn kindred_paths() -> Vec<String> {
    let mut all = vec!["**".to_owned(), "**.serial".to_owned(), "storage.**.name".to_owned()];
    for declared in every_path() {
        let names: Vec<&str> = declared.split('.').collect();
        all.extend((1..=names.len()).map(|end| names[..end].join(".")));
        for at in 0..names.len() {
            let starred: Vec<&str> = names
                .iter()
                .enumerate()
                .map(|(i, name)| if i == at { "*" } else { name })
                .collect();
            all.push(starred.join("."));
        }
    }
    all.sort();
    all.dedup();
    all
}

#[test]
fn a_tables_columns_are_known_before_its_rows() {
    let report = look(demo("gannet-before").path());
    let all = kindred_paths();
    assert!(all.len() > 1000, "{}", all.len());
    for text in all.iter().step_by(3).chain([&"**".to_owned()]) {
        let path = path(text);
        let columns = path.columns();
        for column in rows(&report, &[path]).columns {
            assert!(columns.contains(&column), "{text}: {column} is not among {columns:?}");
        }
    }
    assert_eq!(path("storage.disks.*.size").columns(), ["size_bytes"]);
    assert_eq!(path("storage.disks.sda.partitions.*.name").columns(), ["name"]);
    assert_eq!(path("cpu.cores").columns(), ["cpu.cores"]);
}

#[test]
fn every_field_is_a_path_and_every_value_has_a_field() {
    let fields = every_path();
    assert!(fields.len() > 900, "{}", fields.len());
    for field in &fields {
        assert!(path(field).check().is_ok(), "{field}");
    }
    for name in RECORDED {
        let report = look(recorded(name).path());
        // A number in a pointer is a part of a list: a star in its field's path.
        for pointer in pointers(&report) {
            let steps: Vec<&str> = pointer
                .trim_start_matches('/')
                .split('/')
                .map(|step| if step.bytes().all(|byte| byte.is_ascii_digit()) { "*" } else { step })
                .collect();
            let field = steps.join(".");
            let known = fields.contains(&field)
                || field
                    .strip_prefix("inventory.")
                    .is_some_and(|it| fields.contains(&it.to_owned()));
            assert!(known, "{name}: {field}");
        }
    }
}

#[rstest]
#[case("memory.modules.A1.seria", Some("serial"))]
#[case("memory.modles", Some("memory.modules"))]
#[case("storage.disks.*.serail", Some("serial"))]
#[case("cpu.threds", Some("cpu.threads"))]
fn what_no_report_has_is_told_with_the_nearest(#[case] wrong: &str, #[case] near: Option<&str>) {
    let told = path(wrong).check().unwrap_err().to_string();
    assert!(told.contains(wrong), "{told}");
    assert!(near.is_none_or(|near| told.contains(near)), "{told}");
    assert!(told.len() < 200, "one name, not a list: {told}");
}

#[test]
fn what_is_not_there_is_no_row_and_what_is_missing_is_a_gap() {
    let report = look(recorded("s390").path());
    assert!(path("gpu.devices.*.serial").check().is_ok());
    assert_eq!(find(&report, &path("gpu.devices.*.serial")).len(), 0);
    let hits = find(&report, &path("firmware.secure_boot"));
    assert_eq!(hits.len(), 1);
    let HitValue::Fact(fact) = &hits[0].value else { panic!("a value's field gives a fact") };
    assert!(fact.missing().is_some_and(|gap| !gap.tried.is_empty()));
}

/// A sentence has one code and a code one sentence, on whatever machine they are said.
#[test]
fn codes_and_sentences_belong_together() {
    let mut sentences: BTreeMap<String, String> = BTreeMap::new();
    let mut codes: BTreeMap<String, String> = BTreeMap::new();
    let demos = ["gannet-before", "gannet-after"].map(|name| look(demo(name).path()));
    let all = RECORDED.iter().map(|name| look(recorded(name).path())).chain(demos);
    for report in all {
        let written = support::json(&report);
        for (code, sentence) in written["meanings"].as_object().unwrap() {
            let sentence = sentence.as_str().unwrap().to_owned();
            let other = sentences.insert(code.clone(), sentence.clone());
            assert!(other.is_none_or(|other| other == sentence), "{code}: {sentence:?}");
            let other = codes.insert(sentence.clone(), code.clone());
            assert!(other.is_none_or(|other| other == *code), "{sentence:?}: {code}");
        }
    }
    assert!(sentences.len() > 200, "{}", sentences.len());
}
