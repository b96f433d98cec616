//! Reads a report; one that is read is written in both forms and read again, compared with itself, as a whole and by
//! its text, and redacted.

#![no_main]

use std::collections::BTreeSet;

use libfuzzer_sys::fuzz_target;
use tectum_report::{
    compare::{Scope, compare},
    json::write::Form,
    redact::Pseudonyms,
    report::Report,
};

fuzz_target!(|bytes: &[u8]| {
    let by_text = Report::pair_of_same_inventory(bytes, bytes);
    let Ok(report) = Report::from_json(bytes) else { return };
    for form in [Form::Compact, Form::Expanded] {
        let mut text = Vec::new();
        if report.write(&mut text, form).is_ok() {
            assert!(Report::from_json(&text).is_ok());
        }
    }
    let _ = report.inventory_digest();
    assert!(compare(&report, &report, Scope::InventoryAndReadings).changes.is_empty());
    if by_text.is_some() {
        assert!(compare(&report, &report, Scope::Inventory).not_compared.is_empty());
    }
    let _ = Pseudonyms::new(b"a key of a fuzzer", &BTreeSet::new()).report(&report);
});
