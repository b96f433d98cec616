//! `tectum redact` and how captures are saved, run as users run them.

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

use std::os::unix::fs::{FileTypeExt, PermissionsExt};

use rstest::rstest;
use support::Place;

const GANNET: &str = "demo:gannet-before";

#[test]
fn a_redacted_report_compares_with_another_by_the_same_key() {
    let place = Place::new();
    assert_eq!(place.run(&["redact", "--make-key", "key"]).status, 0);
    for (machine, name) in [(GANNET, "a.json"), ("demo:gannet-after", "b.json")] {
        let ran = place.run(&["redact", machine, "--out", name, "--key", "key"]);
        assert_eq!(ran.status, 0, "{}", ran.err);
        let text = std::fs::read_to_string(place.path(name)).unwrap();
        for original in ["MS-F2240-00731", "LW-77A1001", "5b8f3c02", "gannet-root", "SCTS-0217"] {
            assert!(!text.contains(original), "{original}");
        }
    }
    let ran = place.run(&["compare", "a.json", "b.json"]);
    assert!(ran.out.contains("2 replaced, 1 moved, 1 added, 2 changed"), "{}", ran.out);
    let kept = place.run(&["redact", GANNET, "--out", "-", "--keep", "serial"]);
    assert!(kept.out.contains("MS-F2240-00731"));
    let wrong = place.run(&["redact", GANNET, "--out", "-", "--keep", "serials"]);
    assert_eq!(wrong.status, 2);
    assert!(wrong.err.contains("`tectum redact --help` lists them"), "{}", wrong.err);
}

