//! An archive with a past, for tests of the program.

use std::fs;

use serde_json::Value;

use crate::support::{Place, Ran};

pub fn json(ran: &Ran) -> Value {
    serde_json::from_str(&ran.out).unwrap_or_else(|error| panic!("{error}: {}{}", ran.out, ran.err))
}

/// An archive that holds gannet before and after its maintenance, on two days.
pub fn gannet() -> Place {
    let place = Place::new();
    for (name, day) in [("before", "2026-05-11"), ("after", "2026-05-12")] {
        dated(&place, &format!("demo:gannet-{name}"), &format!("{name}.json"), day, &[]);
        let ran = place.run(&["save", &format!("{name}.json")]);
        assert_eq!(ran.status, 0, "{}", ran.err);
    }
    place
}

/// Writes a report of a demo machine as it might have been seen on some day, with some texts in it replaced.
pub fn dated(place: &Place, subject: &str, file: &str, day: &str, with: &[(&str, &str)]) {
    let ran = place.run(&["survey", "--from", subject, "--quiet", "--format", "json"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let mut report: Value = serde_json::from_str(&ran.out).unwrap();
    report["taken"]["at"] = format!("{day}T03:00:00Z").into();
    let mut text = report.to_string();
    for (from, to) in with {
        text = text.replace(from, to);
    }
    fs::write(place.path(file), text).unwrap();
}
