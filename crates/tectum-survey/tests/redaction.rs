//! Redaction: a redacted capture is written anew by what each file holds, gives the redacted report
//! byte for byte, and holds nothing of what was replaced.

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

use std::{collections::BTreeSet, path::Path};

use rstest::rstest;
use support::{RECORDED, demo, differences, json, recorded, recorded_to_change, redacted, rewrite};
use tectum_report::{
    leaf::{Identifies, Redact, Whose},
    redact::Pseudonyms,
    report::{Operation, Report},
    walk::Met,
};
use tectum_survey::{
    redact::form_of,
    sections::{ON_REQUEST, SECTIONS, reads},
};

fn pseudonyms() -> Pseudonyms {
    Pseudonyms::new(b"a key", &BTreeSet::new())
}

/// Every text of a report that its owner chose and that a redacted copy replaces.
fn identifying(report: &Report, by: &Pseudonyms) -> Vec<(Identifies, String)> {
    let mut found = Vec::new();
    report.walk(&mut |_, _, met| {
        let Met::Leaf(fact) = met else { return };
        let Whose::Owners(kind) = fact.leaf_shape().whose else { return };
        let texts = match fact.json() {
            Some(serde_json::Value::String(text)) => vec![text],
            Some(serde_json::Value::Array(items)) => {
                items.iter().map(|item| item.as_str().unwrap().to_owned()).collect()
            }
            _ => Vec::new(),
        };
        found.extend(
            texts.into_iter().filter(|text| by.text(kind, text) != *text).map(|text| (kind, text)),
        );
    });
    found
}

/// Whether a text stands somewhere by itself. What is short, or letters alone, is also an ordinary
/// word.
fn stands(text: &[u8], value: &str) -> bool {
    if value.len() < 6 || value.bytes().all(|byte| byte.is_ascii_lowercase()) {
        return false;
    }
    let word = |at: Option<&u8>| at.is_some_and(u8::is_ascii_alphanumeric);
    // One place may lie over the other: each is looked for from behind the last one's beginning.
    let mut from = 0;
    while let Some(found) = memchr::memmem::find(&text[from..], value.as_bytes()) {
        let at = from + found;
        if !word(at.checked_sub(1).and_then(|at| text.get(at))) && !word(text.get(at + value.len()))
        {
            return true;
        }
        from = at + 1;
    }
    false
}

/// Byte for byte: values, gaps, evidence, sources and notes.
#[track_caller]
fn same(copy: &Report, expected: &Report) {
    let mut found = differences(&json(copy), &json(expected));
    found.iter_mut().for_each(|line| *line = line.chars().take(400).collect());
    assert!(found.is_empty(), "{} differences: {:#?}", found.len(), &found[..found.len().min(12)]);
}

/// The standing test: every machine there is.
#[rstest]
fn a_redacted_capture_gives_the_redacted_report(
    #[values(
        "rack-2s",
        "cloud-small",
        "arm-server",
        "arm-board",
        "big-iron",
        "ppc",
        "s390",
        "layers",
        "mips",
        "microvm",
        "remote",
        "gannet-before",
        "gannet-after"
    )]
    name: &str,
) {
    let folder = if RECORDED.contains(&name) { recorded(name) } else { demo(name).into() };
    let (original, copy, bytes) = redacted(folder.path(), &pseudonyms());
    let expected = pseudonyms().report(&original).unwrap();
    same(&copy, &expected);
    let unpacked = zstd::decode_all(&bytes[..]).unwrap();
    let makers = makers_words(&original);
    for (kind, value) in identifying(&original, &pseudonyms()) {
        let also_a_makers = makers.iter().any(|word| word.contains(&value));
        assert!(also_a_makers || !stands(&unpacked, &value), "{} {value} stands", kind.word());
    }
}

/// A mirror's halves stay what they are, though only their names tell it.
#[test]
fn a_part_of_a_volume_stays_one_in_the_copy() {
    let folder = support::demo_with("gannet-before", |tree| {
        for (number, name) in [(30, "tide-home_rimage_0"), (31, "tide-home")] {
            let dm = format!("sys/devices/virtual/block/dm-{number}");
            tree.link(format!("sys/block/dm-{number}"), &format!("/{dm}"));
            tree.line(format!("{dm}/size"), 2048);
            tree.line(format!("{dm}/dm/uuid"), format!("LVM-abcdef{number}"));
            tree.line(format!("{dm}/dm/name"), name);
        }
    });
    let (original, copy, bytes) = redacted(folder.path(), &pseudonyms());
    same(&copy, &pseudonyms().report(&original).unwrap());
    let volumes = &json(&copy)["inventory"]["storage"]["volumes"];
    let kind = |name: &str| {
        let all = volumes.as_array().unwrap().iter();
        let found = all.clone().find(|one| one["name"] == name);
        found.unwrap_or_else(|| panic!("{name} of {volumes}"))["kind"].clone()
    };
    assert_eq!(
        (kind("dm-30"), kind("dm-31")),
        ("volume-component".into(), "logical-volume".into())
    );
    assert!(!stands(&zstd::decode_all(&bytes[..]).unwrap(), "tide-home"));
}

