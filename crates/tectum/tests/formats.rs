//! The forms of a survey as their users meet them: files whole or not at all, several machines, what cannot be, and the
//! samples of the documentation.

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

use std::{
    fs,
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
};

use rstest::rstest;
use serde_json::Value;
use support::{Place, Ran, reports};

fn mode(path: &Path) -> u32 {
    fs::metadata(path).unwrap().permissions().mode() & 0o777
}

#[rstest]
#[case("it.jsonl", "{\"host\":\"gannet\"")]
#[case("it.ndjson", "{\"host\":\"gannet\"")]
#[case("it.cdx.json", "{\n  \"$schema\": \"http://cyclonedx.org/")]
#[case("it.prom", "# TYPE tectum_machine gauge")]
#[case("it.md", "# gannet")]
#[case("it.html", "<!DOCTYPE html>")]
#[case("it.sqlite", "SQLite format 3\0")]
#[case("it.db", "SQLite format 3\0")]
#[case("it.json", "{\n \"format\": \"tectum-report\"")]
#[case("it", "{\n \"format\": \"tectum-report\"")]
fn the_ending_of_a_name_says_the_form(#[case] name: &str, #[case] begins: &str) {
    let place = Place::new();
    let ran = place.run(&["survey", "memory", "--from", "demo:gannet-before", "--out", name]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(ran.out.is_empty() && ran.err.contains("saved "), "{}{}", ran.out, ran.err);
    let bytes = fs::read(place.path(name)).unwrap();
    let text = String::from_utf8_lossy(&bytes[..begins.len().min(bytes.len())]);
    assert_eq!(text, begins);
    assert_eq!(mode(&place.path(name)), 0o600);
}

#[test]
fn tables_go_into_a_new_folder_and_into_no_other() {
    let place = reports();
    let line = ["survey", "--from", "gannet.json", "--format", "csv", "--out", "tables", "--quiet"];
    assert_eq!(place.run(&line).status, 0);
    assert_eq!((mode(&place.path("tables")), mode(&place.path("tables/cpu.csv"))), (0o700, 0o600));
    let text = fs::read_to_string(place.path("tables/memory_modules.csv")).unwrap();
    assert!(text.contains("LW-77A1001") && text.ends_with("\r\n"));
    let again = place.run(&line);
    assert_eq!(again.status, 2);
    assert!(again.err.contains("is there already"), "{}", again.err);
    // Nothing is left behind of what was not written.
    let left = fs::read_dir(place.root()).unwrap().map(|it| it.unwrap().file_name());
    let left: Vec<_> = left.filter(|it| it.to_string_lossy().starts_with(".tectum")).collect();
    assert!(left.is_empty(), "{left:?}");
}

/// Names of machines that are told in a form.
fn hosts(text: &str) -> Vec<&str> {
    let mut hosts: Vec<&str> =
        text.split("\"host\":\"").skip(1).filter_map(|rest| rest.split('"').next()).collect();
    hosts.dedup();
    hosts
}

#[test]
fn several_machines_go_into_one_output() {
    let place = reports();
    let two = ["survey", "cpu", "--from", "gannet.json", "--from", "gannet-after.json", "--format"];
    let run = |form: &str| place.run(&[&two[..], &[form]].concat());
    assert_eq!(hosts(&run("json-lines").out), ["gannet", "gannet (gannet-after.json)"]);
    let metrics = run("openmetrics").out;
    assert_eq!(metrics.matches("\ntectum_cpu_cores{").count(), 2);
    assert_eq!(metrics.matches("# TYPE tectum_cpu_cores ").count(), 1);
    assert_eq!(run("markdown").out.matches("# gannet\n").count(), 2);
    assert_eq!(run("html").out.matches("<h1").count(), 2);
    assert_eq!(
        run("text").out.matches("▔ gannet").count() + run("text").out.matches("\n gannet").count(),
        2
    );
    for form in ["json", "cyclonedx"] {
        let ran = run(form);
        assert_eq!(ran.status, 2, "{form}");
        assert!(ran.err.contains("holds one machine"), "{}", ran.err);
    }
}

/// The others are told of, and the status says that not all were.
#[rstest]
#[case::lines(&["survey", "cpu", "--format", "json-lines"])]
#[case::sheets(&["survey", "cpu"])]
#[case::values(&["get", "machine.hostname"])]
#[case::a_value_that_is_missing(&["get", "gpu.devices.*.serial"])]
#[case::a_word(&["find", "gannet"])]
#[case::findings(&["check"])]
#[case::no_findings(&["check", "--fail-on", "never"])]
fn one_of_many_that_cannot_be_read_hides_none_of_the_others(#[case] words: &[&str]) {
    let place = reports();
    fs::write(place.path("bad.json"), "{").unwrap();
    place.run(&["survey", "--from", "demo:petrel", "--out", "petrel.json", "--quiet"]);
    let asked = |subjects: &[&str]| {
        let subjects = subjects.iter().flat_map(|subject| ["--from", subject]);
        place.run(&words.iter().copied().chain(subjects).collect::<Vec<_>>())
    };
    let ran = asked(&["bad.json", "gannet.json", "petrel.json"]);
    assert_eq!(ran.status, 3, "{}", ran.err);
    assert!(ran.err.contains("bad.json"), "{}", ran.err);
    let without = asked(&["gannet.json", "petrel.json"]);
    assert!(without.status < 2, "{}", without.err);
    assert_eq!(ran.out, without.out);
}

#[rstest]
#[case(&["--format", "csv"], "--table prints one of them")]
#[case(&["--format", "sqlite"], "name where it goes by --out")]
#[case(&["--table", "storage_disks"], "--table chooses among the tables of the form csv")]
#[case(&["--format", "csv", "--table", "storage_disk"], "the nearest is \"storage_disks\"")]
#[case(&["--format", "cvs"], "invalid value 'cvs' for '--format")]
fn what_cannot_be_is_told(#[case] more: &[&str], #[case] says: &str) {
    let place = Place::new();
    let line = ["survey", "cpu", "--from", "demo:gannet-before"];
    let ran = place.run(&[&line[..], more].concat());
    assert_eq!(ran.status, 2, "{}", ran.err);
    assert!(ran.err.contains(says) && ran.out.is_empty(), "{}", ran.err);
}

#[test]
fn what_cannot_be_written_is_told_with_its_path() {
    let place = reports();
    let ran = place.run(&["survey", "--from", "gannet.json", "--out", "no/such/folder/it.sqlite"]);
    assert_eq!(ran.status, 3);
    assert!(ran.err.contains("cannot write no/such/folder/it.sqlite"), "{}", ran.err);
}

#[test]
fn a_patch_turns_the_one_inventory_into_the_other() {
    let place = reports();
    let line = ["compare", "gannet.json", "gannet-after.json", "--format", "json-patch"];
    let ran = place.run(&line);
    assert_eq!(ran.status, 1);
    let read = |name: &str| -> Value {
        let report: Value = serde_json::from_slice(&fs::read(place.path(name)).unwrap()).unwrap();
        report["inventory"].clone()
    };
    let mut inventory = read("gannet.json");
    let patch: json_patch::Patch = serde_json::from_str(&ran.out).unwrap();
    json_patch::patch(&mut inventory, &patch).unwrap();
    assert_eq!(inventory, read("gannet-after.json"));
    for (more, says) in [("--readings", "whole inventory"), ("gannet.json", "one inventory")] {
        let ran = place.run(&[&line[..], &[more]].concat());
        assert_eq!(ran.status, 2);
        assert!(ran.err.contains(says), "{}", ran.err);
    }
}

#[test]
fn plain_lines_have_no_sign_that_must_be_seen() {
    let place = reports();
    for line in [
        &["survey", "--from", "gannet.json", "--detail", "full"][..],
        &["check", "gannet.json"],
        &["compare", "gannet.json", "gannet-after.json"],
    ] {
        let ran = place.run(&[line, &["--plain", "--quiet"]].concat());
        let drawn: Vec<char> =
            ran.out.chars().filter(|it| ('\u{2190}'..'\u{2c00}').contains(it)).collect();
        assert!(ran.status < 2 && drawn.is_empty(), "{line:?}: {drawn:?}");
        assert!(ran.out.lines().count() > 10);
    }
}

/// The five questions of the documentation are answered by what it is about.
#[test]
fn the_documented_questions_have_answers() {
    let place = reports();
    let line = ["survey", "--from", "gannet.json", "--from", "gannet-after.json", "--out", "it.db"];
    assert_eq!(place.run(&line).status, 0);
    let database = rusqlite::Connection::open(place.path("it.db")).unwrap();
    let text = fs::read_to_string(documentation().join("formats/sqlite.md")).unwrap();
    let questions: Vec<&str> =
        text.split("```sql\n").skip(1).map(|rest| rest.split("```").next().unwrap()).collect();
    assert_eq!(questions.len(), 5);
    for question in questions {
        let mut asked =
            database.prepare(question).unwrap_or_else(|error| panic!("{question}: {error}"));
        let mut rows = asked.query([]).unwrap();
        assert!(rows.next().unwrap().is_some(), "{question}");
    }
}

fn documentation() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs")
}

