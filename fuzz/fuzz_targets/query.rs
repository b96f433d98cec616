//! Reads paths, conditions, JSONPaths and searches, and asks a small report for them.

#![no_main]

use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use tectum_report::{
    query::{JsonQuery, Search, paths, plain, rows, search},
    report::Report,
};

static REPORT: LazyLock<Report> = LazyLock::new(|| {
    Report::from_json(include_bytes!("../seeds/report/memory.json")).unwrap_or_else(|error| {
        panic!("the seed is a report: {error}");
    })
});

fuzz_target!(|text: &str| {
    if let Ok(paths) = paths(text) {
        for path in &paths {
            let _ = (path.check(), path.ends_at_a_value());
        }
        let rows = rows(&REPORT, &paths);
        assert!(rows.rows.iter().all(|row| row.cells.len() == rows.columns.len()));
    }
    if let Ok(query) = text.parse::<JsonQuery>() {
        let whole = plain(&REPORT);
        let _ = query.find(&whole);
    }
    for wanted in [Search::words(text), Search::pattern(text), Search::expression(text)] {
        let Ok(wanted) = wanted else { continue };
        for found in search(&REPORT, &wanted, None) {
            let mut end = 0;
            for mark in wanted.marks(&found.label) {
                assert!(mark.start >= end && found.label.get(mark.clone()).is_some());
                end = mark.end;
            }
        }
    }
});
