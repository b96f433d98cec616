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