#[test]
fn a_redacted_capture_is_a_subject_again() {
    let place = Place::new();
    place.run(&["capture", "--from", GANNET, "--out", "c.tar.zst", "--quiet"]);
    let ran = place.run(&["redact", "c.tar.zst", "--out", "r.tar.zst"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let survey = place.run(&["survey", "--from", "r.tar.zst"]);
    assert!(survey.out.contains("Fathom 2240 by Marram Systems"));
    assert!(!survey.out.contains("MS-F2240-00731") && !survey.out.contains("gannet"));
}

#[test]
fn a_key_is_for_its_owner_only_and_is_not_overwritten() {
    let place = Place::new();
    let ran = place.run(&["redact", "--make-key", "key"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let first = std::fs::read(place.path("key")).unwrap();
    let mode = std::fs::metadata(place.path("key")).unwrap().permissions().mode();
    assert_eq!((mode & 0o777, first.len()), (0o600, 65));
    let again = place.run(&["redact", "--make-key", "key"]);
    assert_eq!(again.status, 3);
    assert_eq!(std::fs::read(place.path("key")).unwrap(), first);
}

#[rstest]
#[case::empty("", "needs 32 or more")]
#[case::short("harbour", "needs 32 or more")]
#[case::uniform("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa", "could be guessed")]
fn a_weak_key_is_refused(#[case] key: &str, #[case] why: &str) {
    let place = Place::new();
    std::fs::write(place.path("key"), key).unwrap();
    let ran = place.run(&["redact", GANNET, "--out", "x.json", "--key", "key"]);
    assert_eq!(ran.status, 3);
    assert!(ran.err.contains(why), "{}", ran.err);
    assert!(!place.path("x.json").exists(), "nothing is written");
}

#[rstest]
#[case("/dev/zero")]
#[case("/dev/null")]
#[case(".")]
fn what_is_no_file_is_no_key(#[case] path: &str) {
    let ran = Place::new().run(&["redact", GANNET, "--out", "x.json", "--key", path]);
    assert_eq!(ran.status, 3);
    assert!(ran.err.contains("no regular file"), "{}", ran.err);
}

/// Files of `--also` are in no copy, unless they are asked for one by one.
#[test]
fn what_nobody_can_vouch_for_is_withheld_or_told() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file("var/log/harbour.log", "anna was here\n");
        tree.file("var/log/other.log", "so was she\n");
    });
    let ran = place.run(&[
        "capture",
        "--from",
        "machine",
        "--out",
        "c.tar.zst",
        "--also",
        "/var/log/*.log",
    ]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let ran = place.run(&["redact", "c.tar.zst", "--out", "r.tar.zst"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(
        ran.err.contains("left out") && ran.err.contains("/var/log/harbour.log"),
        "{}",
        ran.err
    );
    let text = zstd::decode_all(&std::fs::read(place.path("r.tar.zst")).unwrap()[..]).unwrap();
    assert!(!text.windows(4).any(|part| part == b"anna"));
    let asked = ["redact", "c.tar.zst", "--out", "i.tar.zst", "--include", "/var/log/harbour.log"];
    let ran = place.run(&asked);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(
        ran.err.contains("as they are") && ran.err.contains("/var/log/other.log"),
        "{}",
        ran.err
    );
    let text = zstd::decode_all(&std::fs::read(place.path("i.tar.zst")).unwrap()[..]).unwrap();
    assert!(text.windows(13).any(|part| part == b"anna was here"));
    assert!(!text.windows(6).any(|part| part == b"so was"));
    let wrong = place.run(&["redact", "c.tar.zst", "--out", "x", "--include", "/etc/shadow"]);
    assert_eq!(wrong.status, 3);
    assert!(wrong.err.contains("/etc/shadow"), "{}", wrong.err);
    let wrong = place.run(&["redact", GANNET, "--out", "x", "--include", "/etc/hostname"]);
    assert_eq!(wrong.status, 2, "{}", wrong.err);
}

/// Digits and words that are everybody's trip nothing and corrupt nothing.
#[test]
fn ordinary_words_as_names_are_no_trouble() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.line("etc/hostname", "kernel");
        tree.line("proc/sys/kernel/hostname", "kernel");
        let partition = "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1/nvme0n1p1";
        tree.line(format!("{partition}/dev"), "259:77");
        tree.file("run/udev/data/b259:77", "E:ID_FS_TYPE=ext4\nE:ID_FS_LABEL_ENC=vendor\n");
        let usb = "sys/devices/pci0000:00/0000:00:14.0/usb9/9-1";
        tree.link("sys/bus/usb/devices/9-1", &format!("/{usb}"));
        tree.line(format!("{usb}/idVendor"), "1d6b");
        tree.line(format!("{usb}/idProduct"), "0002");
        tree.line(format!("{usb}/serial"), "1");
    });
    place.run(&["capture", "--from", "machine", "--out", "c.tar.zst", "--quiet"]);
    let ran = place.run(&["redact", "c.tar.zst", "--out", "r.tar.zst"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let survey = place.run(&["survey", "--from", "r.tar.zst", "--format", "json", "--out", "-"]);
    let report: serde_json::Value = serde_json::from_str(&survey.out).unwrap();
    assert_eq!(report["inventory"]["os"]["kernel_release"], "6.12.31-skerry");
    assert_eq!(report["inventory"]["platform"]["system"]["product"], "Fathom 2240");
    assert_ne!(report["machine"]["hostname"], "kernel");
}

/// As root, `--out /dev/stdout` once put a file in the device's place.
#[test]
fn standard_output_by_its_path_is_written_into() {
    let place = Place::new();
    let ran = place.run(&["survey", "os", "--from", GANNET, "--out", "/dev/stdout"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let report: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
    assert!(report["inventory"]["os"].is_object());
    let ran = place.run(&["capture", "--from", GANNET, "--out", "/dev/null"]);
    assert!(ran.err.contains("no checksum"), "{}", ran.err);
    assert!(std::fs::metadata("/dev/null").unwrap().file_type().is_char_device());
    assert!(!std::path::Path::new("/dev/null.sha256").exists());
}

#[test]
fn a_capture_and_its_copy_have_their_checksums() {
    let place = Place::new();
    place.run(&["capture", "--from", GANNET, "--out", "c.tar.zst", "--quiet"]);
    let first = std::fs::read_to_string(place.path("c.tar.zst.sha256")).unwrap();
    // A copy at the same path brings its own.
    let ran = place.run(&["redact", "c.tar.zst", "--out", "c.tar.zst"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let second = std::fs::read_to_string(place.path("c.tar.zst.sha256")).unwrap();
    assert_ne!(first, second);
    let bytes = std::fs::read(place.path("c.tar.zst")).unwrap();
    let digest = <sha2::Sha256 as sha2::Digest>::digest(&bytes);
    let hex: String = digest.iter().map(|byte| format!("{byte:02x}")).collect();
    assert_eq!(second, format!("{hex}  c.tar.zst\n"));
}

#[rstest]
#[case(&["redact"], 2)]
#[case(&["redact", GANNET], 2)]
#[case(&["redact", GANNET, "--make-key", "k"], 2)]
#[case(&["redact", "nowhere", "--out", "x"], 3)]
fn wrong_words_have_their_status(#[case] words: &[&str], #[case] status: i32) {
    let ran = Place::new().run(words);
    assert_eq!(ran.status, status, "{}", ran.err);
}
