//! The report's JSON: read back whole, valid by its schema, refused with a reason where it is not
//! what it should be.

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

use rstest::rstest;
use serde_json::{Value, json};
use sha2::{Digest, Sha256};
use support::{RECORDED, demo, look, of_sections, recorded};
use tectum_report::{
    declare::AnyFact,
    json::{
        origins::Depth,
        read::ReadError,
        schema,
        write::{Form, Values},
    },
    report::{Note, Report},
};

#[test]
fn a_saved_report_is_read_back_whole() {
    for name in RECORDED {
        let report = look(recorded(name).path());
        let text = serde_json::to_vec(&report).unwrap();
        let again = Report::from_json(&text).unwrap();
        assert_eq!(again, report, "{name}");
        assert_eq!(serde_json::to_vec(&again).unwrap(), text, "{name}");
    }
}

#[test]
fn reports_are_valid_by_the_schema() {
    let schema = schema::report();
    assert!(jsonschema::meta::is_valid(&schema));
    let validator = jsonschema::validator_for(&schema).unwrap();
    for name in RECORDED {
        let report = support::json(&look(recorded(name).path()));
        let errors: Vec<String> = validator
            .iter_errors(&report)
            .map(|error| format!("{error} at {}", error.instance_path()))
            .collect();
        assert!(errors.is_empty(), "{name}: {errors:?}");
    }
    let mut wrong = support::json(&look(demo("gannet-before").path()));
    wrong["inventory"]["cpu"]["threads"] = json!("sixteen");
    assert!(!validator.is_valid(&wrong));
}

/// The parts of some JSON that hold no records, in their order.
fn parts_alone<'a>(value: &'a Value, in_list: bool, all: &mut Vec<&'a Value>) {
    match value {
        Value::Object(members) => {
            let holds = |member: &Value| match member {
                Value::Object(_) => true,
                Value::Array(items) => items.iter().any(Value::is_object),
                _ => false,
            };
            if in_list && !members.values().any(holds) {
                all.push(value);
            }
            members.values().for_each(|member| parts_alone(member, false, all));
        }
        Value::Array(items) => items.iter().for_each(|item| parts_alone(item, true, all)),
        _ => {}
    }
}

/// Whoever looks for a serial number in a saved report with a text search sees the whole part.
#[test]
fn a_part_that_holds_no_others_stands_in_a_line() {
    for name in RECORDED {
        let report = look(recorded(name).path());
        for form in [Form::Compact, Form::Expanded] {
            let mut text = Vec::new();
            report.write(&mut text, form).unwrap();
            let text = String::from_utf8(text).unwrap();
            let json: Value = serde_json::from_str(&text).unwrap();
            let mut expected = Vec::new();
            for root in ["machine", "inventory", "readings"] {
                parts_alone(&json[root], false, &mut expected);
            }
            let values = text.lines().take_while(|line| !line.starts_with(" \"findings\""));
            let lines = values.map(|line| line.trim_start().trim_end_matches(','));
            let in_lines: Vec<Value> = lines
                .filter(|line| line.starts_with('{') && line.ends_with('}') && line.len() > 2)
                .map(|line| serde_json::from_str(line).unwrap())
                .collect();
            assert!(in_lines.len() > 20, "{name}: {}", in_lines.len());
            assert!(in_lines.iter().eq(expected.into_iter()), "{name}");
        }
    }
}

fn report_json() -> Value {
    support::json(&look(demo("gannet-before").path()))
}

fn read(value: &Value) -> Result<Report, ReadError> {
    Report::from_json(&serde_json::to_vec(value).unwrap())
}

#[rstest]
#[case::not_json(b"{\"format\": ", "line 1, column 11: not JSON")]
#[case::another_json(b"[1, 2]", "not a Tectum report")]
#[case::another_format(b"{\"format\": \"other\"}", "not a Tectum report")]
#[case::no_version(b"{\"format\": \"tectum-report\"}", "at /format_version: the report lacks")]
#[case::newer_major(
    b"{\"format\": \"tectum-report\", \"format_version\": \"2.0\"}",
    "format_version is 2.0, and this Tectum reads 1.x"
)]
#[case::deep(&[b'['; 5000], "not JSON")]
fn what_is_no_report_is_refused_with_the_reason(#[case] text: &[u8], #[case] said: &str) {
    let error = Report::from_json(text).unwrap_err().to_string();
    assert!(error.contains(said), "{error}");
}

#[test]
fn a_part_that_is_missing_or_of_another_form_is_named() {
    let mut report = report_json();
    report["inventory"]["cpu"]["threads"] = json!("sixteen");
    let error = read(&report).unwrap_err().to_string();
    assert_eq!(
        error,
        "at /inventory/cpu/threads: expected an integer from 0 up, found the string \"sixteen\""
    );
    let mut report = report_json();
    report.as_object_mut().unwrap().remove("inventory");
    assert_eq!(read(&report).unwrap_err().to_string(), "at /inventory: the report lacks this part");
    let mut report = report_json();
    report["storage"] = json!(7);
    report["inventory"]["storage"]["disks"] = json!(7);
    assert!(read(&report).unwrap_err().to_string().contains("at /inventory/storage/disks"));
}

#[test]
fn a_newer_minor_version_is_read_but_for_its_news() {
    let mut report = report_json();
    report["format_version"] = json!("1.9");
    report["inventory"]["cpu"]["flavour"] = json!("salt");
    let read = read(&report).unwrap();
    assert_eq!(read.notes.len(), 1);
    let passed_over = vec!["/inventory/cpu/flavour".to_owned()];
    assert_eq!(read.notes[0], Note::NewerFormat { version: "1.9".to_owned(), passed_over });
}

