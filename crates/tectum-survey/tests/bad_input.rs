//! Files that are missing, empty, cut, absurd, hung or hostile: the report still comes, with gaps
//! that say which and why.

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
    os::unix::fs::symlink,
    time::{Duration, Instant},
};

use rstest::rstest;
use support::{demo, demo_with, hasty, json, look, report, run};
use tectum_report::fact::Why;
use tectum_survey::{
    source::{Door, Outcome, Tree},
    survey::Event,
};

const DMI: &str = "sys/firmware/dmi/tables/DMI";

fn gap_at(report: &tectum_report::report::Report, at: &str) -> (Why, String) {
    let gaps = report.gaps();
    let found = gaps.iter().find(|(pointer, _)| pointer == at);
    let (_, gap) = found.unwrap_or_else(|| panic!("no gap at {at}"));
    (
        gap.why,
        gap.tried.iter().map(|attempt| format!("{}: {}", attempt.source, attempt.answer)).collect(),
    )
}

#[rstest]
// A system call of the running machine could tell it still.
#[case::empty("proc/sys/kernel/osrelease", b"", "/inventory/os/kernel_release", Why::NotRead)]
#[case::absurd("etc/machine-id", b"not an id", "/inventory/os/machine_id", Why::Invalid)]
#[case::not_utf8(
    "sys/devices/system/cpu/online",
    b"\xFF\xFE0-3",
    "/inventory/cpu/cores",
    Why::NotProvided
)]
#[case::huge_list(
    "sys/devices/system/cpu/present",
    b"0-4294967295",
    "/inventory/cpu/offline",
    Why::Invalid
)]
#[case::overflow(
    "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1/size",
    b"18446744073709551615",
    "/inventory/storage/disks/0/size_bytes",
    Why::Invalid
)]
#[case::cut_table(DMI, b"\x00\x18\x00", "/inventory/firmware/rom_size_bytes", Why::NotProvided)]
fn a_bad_file_costs_its_value(
    #[case] path: &str,
    #[case] content: &[u8],
    #[case] at: &str,
    #[case] why: Why,
) {
    let folder = demo_with("gannet-before", |tree| {
        tree.file(path, content);
        if path.ends_with("cpu/online") {
            tree.remove("proc/cpuinfo");
        }
    });
    let report = look(folder.path());
    assert_eq!(gap_at(&report, at).0, why);
    let hostname = json(&report)["machine"]["hostname"].clone();
    assert_eq!(hostname, "gannet", "the rest of the report is there");
}

#[test]
fn a_fifo_in_place_of_a_file_costs_one_gap_and_is_not_waited_for() {
    let folder = demo("gannet-before");
    let path = folder.path().join("etc/machine-id");
    std::fs::remove_file(&path).unwrap();
    let made = std::process::Command::new("mkfifo").arg(&path).status().unwrap();
    assert!(made.success());
    let report = look(folder.path());
    // One that was waited for would be a timeout.
    assert_eq!(gap_at(&report, "/machine/machine_id").0, Why::Invalid);
}

/// A folder source whose reads hang is not to be had without a filesystem of our own, so the door
/// is made to believe that a thread hangs: what matters is what the survey does then.
#[test]
fn an_access_that_is_given_up_becomes_a_gap_and_stays_one() {
    let folder = demo("gannet-before");
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    door.give_up(&tectum_survey::source::UnderWay {
        operation: tectum_survey::source::Operation::Read,
        path: std::path::Path::new("/etc/machine-id").into(),
        since: Instant::now(),
    });
    let found = tectum_survey::survey::survey(&door, &hasty(), &mut |_| {});
    let log = door.log();
    let outcome = |path: &str| {
        log.iter().find(|access| &*access.path == path).map(|access| access.outcome.clone())
    };
    assert_eq!(outcome("/etc/machine-id"), Some(Outcome::TimedOut));
    let (why, tried) = gap_at(&report(found), "/machine/machine_id");
    assert_eq!(why, Why::Timeout);
    assert!(tried.contains("timed out"));
}

