//! Reads a report; one that is read is read again as another program would lay it out, written in both forms and read
//! again, as a whole, as far as paths name it, and of its inventory alone the fields that paths may name; compared with
//! itself, as a whole and by its text; and redacted.

#![no_main]

use std::collections::BTreeSet;

use libfuzzer_sys::fuzz_target;
use serde_json::Value;
use tectum_report::{
    compare::{Scope, compare},
    fact::Why,
    json::{
        chosen::Chosen,
        origins::Depth,
        wanted::Wanted,
        write::{Form, Plain},
    },
    query::{HitValue, Path, find},
    redact::Pseudonyms,
    report::Report,
};

/// By a name, by a number, by a part of a section, and by what all parts have.
const PATHS: [&str; 5] = [
    "storage.disks.sda",
    "/inventory/memory/modules/1",
    "memory.modules",
    "storage.disks.*.serial",
    "**.serial",
];

/// What a path names in a report.
fn named(report: &Report, path: &Path) -> Vec<(String, Option<Value>)> {
    let hits = find(report, path).into_iter().map(|hit| match hit.value {
        HitValue::Fact(fact) => (hit.at, fact.json()),
        HitValue::MissingList(_) | HitValue::EmptyList(_) => (hit.at, None),
    });
    hits.collect()
}

/// Why values of a report are missing.
fn reasons(report: &Report) -> Vec<(String, Why)> {
    report.gaps().into_iter().map(|(at, gap)| (at, gap.why)).collect()
}

fuzz_target!(|bytes: &[u8]| {
    let by_text = Report::sections_to_compare(bytes, bytes);
    let Ok(report) = Report::from_json(bytes) else { return };
    // What is passed over need not be JSON.
    if let Ok(tree) = serde_json::from_slice::<Value>(bytes) {
        let again = Report::from_json(&serde_json::to_vec(&tree).unwrap());
        assert!(again.is_ok_and(|again| again == report));
    }
    for form in [Form::Compact, Form::Expanded] {
        let mut text = Vec::new();
        if report.write(&mut text, form).is_ok() {
            let again = Report::from_json(&text).unwrap();
            for depth in [Depth::Gaps, Depth::Reasons] {
                let read = Report::wanted_from_json(&text, &Wanted::all(depth)).unwrap();
                assert_eq!(reasons(&read), reasons(&again));
            }
            for path in PATHS.map(|path| path.parse::<Path>().unwrap()) {
                let paths = std::slice::from_ref(&path);
                let wanted = Wanted { paths, ..Wanted::all(Depth::Whole) };
                let read = Report::wanted_from_json(&text, &wanted).unwrap();
                assert_eq!(named(&read, &path), named(&again, &path));
            }
        }
    }
    let inventory = serde_json::to_vec(&Plain(&report.inventory)).unwrap();
    let of = |chosen: Option<&Chosen>| {
        Report::of_inventory(&inventory, report.taken.clone(), chosen).unwrap()
    };
    let whole = of(None);
    for path in PATHS.map(|path| path.parse::<Path>().unwrap()) {
        let chosen = of(Some(&Chosen::by(std::slice::from_ref(&path))));
        assert_eq!(named(&chosen, &path), named(&whole, &path));
    }
    let _ = report.inventory_digest();
    assert!(compare(&report, &report, Scope::InventoryAndReadings).changes.is_empty());
    let whole = compare(&report, &report, Scope::Inventory);
    if let Some(sections) = by_text {
        let wanted =
            Wanted { sections: Some(&sections), readings: false, ..Wanted::all(Depth::Reasons) };
        let read = Report::wanted_from_json(bytes, &wanted).unwrap();
        assert_eq!(compare(&read, &read, Scope::Inventory).not_compared, whole.not_compared);
    }
    let _ = Pseudonyms::new(b"a key of a fuzzer", &BTreeSet::new()).report(&report);
});
