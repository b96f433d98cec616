//! `tectum why`, `capture`, `redact` and what a survey says of itself, run as users run them.

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

use std::{io::Write, os::unix::fs::PermissionsExt};

use rstest::rstest;
use serde_json::Value;
use support::Place;

const GANNET: &str = "demo:gannet-before";

#[test]
fn why_shows_the_source_the_raw_text_and_the_rule() {
    let ran =
        Place::new().run(&["why", "memory.modules.B1.serial", "cpu.model_name", "--from", GANNET]);
    assert_eq!((ran.status, ran.err.as_str()), (0, ""));
    for said in [
        "/inventory/memory/modules/1/serial",
        "LW-77A1002",
        "/sys/firmware/dmi/tables/DMI, handle 0x1102, offset 0x18, 1 byte",
        "04 → string 4: LW-77A1002",
        "/proc/cpuinfo, line 6",
        "model name : Tarn T9-4420 Processor",
    ] {
        assert!(ran.out.contains(said), "{said:?} in {}", ran.out);
    }
}

#[test]
fn why_of_a_section_tells_each_source_once() {
    let ran = Place::new().run(&["why", "memory", "--from", GANNET]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let table = " /sys/firmware/dmi/tables/DMI (read: ";
    assert_eq!(ran.out.matches(table).count(), 1, "{}", ran.out);
    assert!(ran.out.contains("memory.modules.0.serial LW-77A1001"), "{}", ran.out);
    let summary = ran.out.lines().nth(1).unwrap();
    let said = summary.contains("values from") && summary.contains("values are missing for");
    assert!(said, "{summary}");
    let json = Place::new().run(&["why", "memory", "--from", GANNET, "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(&json.out).unwrap();
    let values = json.as_object().unwrap();
    let missing = values.values().filter(|one| one["value"].is_null()).count();
    assert!(summary.contains(&format!("{} values from", values.len() - missing)), "{summary}");
}

#[test]
fn why_says_what_was_tried_for_a_missing_value() {
    let ran = Place::new().run(&["why", "os.build_id", "--from", GANNET]);
    assert_eq!(ran.status, 0);
    assert!(ran.out.contains("/etc/os-release: does not say BUILD_ID"), "{}", ran.out);
    let json = Place::new().run(&["why", "os.build_id", "--from", GANNET, "--format", "json"]);
    let json: Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(json["/inventory/os/build_id"]["why"], "not-provided");
}

#[rstest]
#[case("storage.disks.*.serial", 3)]
#[case("storage.disks.sd?.serial", 2)]
#[case("/inventory/storage/disks/0/serial", 1)]
#[case("disks.0", 0)]
#[case("storage.disks.sda.partitions.**", 17)]
#[case("memory.installed_bytes", 1)]
#[case("**.installed_bytes", 1)]
#[case("readings.memory.*_bytes", 13)]
#[case("memory.slots.A2.state", 1)]
#[case("pci.functions.0000:82:00.0.driver_state", 1)]
#[case("pci.functions.0000:8?:00.*.driver_state", 2)]
#[case("network.addresses.192.0.2.21.interface", 1)]
fn paths_name_values(#[case] path: &str, #[case] count: usize) {
    let ran = Place::new().run(&["why", path, "--from", GANNET, "--format", "json"]);
    if count == 0 {
        assert_eq!(ran.status, 2);
        return;
    }
    let found: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(found.as_object().unwrap().len(), count, "{}", ran.out);
}

#[test]
fn a_mistyped_path_is_told_with_what_there_is() {
    let ran = Place::new().run(&["why", "memory.modulse", "--from", GANNET]);
    assert_eq!(ran.status, 2);
    assert!(ran.err.contains("memory.modules"), "{}", ran.err);
}

#[test]
fn why_works_on_saved_reports_and_captures() {
    let place = Place::new();
    place.run(&["survey", "--from", GANNET, "--out", "r.json", "--quiet"]);
    place.run(&["capture", "--from", GANNET, "--out", "c.tar.zst", "--quiet"]);
    let live = place.run(&["why", "platform.system.uuid", "--from", GANNET]);
    let body = |text: &str| {
        text.lines().filter(|line| !line.contains("µs")).map(str::to_owned).collect::<Vec<_>>()
    };
    for subject in ["r.json", "c.tar.zst"] {
        let ran = place.run(&["why", "platform.system.uuid", "--from", subject]);
        assert_eq!(body(&ran.out), body(&live.out), "{subject}");
    }
}

#[test]
fn a_capture_is_kept_with_a_checksum_that_verifies() {
    let place = Place::new();
    let ran = place.run(&["capture", "--from", GANNET, "--out", "c.tar.zst"]);
    assert_eq!((ran.status, ran.out.as_str()), (0, ""), "{}", ran.err);
    let checked = std::process::Command::new("sha256sum")
        .args(["-c", "c.tar.zst.sha256"])
        .current_dir(place.root())
        .output()
        .unwrap();
    assert!(checked.status.success());
    let mode = std::fs::metadata(place.path("c.tar.zst")).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
    let same = place.run(&["compare", "c.tar.zst", GANNET]);
    assert_eq!(same.status, 0, "{}", same.out);
    let streamed = place.command(&["capture", "--from", GANNET, "--out", "-"]).output().unwrap();
    std::fs::write(place.path("s.tar.zst"), streamed.stdout).unwrap();
    assert_eq!(place.run(&["compare", "s.tar.zst", "c.tar.zst"]).status, 0);
}

#[test]
fn other_files_are_kept_when_asked_for_and_cut_is_said() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file("var/log/kern.log", vec![b'k'; 5000]);
        tree.file("var/log/other.log", "other");
        tree.file("var/log/deep/kern.log", "deep");
    });
    let ran = place.run(&[
        "capture",
        "--from",
        "machine",
        "--out",
        "c.tar.zst",
        "--also",
        "/var/log/*.log",
        "--also",
        "/none",
        "--also-limit",
        "1000",
    ]);
    assert_eq!(ran.status, 0);
    assert!(ran.err.contains("/var/log/kern.log: cut at the size limit"), "{}", ran.err);
    assert!(ran.err.contains("/none: not found"), "{}", ran.err);
    let file = std::fs::File::open(place.path("c.tar.zst")).unwrap();
    let mut archive = tar::Archive::new(zstd::Decoder::new(file).unwrap());
    let names: Vec<String> = archive
        .entries()
        .unwrap()
        .map(|entry| entry.unwrap().path().unwrap().display().to_string())
        .filter(|name| name.contains("var/log"))
        .collect();
    assert!(names.contains(&"root/var/log/kern.log".to_owned()), "{names:?}");
    assert!(names.contains(&"root/var/log/other.log".to_owned()), "{names:?}");
    assert!(!names.iter().any(|name| name.contains("deep")), "{names:?}");
}

