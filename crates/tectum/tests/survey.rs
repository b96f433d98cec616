//! `tectum survey`, run as users run it.

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

use std::os::unix::fs::PermissionsExt;

use rstest::rstest;
use serde_json::Value;
use support::{Place, with_own_mounts};

#[test]
fn the_sheet_answers_the_first_questions() {
    let place = Place::with_machine("gannet-before");
    let ran = place.run(&["survey", "--from", "machine"]);
    assert_eq!(ran.status, 0);
    assert!(ran.err.lines().count() <= 2 && ran.err.contains("its own clock"), "{}", ran.err);
    for said in [
        "gannet",
        "Fathom 2240 by Marram Systems",
        "serial MS-F2240-00731",
        "2 × Tarn T9-4420 Processor",
        "2 sockets, 8 cores, 16 threads, all online",
        "128 GiB installed: 4 modules in 8 slots, DDR5 at 4800 MT/s",
        "8.96 TB (8.15 TiB) on 3 disks",
        "Skerry Linux 7 (Guillemot), Linux 6.12.31-skerry on x86_64",
        "UEFI, Marram Firmware MF 3.8.1 of 2024-11-04",
    ] {
        assert!(ran.out.contains(said), "{said:?} in {}", ran.out);
    }
}

#[test]
fn a_named_section_is_drawn_and_the_others_are_left_out() {
    let place = Place::with_machine("gannet-before");
    let ran = place.run(&["survey", "memory", "--from", "machine"]);
    assert!(ran.out.contains("▐A1 32 GiB▌  ┆A2  empty┆"), "{}", ran.out);
    assert!(ran.out.contains("LW-77A1001"));
    assert!(!ran.out.contains("Tarn"));
}

#[rstest]
#[case(60)]
#[case(80)]
#[case(100)]
fn lines_stay_within_the_width(#[case] columns: usize) {
    let place = Place::with_machine("gannet-before");
    let output = place
        .command(&["survey", "--from", "machine", "--detail", "normal", "storage", "os", "cpu"])
        .env("COLUMNS", columns.to_string())
        .output()
        .unwrap();
    for line in String::from_utf8(output.stdout).unwrap().lines() {
        assert!(line.chars().count() <= columns, "{columns} columns: {line}");
    }
}

#[test]
fn json_is_the_whole_report() {
    let place = Place::with_machine("gannet-before");
    let ran = place.run(&["survey", "--from", "machine", "--format", "json"]);
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(report["format"], "tectum-report");
    assert_eq!(report["inventory"]["cpu"]["threads"], 16);
    assert_eq!(report["taken"]["subject"], "machine");
    let schema = place.run(&["schema"]);
    let schema: Value = serde_json::from_str(&schema.out).unwrap();
    assert!(jsonschema::is_valid(&schema, &report));
}

#[test]
fn a_report_is_saved_for_its_owner_alone_and_read_back() {
    let place = Place::with_machine("gannet-before");
    let saved = place.run(&["survey", "--from", "machine", "--out", "report.json"]);
    assert_eq!((saved.status, saved.out.as_str()), (0, ""));
    assert!(saved.err.contains("saved report.json (sha256:"), "{}", saved.err);
    let mode = std::fs::metadata(place.path("report.json")).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o600);
    let live = place.run(&["survey", "--from", "machine"]);
    let read = place.run(&["survey", "--from", "report.json"]);
    let body = |text: &str| text.lines().skip(2).map(str::to_owned).collect::<Vec<_>>();
    assert_eq!(body(&live.out), body(&read.out));
    let one = place.run(&["survey", "os", "--from", "report.json"]);
    assert!(one.out.contains("Guillemot") && !one.out.contains("Tarn"));
}

