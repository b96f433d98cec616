//! What runs, asked of the built program.

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

use std::{fs, path::Path};

use rstest::rstest;
use serde_json::Value;
use support::Place;

const NAME: &str = "canary-name-q7";
const GROUP: &str = "canary-group-q7.service";
const OTHER: &str = "canary-groups-line-q7";

/// A demo machine on which two processes run.
fn machine() -> Place {
    let place = Place::with_machine("petrel");
    let write = |path: &str, text: &str| {
        let path = place.path("machine").join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    };
    for (pid, state) in [(812, 'S'), (813, 'Z')] {
        let stat = format!(
            "{pid} ({NAME}) {state} 1 {pid} {pid} 0 -1 4194304 3 0 0 0 250 50 9 9 20 0 7 0 12345 99\n"
        );
        write(&format!("proc/{pid}/stat"), &stat);
        write(
            &format!("proc/{pid}/status"),
            &format!(
                "Name:\t{NAME}\nUid:\t0\t0\t0\t0\nGroups:\t{OTHER}\nVmRSS:\t  64000 kB\nThreads:\t7\n"
            ),
        );
        write(&format!("proc/{pid}/io"), "read_bytes: 4096\nwrite_bytes: 8192\n");
        write(&format!("proc/{pid}/cgroup"), &format!("0::/system.slice/{GROUP}\n"));
        write(&format!("proc/{pid}/cmdline"), "collector\0--password=canary-words-q7\0");
        write(&format!("proc/{pid}/environ"), "TOKEN=canary-environment-q7\0");
    }
    place
}

fn json(place: &Place, from: &str) -> Value {
    let ran = place.run(&["survey", "processes", "--from", from, "--format", "json", "--quiet"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

#[test]
fn they_are_told_where_they_are_named_and_nowhere_else() {
    let place = machine();
    let ran = place.run(&["survey", "processes", "--from", "machine", "--plain"]);
    assert!(ran.out.contains("2 processes, 14 threads"), "{}", ran.out);
    assert!(ran.out.contains("1 sleeping, 1 zombies"), "{}", ran.out);
    assert!(ran.out.contains(NAME) && ran.out.contains(GROUP), "{}", ran.out);
    let whole = place.run(&["survey", "--from", "machine", "--format", "json", "--quiet"]);
    assert!(!whole.out.contains(NAME) && !whole.out.contains("/proc/812"));
    let one = place.run(&["get", "processes.list.*.{pid,resident}", "--from", "machine", "--csv"]);
    assert_eq!(one.out, "pid,resident_bytes\r\n812,65536000\r\n813,65536000\r\n");
    let why =
        place.run(&["why", "processes.list.0.resident_bytes", "--from", "machine", "--plain"]);
    assert!(why.out.contains("/proc/812/status"), "{} {}", why.out, why.err);
}

#[test]
fn a_machine_that_shows_none_says_why() {
    let ran = Place::new().run(&["survey", "processes", "--from", "demo:petrel", "--plain"]);
    assert!(ran.out.contains("processes: not given by this machine"), "{}", ran.out);
}

#[test]
fn their_report_is_as_its_schema_says() {
    let place = machine();
    let schema: Value = serde_json::from_str(&place.run(&["schema"]).out).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let own = json(&place, "machine");
    let wrong: Vec<String> = validator.iter_errors(&own).map(|error| error.to_string()).collect();
    assert_eq!(wrong, [""; 0]);
    assert_eq!(own["taken"]["sections"], serde_json::json!(["processes"]));
    assert_eq!(own["inventory"], serde_json::json!({}));
}

#[test]
fn a_capture_that_was_asked_for_them_gives_them_again() {
    let place = machine();
    let kept =
        place.run(&["capture", "--from", "machine", "--with", "processes", "--out", "c.tar.zst"]);
    assert_eq!(kept.status, 0, "{}", kept.err);
    let (own, again) = (json(&place, "machine"), json(&place, "c.tar.zst"));
    assert_eq!(own["readings"], again["readings"]);
    let plain = place.run(&["capture", "--from", "machine", "--out", "plain.tar.zst"]);
    assert_eq!(plain.status, 0, "{}", plain.err);
    assert!(!texts(&place.path("plain.tar.zst")).contains(NAME));
}

/// All that a capture holds, unpacked.
fn texts(path: &Path) -> String {
    let bytes = zstd::decode_all(fs::File::open(path).unwrap()).unwrap();
    String::from_utf8_lossy(&bytes).into_owned()
}

#[test]
fn what_an_owner_chose_is_not_in_a_redacted_capture() {
    let place = machine();
    place.run(&["capture", "--from", "machine", "--with", "processes", "--out", "c.tar.zst"]);
    let whole = texts(&place.path("c.tar.zst"));
    assert!(whole.contains(NAME) && whole.contains(GROUP) && whole.contains(OTHER));
    // What is never read is in no capture.
    assert!(!whole.contains("canary-words") && !whole.contains("canary-environment"));
    let ran = place.run(&["redact", "c.tar.zst", "--out", "shared.tar.zst"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let shared = texts(&place.path("shared.tar.zst"));
    assert!(!shared.contains("canary"), "something of an owner's stands in the copy");
    let (own, shared) = (json(&place, "c.tar.zst"), json(&place, "shared.tar.zst"));
    let of =
        |report: &Value, field: &str| report["readings"]["processes"]["list"][0][field].clone();
    for field in ["pid", "state", "resident_bytes", "read_bytes", "started_at", "user_id"] {
        assert_eq!(of(&own, field), of(&shared, field), "{field}");
    }
    assert_ne!(of(&own, "name"), of(&shared, "name"));
}

#[rstest]
#[case(&["survey", "cpu", "--pid", "1"], "write `tectum survey processes --pid N`")]
#[case(&["survey", "processes", "--pid", "1", "--from", "machine"], "stands still")]
#[case(&["survey", "processes", "--pid", "1", "--format", "csv"], "not as csv")]
#[case(&["survey", "processes", "--command-line"], "--pid")]
#[case(&["survey", "processes", "--pid", "1", "--command-line", "--out", "x.json"], "cannot be used")]
fn what_one_process_cannot_be_asked_is_wrong_usage(#[case] args: &[&str], #[case] says: &str) {
    let ran = machine().run(args);
    assert_eq!((ran.status, ran.out.as_str()), (2, ""));
    assert!(ran.err.contains(says), "{}", ran.err);
}

#[test]
fn one_process_is_told_as_a_card_and_as_its_schema_says() {
    let place = Place::new();
    let pid = std::process::id().to_string();
    let ran =
        place.run(&["survey", "processes", "--pid", &pid, "--deadline", "60s", "--format", "json"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let own: Value = serde_json::from_str(&ran.out).unwrap();
    let schema: Value = serde_json::from_str(&place.run(&["schema", "process"]).out).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let wrong: Vec<String> = validator.iter_errors(&own).map(|error| error.to_string()).collect();
    assert_eq!(wrong, [""; 0]);
    assert_eq!(own["pid"].to_string(), pid);
    let card = place.run(&["survey", "processes", "--pid", &pid, "--deadline", "60s", "--plain"]);
    for part in ["program: ", "open files: ", "memory: ", "started: "] {
        assert!(card.out.contains(part), "{part}: {}", card.out);
    }
    let none = place.run(&["survey", "processes", "--pid", "4194999", "--deadline", "60s"]);
    assert_eq!(none.status, 3);
    assert!(none.err.contains("no process 4194999"), "{}", none.err);
}
