//! Reads a report; one that is read is written and read again, compared with itself and redacted.

#![no_main]

use std::collections::BTreeSet;

use libfuzzer_sys::fuzz_target;
use tectum_report::{
    compare::{Scope, compare},
    redact::Pseudonyms,
    report::Report,
};

fuzz_target!(|bytes: &[u8]| {
    let Ok(report) = Report::from_json(bytes) else { return };
    let text = serde_json::to_vec(&report).unwrap_or_default();
    assert!(Report::from_json(&text).is_ok());
    let _ = report.inventory_digest();
    assert!(compare(&report, &report, Scope::InventoryAndReadings).changes.is_empty());
    let _ = Pseudonyms::new(b"a key of a fuzzer", &BTreeSet::new()).report(&report);
});
