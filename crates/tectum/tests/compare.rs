//! `tectum compare`, run as users run it.

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

use proptest::{
    prelude::*,
    test_runner::{Config, TestRunner},
};
use rstest::rstest;
use serde_json::Value;
use support::Place;
use tectum_report::{
    Report,
    compare::{Scope, compare},
    fact::Why,
    walk::Met,
};

const BEFORE: &str = "demo:gannet-before";
const AFTER: &str = "demo:gannet-after";

#[test]
fn changes_are_sentences_and_the_status_is_1() {
    let ran = Place::new().run(&["compare", BEFORE, AFTER]);
    assert_eq!(ran.status, 1);
    for said in [
        "2 replaced, 1 moved, 1 added, 2 changed",
        "replaced memory module in B1, CPU 1 CHANNEL B",
        "moved memory module LW5-32G-4800R, LW-77A1003",
        "C1, CPU 2 CHANNEL C → C2, CPU 2 CHANNEL C",
        "replaced disk in pci 0000:00:17.0 port 2",
        "version MF 3.8.1 → MF 3.9.0",
    ] {
        assert!(ran.out.contains(said), "{said:?} in {}", ran.out);
    }
    assert!(!ran.out.contains("sda"), "a new name is no change: {}", ran.out);
}

#[test]
fn a_machine_is_the_same_as_itself() {
    let ran = Place::new().run(&["compare", BEFORE, BEFORE]);
    assert_eq!((ran.status, ran.err.as_str()), (0, ""));
    assert!(ran.out.contains("no differences"));
}

#[test]
fn json_names_parts_by_pointer() {
    let ran = Place::new().run(&["compare", BEFORE, AFTER, "--format", "json"]);
    assert_eq!(ran.status, 1);
    let document: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(document["format"], "tectum-comparison");
    let changes = document["changes"].as_array().unwrap();
    let moved = changes.iter().find(|change| change["what"] == "moved").unwrap();
    assert_eq!(moved["section"], "memory");
    assert_eq!(moved["before"]["at"], "/inventory/memory/modules/2");
    assert_eq!(document["not_compared"], serde_json::json!([]));
    assert_ne!(document["before"]["inventory_digest"], document["after"]["inventory_digest"]);
}

#[rstest]
#[case(&["compare", BEFORE], 2)]
#[case(&["compare", BEFORE, "nowhere.json"], 3)]
#[case(&["compare", BEFORE, "demo:puffin"], 2)]
#[case(&["compare", BEFORE, AFTER, "--skip", "tides"], 2)]
fn what_cannot_be_compared_is_told_by_the_status(#[case] words: &[&str], #[case] status: i32) {
    let ran = Place::new().run(words);
    assert_eq!(ran.status, status);
    assert!(!ran.err.is_empty());
}

#[test]
fn sections_can_be_skipped() {
    let ran = Place::new().run(&[
        "compare", BEFORE, AFTER, "--skip", "memory", "--skip", "storage", "--skip", "firmware",
        "--skip", "os",
    ]);
    assert_eq!(ran.status, 0, "{}", ran.out);
}

#[test]
fn saved_reports_and_folders_compare_alike() {
    let place = Place::with_machine("gannet-before");
    place.run(&["survey", "--from", "machine", "--out", "saved.json", "--quiet"]);
    let ran = place.run(&["compare", "saved.json", "machine"]);
    assert_eq!(ran.status, 0, "{}", ran.out);
}

/// Somebody copied a machine without one of the kernel's folders: what that would have told is not seen, and not gone.
#[rstest]
#[case("sys", &["→ nothing", "added device tree", "removed disk"])]
#[case("proc", &["model name", "removed mount"])]
fn what_was_not_copied_is_not_gone(#[case] left_out: &str, #[case] gone: &[&str]) {
    let place = Place::with_machine("gannet-before");
    std::fs::remove_dir_all(place.path("machine").join(left_out)).unwrap();
    let ran = place.run(&["compare", BEFORE, "machine"]);
    assert!(ran.out.contains("not seen"), "{}", ran.out);
    for gone in gone {
        assert!(!ran.out.contains(gone), "{gone} in {}", ran.out);
    }
}

