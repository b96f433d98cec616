//! `tectum demo`, run as a newcomer runs it.

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

use support::Place;

#[test]
fn every_command_is_shown_before_its_output() {
    let ran = Place::new().run(&["demo"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let at = |text: &str| ran.out.find(text).unwrap_or_else(|| panic!("{text:?} in {}", ran.out));
    assert!(at("❯ tectum survey --from gannet-before") < at("Fathom 2240"));
    assert!(at("❯ tectum compare before.json after.json") < at("replaced memory module"));
}

#[test]
fn a_named_folder_keeps_machines_and_reports() {
    let place = Place::new();
    let ran = place.run(&["demo", "--keep", "kept"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    for name in ["before.json", "after.json", "gannet-before/proc/cpuinfo"] {
        assert!(place.path("kept").join(name).is_file(), "{name}");
    }
    let again = place.run(&["demo", "--keep", "kept"]);
    assert_eq!(again.status, 3, "what stands there is not overwritten");
    assert!(again.err.contains("is there already"), "{}", again.err);
}

/// The archive of the tour knows what became of each part over the year.
#[test]
fn the_year_of_the_archive_is_told() {
    let place = Place::new();
    let ran = place.run(&["demo", "--keep", "kept", "--step", "11"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(ran.out.contains("❯ tectum history --part LW-77F1004"), "{}", ran.out);
    let line = |host: &str| {
        let mut lines = ran.out.lines().filter(|line| line.trim_start().starts_with(host));
        lines.next_back().unwrap_or_else(|| panic!("{host}: {}", ran.out)).to_owned()
    };
    assert!(line("gannet").contains("not there since"), "{}", ran.out);
    assert!(line("cormorant").contains("seen last"), "{}", ran.out);
    let archive = ["--archive", "kept/archive"];
    let whole = place.run(&[&["archive", "verify"][..], &archive].concat());
    assert_eq!(whole.status, 0, "{}", whole.out);
    let fleet = place.run(&[&["fleet"][..], &archive].concat());
    let stale: Vec<&str> = fleet.out.lines().filter(|line| line.contains(" stale ")).collect();
    assert_eq!(stale.len(), 1, "{}", fleet.out);
    assert!(stale[0].contains("dunlin"), "{}", fleet.out);
}

#[test]
fn the_storage_box_is_told_from_the_bays_to_the_mounts() {
    let told = Place::new().run(&["survey", "storage", "--from", "demo:cormorant", "--plain"]).out;
    for words in ["sdc is a spare of raid6 bulk", "another path to sdg", "multipath mpatha"] {
        assert!(told.contains(words), "{words}: {told}");
    }
    assert!(told.contains(", Bay 3,") && !told.contains("bay Bay"), "{told}");
}

#[test]
fn a_board_without_tables_has_its_own_devices() {
    let place = Place::new();
    let from = ["--from", "demo:turnstone", "--plain"];
    let told = place.run(&[&["survey", "gpu", "sensors", "peripherals"][..], &from].concat()).out;
    assert!(told.contains("driver marram_display") && told.contains("marram_audio"), "{told}");
    assert_eq!(told.matches("display device").count(), 1, "{told}");
    assert!(told.contains("1 thermal zone") && !told.contains("0 sensors"), "{told}");
    assert!(!told.contains("not detected"), "{told}");
}

/// Whoever ends the program by a signal finds nothing of it left.
#[test]
fn an_interrupt_leaves_nothing_behind() {
    let place = Place::new();
    let temporary = place.path("tmp");
    std::fs::create_dir(&temporary).unwrap();
    let mut child = std::process::Command::new(assert_cmd::cargo::cargo_bin("tectum"))
        .args(["demo"])
        .env("TMPDIR", &temporary)
        .current_dir(place.root())
        .stdout(std::process::Stdio::null())
        .stderr(std::process::Stdio::null())
        .spawn()
        .unwrap();
    let made = || std::fs::read_dir(&temporary).unwrap().count();
    while made() == 0 {
        assert!(child.try_wait().unwrap().is_none(), "it ended before it made anything");
        std::thread::sleep(std::time::Duration::from_millis(1));
    }
    let id = nix::unistd::Pid::from_raw(child.id().try_into().unwrap());
    nix::sys::signal::kill(id, nix::sys::signal::Signal::SIGINT).unwrap();
    assert_eq!(child.wait().unwrap().code(), Some(130));
    assert_eq!(made(), 0);
}