#[test]
fn a_closed_door_answers_what_it_remembers_and_nothing_new() {
    let folder = demo("gannet-before");
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    let lease = door.lease();
    let known = std::path::Path::new("/etc/hostname");
    assert_eq!(&*lease.read(known, 100).unwrap().bytes, b"gannet\n");
    door.close();
    assert!(lease.read(known, 100).is_ok());
    let refused = lease.read(std::path::Path::new("/etc/machine-id"), 100).unwrap_err();
    assert_eq!(refused.outcome, Outcome::OutOfTime);
}

#[test]
fn a_survey_that_is_out_of_time_still_gives_a_report() {
    let folder = demo("gannet-before");
    let plan = tectum_survey::survey::Plan { survey_deadline: Duration::ZERO, ..hasty() };
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    door.close();
    let report = report(tectum_survey::survey::survey(&door, &plan, &mut |_| {}));
    assert_eq!(gap_at(&report, "/machine/hostname").0, Why::Timeout);
}

#[test]
fn links_that_lead_out_are_followed_inside() {
    let folder = demo("gannet-before");
    let etc = folder.path().join("etc");
    std::fs::remove_file(etc.join("os-release")).unwrap();
    std::fs::remove_file(etc.join("machine-id")).unwrap();
    // On this host these would lead to files that exist.
    symlink("/proc/cpuinfo", etc.join("machine-id")).unwrap();
    symlink("../../../../../../../../etc/hostname", etc.join("os-release")).unwrap();
    let report = look(folder.path());
    let (why, tried) = gap_at(&report, "/machine/machine_id");
    assert_eq!(why, Why::Invalid);
    assert!(tried.contains("Tarn T9-4420"), "the folder's own cpuinfo was read: {tried}");
    assert!(json(&report)["inventory"]["os"]["pretty_name"].is_null());
}

#[test]
fn a_folder_never_answers_from_the_host() {
    let folder = tempfile::tempdir().unwrap();
    let report = json(&look(folder.path()));
    assert!(report["machine"]["hostname"].is_null());
    assert!(report["inventory"]["os"]["kernel_release"].is_null());
    assert!(report["inventory"]["os"]["architecture"].is_null());
    assert!(report["readings"]["memory"]["total_bytes"].is_null());
    let uname =
        report["sources"].as_array().unwrap().iter().find(|one| one["operation"] == "uname");
    assert_eq!(uname.unwrap()["outcome"], "unsupported");
}

#[test]
fn where_nothing_can_be_listed_nothing_is_said_to_be_absent() {
    let folder = tempfile::tempdir().unwrap();
    let report = json(&look(folder.path()));
    for list in ["/gpu/devices", "/storage/disks", "/storage/optical_drives", "/memory/modules"] {
        let found = report["inventory"].pointer(list).unwrap();
        assert!(found.is_null(), "{list} is not known, not empty");
    }
}

#[test]
fn a_file_past_the_limit_is_cut_and_said() {
    let folder = demo_with("gannet-before", |tree| {
        tree.file("etc/machine-id", vec![b'a'; 3 << 20]);
    });
    let report = look(folder.path());
    assert_eq!(gap_at(&report, "/machine/machine_id").0, Why::Invalid);
    let source = report.sources.iter().find(|one| one.path == "/etc/machine-id").unwrap();
    assert_eq!((source.bytes, source.outcome.code()), (Some(1 << 20), "cut"));
}

#[test]
fn sections_are_told_as_they_begin_and_end() {
    let folder = demo("gannet-before");
    let mut ended = Vec::new();
    run(folder.path(), &hasty(), &mut |event| {
        if let Event::Ended { section, .. } = event {
            ended.push(section);
        }
    });
    ended.sort_unstable();
    let mut all: Vec<&str> =
        tectum_survey::sections::SECTIONS.iter().map(|section| section.name).collect();
    all.push("machine");
    all.sort_unstable();
    assert_eq!(ended, all);
}