/// Whoever reads a page, on paper too, sees what was not seen.
#[rstest]
#[case::neither(&["user.json", "user.json"], "known on neither side")]
#[case::one(&["root.json", "user.json"], "1 not known after")]
#[case::the_other(&["user.json", "root.json"], "1 not known before")]
fn what_could_not_be_seen_is_told_where_the_changes_are(
    #[case] subjects: &[&str],
    #[case] said: &str,
) {
    let place = Place::new();
    let saved = ["--quiet", "--evidence", "expanded", "--out", "root.json"];
    place.run(&[&["survey", "--from", BEFORE][..], &saved[..]].concat());
    let text = std::fs::read(place.path("root.json")).unwrap();
    let mut report: Value = serde_json::from_slice(&text).unwrap();
    report["inventory"]["memory"]["modules"] = Value::Null;
    let gap = serde_json::json!({ "at": "/inventory/memory/modules", "why": "permission" });
    report["gaps"].as_array_mut().unwrap().push(gap);
    std::fs::write(place.path("user.json"), serde_json::to_vec(&report).unwrap()).unwrap();
    let compared = |more: &[&str]| place.run(&[&["compare"], subjects, more].concat());
    for form in ["text", "markdown", "html"] {
        let ran = compared(&["--format", form]);
        assert_eq!((ran.status, ran.err.as_str()), (0, ""), "{form}: {}", ran.out);
        let text = ran.out.split_whitespace().collect::<Vec<_>>().join(" ");
        for said in ["no differences seen", "memory.modules", "permission", said] {
            assert!(text.contains(said), "{said:?} in {form}: {}", ran.out);
        }
    }
    let full = compared(&["--detail", "full"]);
    assert!(full.out.lines().any(|line| line.contains("memory.modules ")), "{}", full.out);
    // A patch has no room for it.
    let patch = compared(&["--format", "json-patch"]);
    assert!(patch.err.contains("memory.modules (permission)"), "{}", patch.err);
    let quiet = compared(&["--format", "json-patch", "--quiet"]);
    assert_eq!(quiet.err, "");
}

#[test]
fn values_that_appear_stand_apart_from_their_names() {
    let place = Place::new();
    for folder in ["empty/proc", "empty/sys"] {
        std::fs::create_dir_all(place.path(folder)).unwrap();
    }
    let ran = place.run(&["compare", "empty", BEFORE]);
    assert_eq!(ran.status, 1);
    assert!(ran.out.contains("  id nothing → skerry"), "{}", ran.out);
    assert!(ran.out.contains("  threads nothing → 16"), "{}", ran.out);
    let sheet = place.run(&["survey", "--from", "empty"]);
    assert!(sheet.out.contains("display devices: not given by this machine"), "{}", sheet.out);
}

#[rstest]
#[case(&["compare", BEFORE, AFTER, "--only", "memory.modles"], "memory.modules")]
#[case(&["compare", BEFORE, AFTER, "--skip", "storage.disks.*.serail"], "serial")]
#[case(&["why", "cpu.threds", "--from", BEFORE], "cpu.threads")]
fn a_field_that_no_report_has_is_wrong_usage(#[case] words: &[&str], #[case] near: &str) {
    let ran = Place::new().run(words);
    assert_eq!((ran.status, ran.out.as_str()), (2, ""));
    assert!(ran.err.contains(near), "{}", ran.err);
    assert_eq!(ran.err.lines().count(), 1, "{}", ran.err);
}

#[test]
fn a_part_of_the_model_is_compared_alone() {
    let ran = Place::new().run(&["compare", BEFORE, AFTER, "--only", "storage.disks.*.serial"]);
    assert_eq!(ran.status, 1);
    assert!(ran.out.contains("SKS4-220418"), "{}", ran.out);
    assert!(!ran.out.contains("memory module"), "{}", ran.out);
    // Nothing there is no difference.
    let none = Place::new().run(&["compare", BEFORE, AFTER, "--only", "usb.devices.*.serial"]);
    assert_eq!(none.status, 0, "{}", none.out);
}

#[test]
fn brief_is_a_line_a_section_and_full_tells_what_follows() {
    let brief = Place::new().run(&["compare", BEFORE, AFTER, "--detail", "brief"]);
    assert_eq!(brief.status, 1);
    for section in ["memory", "storage", "firmware", "os"] {
        let line = |line: &&str| line.split_whitespace().next() == Some(section);
        assert_eq!(brief.out.lines().filter(line).count(), 1, "{section}: {}", brief.out);
    }
    assert!(!brief.out.contains("LW-77A1002"), "{}", brief.out);
    let normal = Place::new().run(&["compare", BEFORE, AFTER]);
    let full = Place::new().run(&["compare", BEFORE, AFTER, "--detail", "full"]);
    assert!(normal.out.contains("with it changed cpu (microcode)"), "{}", normal.out);
    assert!(!normal.out.contains("0x2b0004a1"), "{}", normal.out);
    assert!(full.out.contains("0x2b0004a1 → 0x2b0004d0"), "{}", full.out);
}

#[test]
fn a_comparison_is_valid_by_its_schema() {
    let place = Place::new();
    let schema: Value = serde_json::from_str(&place.run(&["schema", "comparison"]).out).unwrap();
    assert!(jsonschema::meta::is_valid(&schema));
    let validator = jsonschema::validator_for(&schema).unwrap();
    for words in [[BEFORE, AFTER], [BEFORE, BEFORE], [AFTER, BEFORE]] {
        let words = ["compare", words[0], words[1], "--format", "json", "--readings"];
        let document: Value = serde_json::from_str(&place.run(&words).out).unwrap();
        let errors: Vec<String> =
            validator.iter_errors(&document).map(|error| error.to_string()).collect();
        assert!(errors.is_empty(), "{errors:?}");
        let mut wrong = document;
        wrong["machines"]["same"] = Value::from("perhaps");
        assert!(!validator.is_valid(&wrong));
    }
}