#[test]
fn strict_fails_on_gaps_and_gaps_lists_them() {
    let place = Place::with_machine("gannet-before");
    let ran = place.run(&["survey", "--from", "machine", "--strict", "--gaps"]);
    assert_eq!(ran.status, 3);
    assert!(ran.out.contains("/inventory/os/build_id"), "{}", ran.out);
    let ran = place.run(&["survey", "memory", "--from", "machine"]);
    assert_eq!(ran.status, 0);
}

#[test]
fn timing_goes_to_standard_error() {
    let place = Place::with_machine("gannet-before");
    let ran = place.run(&["survey", "--from", "machine", "--timing"]);
    assert!(ran.err.contains("cpu took") && ran.err.contains("slowest"), "{}", ran.err);
    assert!(!ran.out.contains("slowest"));
    let wrong = place.run(&["survey", "--deadline", "soon"]);
    assert_eq!(wrong.status, 2);
}

#[test]
fn an_ordinary_user_is_told_once_what_root_would_add() {
    if !rustix::process::geteuid().is_root() {
        // Only root can make files that it may read and others may not, and stop being root. Said
        // past the test runner, which would keep it to itself.
        writeln!(std::io::stderr(), "NOT SHOWN: what an ordinary user is told needs root").unwrap();
        return;
    }
    let place = Place::with_machine("gannet-before");
    for name in ["sys/firmware/dmi/tables/DMI", "sys/devices/virtual/dmi/id/product_serial"] {
        let path = place.path("machine").join(name);
        std::fs::set_permissions(path, PermissionsExt::from_mode(0o400)).unwrap();
    }
    std::fs::set_permissions(place.root(), PermissionsExt::from_mode(0o755)).unwrap();
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let copy = place.path("tectum");
    std::fs::copy(program, &copy).unwrap();
    let output = std::process::Command::new("setpriv")
        .args(["--reuid=65534", "--regid=65534", "--clear-groups"])
        .arg(&copy)
        .args(["survey", "--from", "machine"])
        .current_dir(place.root())
        .output()
        .unwrap();
    let (out, err) =
        (String::from_utf8(output.stdout).unwrap(), String::from_utf8(output.stderr).unwrap());
    assert_eq!(output.status.code(), Some(0), "{err}");
    assert!(out.contains("Fathom 2240 by Marram Systems"), "what is public is there: {out}");
    assert!(out.contains("only root may see it"), "{out}");
    assert_eq!(err.matches("values need root").count(), 1, "{err}");
    assert!(err.contains("/sys/firmware/dmi/tables/DMI"), "{err}");
}

#[test]
fn the_paths_that_may_be_read_are_printed() {
    let ran = Place::new().run(&["sections", "--paths"]);
    assert!(ran.out.lines().any(|line| line == "/proc/cpuinfo"));
    assert!(!ran.out.contains("shadow") && !ran.out.contains("environ"));
}

#[rstest]
#[case(&["why"], 2)]
#[case(&["why", "a..b", "--from", GANNET], 2)]
#[case(&["capture"], 2)]
#[case(&["capture", "--out", "x", "--also", "relative"], 2)]
fn wrong_words_have_their_status(#[case] words: &[&str], #[case] status: i32) {
    let ran = Place::new().run(words);
    assert_eq!(ran.status, status, "{}", ran.err);
}