/// What a sample's line says: a command, and which lines of what it prints are shown.
fn sample(line: &str, place: &Place) -> String {
    let mut parts = line.split(" | ");
    let words: Vec<&str> = parts.next().unwrap().split(' ').collect();
    let Ran { out, err, status } = place.run(&[&words[..], &["--quiet"]].concat());
    assert!(status < 2, "{line}: {err}");
    let mut lines: Vec<&str> = out.lines().collect();
    for part in parts {
        if let Some(text) = part.strip_prefix("with ") {
            lines.retain(|line| line.contains(text));
        } else {
            let (first, last) = part.strip_prefix("lines ").unwrap().split_once('-').unwrap();
            let (first, last): (usize, usize) = (first.parse().unwrap(), last.parse().unwrap());
            lines = lines[first - 1..last.min(lines.len())].to_vec();
        }
    }
    lines.join("\n").replace('\r', "")
}

/// The samples in the documentation are what the program prints (`TECTUM_REFERENCE=write` writes them).
#[test]
fn the_samples_of_the_documentation_are_true() {
    let place = reports();
    let mut samples = 0;
    for entry in fs::read_dir(documentation().join("formats")).unwrap() {
        let path = entry.unwrap().path();
        let before = fs::read_to_string(&path).unwrap();
        let mut after = String::new();
        let mut rest = before.as_str();
        while let Some(at) = rest.find("<!-- sample: ") {
            let (kept, from) = rest.split_at(at);
            let (line, behind) = from.split_once(" -->\n").unwrap();
            let (fence, body) = behind.split_once('\n').unwrap();
            let ticks = fence.trim_end_matches(char::is_alphabetic);
            let end = if body.starts_with(ticks) {
                0
            } else {
                body.find(&format!("\n{ticks}\n")).unwrap() + 1
            };
            let made = sample(line.strip_prefix("<!-- sample: ").unwrap(), &place);
            after.push_str(&format!("{kept}{line} -->\n{fence}\n{made}\n"));
            rest = &body[end..];
            samples += 1;
        }
        after.push_str(rest);
        if std::env::var_os("TECTUM_REFERENCE").is_some_and(|it| it == "write") {
            fs::write(&path, &after).unwrap();
        } else {
            assert_eq!(before, after, "{}", path.display());
        }
    }
    assert!(samples >= 8);
}