/// Ids that every machine of a kind has are nobody's, before and behind redaction.
#[rstest]
#[case::zeros("00000000-0000-0000-0000-000000000000", "QEMU            ", true)]
#[case::own("5390aa00-0000-4000-8000-0000000000aa", "00000000000A1B2C", false)]
fn what_identifies_nobody_stays_in_the_copy(
    #[case] uuid: &str,
    #[case] code: &str,
    #[case] stays: bool,
) {
    let folder = support::recorded_to_change("s390");
    let path = folder.path().join("proc/sysinfo");
    let text = std::fs::read_to_string(&path).unwrap();
    let text = text.replace("5390aa00-0000-4000-8000-00000000cafe", uuid);
    let old = "Sequence Code:        QEMU            ";
    assert!(text.contains(uuid) && text.contains(old));
    support::rewrite(&path, text.replace(old, &format!("Sequence Code:        {code}")));
    let (original, copy, bytes) = redacted(folder.path(), &pseudonyms());
    same(&copy, &pseudonyms().report(&original).unwrap());
    let bytes = zstd::decode_all(&bytes[..]).unwrap();
    assert_eq!(stands(&bytes, uuid), stays);
    assert!(stays || !stands(&bytes, code));
    let machine = &json(&copy)["machine"];
    assert_eq!(machine["system_uuid"].is_null(), stays, "{machine}");
    assert_eq!(machine["serial"].is_null(), stays, "{machine}");
}

/// No machine is asked for a file of which nobody could say what is in it, and no section declares one.
#[test]
fn every_file_that_is_read_has_a_form() {
    let mut forms = BTreeSet::new();
    for name in RECORDED {
        let report = support::look(recorded(name).path());
        for source in report.sources.iter().filter(|it| it.operation == Operation::Read) {
            let form = form_of(Path::new(&source.path));
            let form = form.unwrap_or_else(|| panic!("{name}: {} has no form", source.path));
            forms.insert(form.name);
        }
    }
    assert!(forms.len() > 25, "{forms:?}");
    // A pattern's stars stand for some name; one that names a folder is only listed.
    let folders = ["/boot", "/lib/modules", "/usr/lib/modules", "/run/systemd/system"];
    let all: Vec<_> = SECTIONS.iter().chain(ON_REQUEST).collect();
    for pattern in reads(&all) {
        let path = pattern.replace("[0-9]*", "12").replace("**", "x/x").replace('*', "x");
        let ends = ["", ".list", ".repo"].map(|end| format!("{path}{end}"));
        let listed = folders.contains(&pattern)
            || pattern == "/proc"
            || pattern.ends_with(".d")
            || pattern.starts_with("/var/lib/")
            || pattern.starts_with("/usr/lib/sysimage")
            || pattern == "/etc/localtime";
        let known = ends.iter().any(|path| form_of(Path::new(path)).is_some());
        assert!(listed || known, "{pattern}");
    }
}

/// What makers say: an owner's text may happen to be the same.
fn makers_words(report: &Report) -> Vec<String> {
    let mut words = Vec::new();
    report.walk(&mut |_, _, met| {
        if let Met::Leaf(fact) = met
            && fact.leaf_shape().whose == Whose::Makers
        {
            words.extend(fact.text());
        }
    });
    words
}

#[rstest]
fn redacted_reports_hold_no_original_and_still_match(
    #[values("rack-2s", "cloud-small", "arm-server", "arm-board")] name: &str,
) {
    let original = support::look(recorded(name).path());
    let copy = pseudonyms().report(&original).unwrap();
    let text = serde_json::to_vec(&copy).unwrap();
    let originals = identifying(&original, &pseudonyms());
    assert!(originals.len() > 10, "{name} has something to hide");
    for (kind, value) in &originals {
        assert!(!stands(&text, value), "{} {value} still stands", kind.word());
    }
    let again = Report::from_json(&text).unwrap();
    assert_eq!(again, copy);
    // The same key gives the same pseudonyms: a comparison finds nothing new.
    let second = pseudonyms().report(&original).unwrap();
    let changes =
        tectum_report::compare::compare(&again, &second, tectum_report::compare::Scope::Inventory);
    assert_eq!(changes.changes, []);
    // Another key gives others, and as many parts with as many values.
    let other = Pseudonyms::new(b"another", &BTreeSet::new()).report(&original).unwrap();
    assert_ne!(other.inventory, copy.inventory);
    assert_eq!(other.gaps().len(), original.gaps().len());
}

#[test]
fn kinds_can_be_kept() {
    let original = support::look(demo("gannet-before").path());
    let keep = BTreeSet::from([Identifies::Serial]);
    let copy = Pseudonyms::new(b"a key", &keep).report(&original).unwrap();
    let copy = support::json(&copy);
    assert_eq!(copy["machine"]["serial"], "MS-F2240-00731");
    assert_ne!(copy["machine"]["hostname"], "gannet");
    assert_ne!(copy["machine"]["system_uuid"], "5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c33");
}

/// Many drivers call a port's clock by the port's MAC address, without the signs between its octets.
#[rstest]
#[case("525400112233")]
#[case("harbour0")]
fn a_clock_that_is_called_by_its_port_is_called_otherwise_in_the_copy(#[case] name: &str) {
    let machine = recorded_to_change("remote");
    let clock = machine.path().join("sys/class/ptp/ptp0/clock_name");
    rewrite(std::fs::canonicalize(clock).unwrap(), format!("{name}\n"));
    let (original, copy, bytes) = redacted(machine.path(), &pseudonyms());
    same(&copy, &pseudonyms().report(&original).unwrap());
    let told = json(&original);
    let clocks = told["inventory"]["peripherals"]["devices"].as_array().unwrap().iter();
    let named: Vec<_> = clocks.filter(|one| one["given_name"] == name).collect();
    assert_eq!(named.len(), 1, "it is told of the machine itself");
    let unpacked = zstd::decode_all(&bytes[..]).unwrap();
    assert!(!stands(&unpacked, name), "{name} stands");
    assert!(!json(&copy).to_string().contains(name), "{name} stands");
}