#[rstest]
#[case::wrong_section(&["survey", "memroy"], 2, "the nearest is \"memory\"")]
#[case::wrong_skip(&["survey", "--skip", "discs"], 2, "there is no section \"discs\"")]
#[case::nothing_left(&["survey", "cpu", "--skip", "cpu"], 2, "nothing is left")]
#[case::wrong_option(&["survey", "--colour"], 2, "--colour")]
#[case::no_command(&[], 2, "Usage")]
#[case::no_subject(&["survey", "--from", "nowhere"], 3, "there is no file or folder \"nowhere\" here")]
#[case::no_demo(&["survey", "--from", "demo:puffin"], 2, "`tectum demo` shows them")]
#[case::not_a_report(&["survey", "--from", "text"], 3, "text: line 1, column 1: not JSON")]
#[case::no_folder_to_save(&["survey", "--from", "machine", "--out", "no/r.json"], 3, "cannot write no/r.json")]
fn mistakes_are_told_with_their_status(
    #[case] words: &[&str],
    #[case] status: i32,
    #[case] said: &str,
) {
    let place = Place::with_machine("gannet-before");
    std::fs::write(place.path("text"), "plain words").unwrap();
    let ran = place.run(words);
    assert_eq!(ran.status, status, "{}", ran.err);
    assert!(ran.err.contains(said), "{}", ran.err);
    assert_eq!(ran.out, "");
}

#[test]
fn control_characters_of_a_machine_never_reach_the_terminal() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file(
            "etc/os-release",
            "PRETTY_NAME=\"evil \u{1b}[2Jname\u{7}\"\nNAME=x\nLOGO=\"\u{9b}31m\u{202e}\"\n",
        );
        tree.line("proc/sys/kernel/hostname", "gan\u{1b}]0;net\u{8}");
    });
    for words in [
        &["survey", "--from", "machine", "--color", "never"][..],
        &["survey", "--from", "machine", "--detail", "full", "--color", "never"],
        &["compare", "machine", "demo:gannet-after", "--color", "never"],
        &["survey", "--from", "machine", "--format", "json"],
    ] {
        let ran = place.run(words);
        let raw = |c: char| (c.is_control() && c != '\n') || c == '\u{202e}';
        let json = words.contains(&"json");
        let found = ran.out.chars().chain(ran.err.chars()).find(|c| raw(*c));
        // JSON escapes what is below a blank; the rest is valid text there.
        assert!(found.is_none() || (json && found == Some('\u{9b}')), "{words:?}: {found:?}");
    }
    let ran = place.run(&["survey", "--from", "machine", "--color", "never"]);
    assert!(ran.out.contains("evil \\u{1b}[2Jname\\u{7}"), "{}", ran.out);
}

#[test]
fn colour_is_for_terminals_or_on_demand() {
    let place = Place::with_machine("gannet-before");
    assert!(!place.run(&["survey", "--from", "machine"]).out.contains('\u{1b}'));
    let coloured = place.run(&["survey", "--from", "machine", "--color", "always"]);
    assert!(coloured.out.contains("\u{1b}["));
    let plain =
        place.command(&["survey", "--from", "machine"]).env("NO_COLOR", "1").output().unwrap();
    assert!(!plain.stdout.contains(&0x1b));
}