#[test]
fn units_hold_in_a_comparison() {
    let told = |units: &str| {
        Place::new()
            .run(&["compare", BEFORE, AFTER, "--only", "memory.modules", "--units", units])
            .out
    };
    assert!(told("iec").contains("32 GiB → 64 GiB"), "{}", told("iec"));
    assert!(told("exact").contains("34359738368"), "{}", told("exact"));
    assert!(!told("si").contains("GiB"), "{}", told("si"));
}

#[test]
fn two_machines_are_said_to_be_two() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.remove("sys/firmware/dmi");
        tree.line(
            "sys/devices/virtual/dmi/id/product_uuid",
            "0a1b2c3d-0000-4000-8000-00000000beef",
        );
        tree.line("sys/devices/virtual/dmi/id/product_serial", "MS-F2240-00999");
    });
    let ran = place.run(&["compare", BEFORE, "machine"]);
    assert_eq!(ran.status, 1);
    assert!(ran.out.contains("two different machines"), "{}", ran.out);
}

/// A report as it is saved.
fn saved(subject: &str) -> String {
    Place::new().run(&["survey", "--from", subject, "--quiet", "--format", "json"]).out
}

/// Whether comparing two reports as a whole tells of anything of the inventory.
fn tells(before: &str, after: &str) -> bool {
    let [before, after] =
        [before, after].map(|text| Report::values_from_json(text.as_bytes()).unwrap());
    let compared = compare(&before, &after, Scope::Inventory);
    !compared.changes.is_empty() || !compared.not_compared.is_empty()
}

fn seen_to_be_the_same(before: &str, after: &str) -> bool {
    Report::sections_to_compare(before.as_bytes(), after.as_bytes())
        .is_some_and(|sections| sections.is_empty())
}

#[rstest]
fn an_inventory_that_did_not_change_is_seen_without_reading_it() {
    for shipped in tectum_demo::MACHINES {
        let before = saved(&format!("demo:{}", shipped.name));
        // Another day, another load; the inventory stays.
        let after =
            before.replace("\n  \"at\": \"20", "\n  \"at\": \"19").replace("\"load\"", "\"load\" ");
        assert!(before != after, "{}", shipped.name);
        let seen = seen_to_be_the_same(&before, &after);
        assert_eq!(seen, !leaves_open(&before), "{}", shipped.name);
        assert!(!seen || !tells(&before, &after), "{}", shipped.name);
    }
}

/// Whether a report lacks what could not be seen, as its gaps say.
fn leaves_open(text: &str) -> bool {
    let mut open = false;
    let report = Report::from_json(text.as_bytes()).unwrap();
    report.walk(&mut |_, _, met| {
        let gap = match met {
            Met::Leaf(fact) => fact.missing().or_else(|| fact.hidden_part()),
            Met::List(list) => list.missing().or_else(|| list.hidden_part()),
            Met::Record(_) => None,
        };
        open |= gap.is_some_and(|gap| gap.why.hides_a_value() || gap.why == Why::Invalid);
    });
    open
}

#[rstest]
#[case::another_value("\"size_bytes\":34359738368", "\"size_bytes\":34359738369")]
#[case::another_place("\"locator\":\"A1\"", "\"locator\":\"A9\"")]
#[case::what_only_root_sees("\"why\":\"not-provided\"", "\"why\":\"permission\"")]
#[case::another_layout("\n \"inventory\": {\n", "\n  \"inventory\": {\n")]
#[case::a_newer_form("\"format_version\": \"1.0\"", "\"format_version\": \"1.9\"")]
fn what_may_have_changed_is_read(#[case] from: &str, #[case] to: &str) {
    let before = saved(BEFORE);
    let after = before.replacen(from, to, 1);
    assert!(before != after, "{from} stands there");
    assert!(seen_to_be_the_same(&before, &before));
    assert!(!seen_to_be_the_same(&before, &after));
    assert!(!seen_to_be_the_same(&after, &before));
}

#[test]
fn lines_that_are_taken_out_doubled_or_swapped_are_never_taken_for_no_change() {
    let before = saved(BEFORE);
    let lines: Vec<&str> = before.split_inclusive('\n').collect();
    let mut runner = TestRunner::new(Config { cases: 400, ..Config::default() });
    let row = 0..lines.len();
    runner
        .run(&(row.clone(), row, 0_u8..3), |(one, other, doing)| {
            let mut lines = lines.clone();
            match doing {
                0 => drop(lines.remove(one)),
                1 => lines.insert(other, lines[one]),
                _ => lines.swap(one, other),
            }
            let after = lines.concat();
            if seen_to_be_the_same(&before, &after)
                && Report::values_from_json(after.as_bytes()).is_ok()
            {
                prop_assert!(!tells(&before, &after));
            }
            Ok(())
        })
        .unwrap();
}
