//! Reads a report; one that is read is written and read again.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tectum_report::report::Report;

fuzz_target!(|bytes: &[u8]| {
    let Ok(report) = Report::from_json(bytes) else { return };
    let text = serde_json_text(&report);
    assert!(Report::from_json(&text).is_ok());
    let _ = report.inventory_digest();
});

fn serde_json_text(report: &Report) -> Vec<u8> {
    serde_json::to_vec(report).unwrap_or_default()
}