#[test]
fn a_closed_pipe_ends_quietly() {
    use std::process::{Command, Stdio};
    let place = Place::with_machine("gannet-before");
    let mut child = Command::new(assert_cmd::cargo::cargo_bin("tectum"))
        .args(["survey", "--from", "machine", "--format", "json"])
        .current_dir(place.root())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    drop(child.stdout.take());
    let output = child.wait_with_output().unwrap();
    assert_eq!(output.status.code(), Some(0));
    assert!(output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
}

#[test]
fn the_live_machine_is_surveyed_without_failing() {
    let place = Place::new();
    let ran = place.run(&["survey", "--format", "json"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(report["taken"]["subject"], "live");
    let threads = std::thread::available_parallelism().unwrap().get() as u64;
    assert!(report["inventory"]["cpu"]["threads"].as_u64().unwrap() >= threads);
}

#[test]
fn sections_are_listed() {
    let ran = Place::new().run(&["sections"]);
    assert_eq!(ran.status, 0);
    assert!(ran.out.contains("memory modules with the slots they sit in"));
}

#[test]
fn rates_are_told_of_the_running_machine_alone() {
    let ran = Place::new().run(&["survey", "os", "--watch-for", "100ms", "--format", "json"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let report: Value = serde_json::from_str(&ran.out).unwrap();
    let rates = &report["readings"]["os"]["rates"];
    assert!(rates["over_ms"].as_u64().unwrap() >= 100);
    assert!(rates["context_switches_per_second"].is_u64());
    let ran = Place::new().run(&["survey", "--from", "demo:gannet-before", "--watch-for", "1s"]);
    assert_eq!(ran.status, 2);
    assert!(ran.err.contains("stands still"), "{}", ran.err);
}

/// Of a machine that was recorded without a word of when, the time is what its own clock said then, and that is told.
#[rstest]
#[case::it_had_run_for_an_hour(
    "btime 1780300800\n",
    "3600.25 7000.00\n",
    Some("2026-06-01T09:00:00Z")
)]
#[case::it_had_just_started(
    "cpu  1 2 3 4\nbtime 1780300800\n",
    "0.10 0.00\n",
    Some("2026-06-01T08:00:00Z")
)]
#[case::its_clock_was_ahead("btime 4102444800\n", "3600.25 7000.00\n", None)]
#[case::its_clock_was_not_set("btime 12\n", "3600.25 7000.00\n", None)]
#[case::nothing_says_when_it_started("cpu  1 2 3 4\n", "3600.25 7000.00\n", None)]
#[case::nothing_says_how_long_it_had_run("btime 1780300800\n", "", None)]
#[case::that_is_beyond_any_time("btime 1780300800\n", "9223372036854775807.0 1.0\n", None)]
fn when_a_machine_was_recorded_is_what_its_clock_said(
    #[case] stat: &str,
    #[case] uptime: &str,
    #[case] expected: Option<&str>,
) {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file("proc/stat", stat.to_owned());
        tree.file("proc/uptime", uptime.to_owned());
    });
    let begun = jiff::Timestamp::now();
    for words in [&["survey", "--from", "machine"][..], &["survey", "memory", "--from", "machine"]]
    {
        let ran = place.run(&[words, &["--quiet", "--format", "json"]].concat());
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        let at: jiff::Timestamp = report["taken"]["at"].as_str().unwrap().parse().unwrap();
        let noted = report["notes"].as_array().unwrap().iter();
        let noted = noted.filter(|note| note["code"] == "time-by-own-clock").count();
        match expected {
            Some(expected) => assert_eq!((at.to_string().as_str(), noted), (expected, 1)),
            None => assert!(at.as_second() >= begun.as_second() && noted == 0, "{at}"),
        }
        let ran = place.run(words);
        assert_eq!(
            ran.err.contains("what its own clock said then"),
            expected.is_some(),
            "{}",
            ran.err
        );
    }
}

/// A machine that runs is seen now, through whatever folder; a copy of its files was recorded, however lately.
#[test]
fn a_machine_that_runs_is_seen_now_through_a_folder_too() {
    let place = Place::new();
    for file in ["proc/stat", "proc/uptime"] {
        let copy = place.path("copy").join(file);
        std::fs::create_dir_all(copy.parent().unwrap()).unwrap();
        std::fs::copy(format!("/{file}"), copy).unwrap();
    }
    for (subject, notes) in [
        ("/", serde_json::json!([])),
        ("copy", serde_json::json!([{ "code": "time-by-own-clock" }])),
    ] {
        let ran = place.run(&["survey", "os", "--from", subject, "--quiet", "--format", "json"]);
        let report: Value = serde_json::from_str(&ran.out).unwrap();
        assert_eq!(report["notes"], notes, "{subject}");
    }
}

/// A capture says when it was taken, and of what was recorded before that when that was.
#[test]
fn a_capture_of_what_was_recorded_keeps_its_time() {
    let place = Place::with_machine("gannet-before");
    place.run(&["capture", "--from", "machine", "--out", "gannet.tar.zst", "--quiet"]);
    let at = |subject: &str| {
        let ran = place.run(&["survey", "--from", subject, "--quiet", "--format", "json"]);
        serde_json::from_str::<Value>(&ran.out).unwrap()["taken"]["at"].clone()
    };
    assert_eq!(at("gannet.tar.zst"), at("machine"));
    assert_eq!(at("machine"), "2026-06-15T08:00:00Z");
}