#[test]
fn the_digest_is_that_of_canonical_json() {
    for name in RECORDED {
        let mut report = look(recorded(name).path());
        // Beyond what a double holds, and where its text changes its form.
        if let Some(disk) = report.inventory.storage.as_mut().and_then(|it| it.disks.first_mut()) {
            disk.size_bytes.set(&json!(u64::MAX), Vec::new()).unwrap();
        }
        let plain = Values(&report.inventory);
        let canonical = serde_json_canonicalizer::to_vec(&plain).unwrap();
        let expected = format!("sha256:{}", hex::encode(Sha256::digest(canonical)));
        assert_eq!(report.inventory_digest(), expected, "{name}");
        for form in [Form::Compact, Form::Expanded] {
            let mut written = written(&report, form);
            assert_eq!(written["inventory_digest"], expected.as_str(), "{name}");
            remove_nulls(&mut written["inventory"]);
            let canonical = serde_json_canonicalizer::to_vec(&written["inventory"]).unwrap();
            assert_eq!(format!("sha256:{}", hex::encode(Sha256::digest(canonical))), expected);
        }
    }
}

fn written(report: &Report, form: Form) -> Value {
    let mut text = Vec::new();
    report.write(&mut text, form).unwrap();
    serde_json::from_slice(&text).unwrap()
}

fn remove_nulls(value: &mut Value) {
    match value {
        Value::Object(members) => {
            members.retain(|_, value| !value.is_null());
            members.values_mut().for_each(remove_nulls);
        }
        Value::Array(items) => items.iter_mut().for_each(remove_nulls),
        _ => {}
    }
}

/// The compact form leaves out what the machine does not have, and tells as `null` what was not seen or is no value;
/// the expanded one tells all that is missing so.
#[test]
fn what_is_missing_is_null_where_it_may_be_there() {
    let mut counts = [0; 2];
    for name in RECORDED {
        let report = look(recorded(name).path());
        let [compact, expanded] =
            [Form::Compact, Form::Expanded].map(|form| written(&report, form));
        for (at, gap) in report.gaps() {
            // What may be more than is there stands as what is there.
            if expanded.pointer(&at).is_some_and(|value| !value.is_null()) {
                assert_eq!(compact.pointer(&at), expanded.pointer(&at), "{name} {at}");
                continue;
            }
            assert_eq!(expanded.pointer(&at), Some(&Value::Null), "{name} {at}");
            let none = gap.why.says_there_is_none();
            let left = if none { None } else { Some(&Value::Null) };
            assert_eq!(compact.pointer(&at), left, "{name} {at}");
            counts[usize::from(none)] += 1;
        }
        let read = Report::from_json(&serde_json::to_vec(&compact).unwrap()).unwrap();
        assert_eq!(read.gaps(), report.gaps(), "{name}");
    }
    assert!(counts.iter().all(|count| *count > 20), "{counts:?}");
}

#[test]
fn a_field_that_an_older_report_lacks_is_a_gap() {
    let mut report = report_json();
    report["inventory"]["cpu"].as_object_mut().unwrap().remove("threads");
    let read = read(&report).unwrap();
    let gaps = read.gaps();
    let (_, gap) = gaps.iter().find(|(at, _)| at == "/inventory/cpu/threads").unwrap();
    assert!(gap.hint.as_ref().unwrap().to_string().contains("older"));
}

#[test]
fn the_digest_is_of_the_inventory_alone() {
    let mut report = look(demo("gannet-before").path());
    let digest = report.inventory_digest();
    assert!(digest.starts_with("sha256:") && digest.len() == 71);
    report.readings = Default::default();
    report.taken.elapsed_ms += 1;
    assert_eq!(report.inventory_digest(), digest);
    let other = look(demo("gannet-after").path());
    assert_ne!(other.inventory_digest(), digest);
}

/// Canonical JSON writes numbers as IEEE doubles would read them, which must not break the digest
/// for counts past 2^53.
#[test]
fn an_absurdly_large_number_still_has_a_digest() {
    let folder = support::demo_with("gannet-before", |tree| {
        let size = "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1/size";
        tree.line(size, u64::MAX / 512);
    });
    let large = look(folder.path()).inventory_digest();
    assert_ne!(large, look(demo("gannet-before").path()).inventory_digest());
    let empty = "sha256:e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
    assert_ne!(large, empty);
}

#[test]
fn some_sections_are_read_as_all_are() {
    for text in [saved::text("gannet-before"), saved::recorded("big-iron")] {
        let whole = Report::values_from_json(&text).unwrap();
        for sections in [&["cpu"][..], &["memory", "storage"], &[]] {
            let mut expected = whole.clone();
            expected.keep_sections(sections);
            assert_eq!(
                of_sections(&text, sections, Depth::Gaps).unwrap(),
                expected,
                "{sections:?}"
            );
        }
        // What is no report is told alike, whatever is wanted of it.
        for cut in [text.len() / 3, text.len() / 2, text.len() - 2] {
            let cut = &text[..cut];
            let error = Report::values_from_json(cut).unwrap_err();
            assert_eq!(of_sections(cut, &["cpu"], Depth::Gaps).unwrap_err(), error);
        }
    }
    let newer = saved::text("gannet-before");
    let newer = String::from_utf8(newer).unwrap().replacen("\"1.0\"", "\"1.7\"", 1);
    let read = of_sections(newer.as_bytes(), &["cpu"], Depth::Gaps).unwrap();
    assert!(!read.notes.is_empty(), "news are told");
}

/// Saved reports.
mod saved {
    use super::{demo, look};

    pub(super) fn text(name: &str) -> Vec<u8> {
        serde_json::to_vec(&look(demo(name).path())).unwrap()
    }

    pub(super) fn recorded(name: &str) -> Vec<u8> {
        serde_json::to_vec(&look(super::recorded(name).path())).unwrap()
    }
}