/// What is no proof is not told as a fact, and what is one is not hidden behind it.
#[rstest]
#[case::unclear(
    &[(".dockerenv", ""), ("proc/2/comm", "kthreadd")],
    "perhaps virtual or a container, perhaps neither; no proof by themselves: container manager's file (/.dockerenv)",
    "no sign of a hypervisor"
)]
#[case::control_domain(
    &[("sys/hypervisor/type", "xen"), ("proc/xen/capabilities", "control_d")],
    "the domain that controls a hypervisor: Xen",
    "virtual by the machine's other signs"
)]
#[case::virtual_machine(
    &[("sys/hypervisor/type", "xen"), (".dockerenv", ""), ("proc/2/comm", "kthreadd")],
    "a virtual machine: Xen",
    "virtual by the machine's other signs"
)]
fn what_the_machine_runs_in_is_told_as_far_as_it_is_proved(
    #[case] files: &[(&str, &str)],
    #[case] machine: &str,
    #[case] processor: &str,
) {
    let place = Place::with_changed("gannet-before", |tree| {
        files.iter().for_each(|(path, text)| tree.line(*path, text));
    });
    let ran = place.run(&["survey", "--from", "machine"]);
    let text = ran.out.split_whitespace().collect::<Vec<_>>().join(" ");
    for said in [machine, processor] {
        assert!(text.contains(said), "{said:?} in {}", ran.out);
    }
}

/// Datasets share the space of their pool: a sum of what each says would be many times what there is.
#[rstest]
#[case::beside_others(false, "used on 5 local filesystems", "; 2 datasets of ZFS not counted")]
#[case::alone(true, "2 datasets of ZFS, which share the space of their pools", "mounted")]
fn datasets_of_a_pool_are_not_counted_as_filesystems_of_their_own(
    #[case] alone: bool,
    #[case] first: &str,
    #[case] second: &str,
) {
    let place = Place::with_machine("gannet-before");
    let mounts = place.path("machine/proc/self/mountinfo");
    let before = if alone { String::new() } else { std::fs::read_to_string(&mounts).unwrap() };
    let own = "90 1 0:77 / /tank rw - zfs tank rw\n91 1 0:78 / /tank/a rw - zfs tank/a rw\n";
    std::fs::write(&mounts, before + own).unwrap();
    let ran = place.run(&["survey", "--from", "machine"]);
    let text = ran.out.split_whitespace().collect::<Vec<_>>().join(" ");
    for said in [first, second] {
        assert!(text.contains(said), "{said:?} in {}", ran.out);
    }
}

/// The running machine, looked at where something lies over what its kernel tells, and where nothing does.
#[rstest]
#[case::all("/sys", "storage", "disks")]
#[case::firmware_as_in_a_container("/sys/firmware", "memory", "modules")]
#[case::processes("/proc", "filesystems", "mounts")]
fn what_is_hidden_is_not_told_to_be_gone(
    #[case] hidden: &str,
    #[case] section: &str,
    #[case] list: &str,
) {
    let place = Place::new();
    assert_eq!(place.run(&["survey", "--quiet", "--out", "whole.json", section]).status, 0);
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let script = format!(
        "mount -t tmpfs none {hidden} || exit 9; cd {} && {} survey --quiet --evidence expanded --out bare.json {section}",
        place.root().display(),
        program.display(),
    );
    let Some(ran) = with_own_mounts(&script) else { return };
    assert!(ran.status.success(), "{}", String::from_utf8_lossy(&ran.stderr));
    let text = std::fs::read(place.path("bare.json")).unwrap();
    let report: Value = serde_json::from_slice(&text).unwrap();
    let at = format!("/inventory/{section}/{list}");
    let gaps = report["gaps"].as_array().unwrap();
    let gap = gaps.iter().find(|gap| gap["at"] == at.as_str()).unwrap_or_else(|| panic!("{at}"));
    assert_eq!(gap["why"], "not-read", "{gap}");
    let compared = place.run(&["compare", "whole.json", "bare.json"]);
    assert!(
        !compared.out.contains("removed") && !compared.out.contains("gone"),
        "{}",
        compared.out
    );
}
