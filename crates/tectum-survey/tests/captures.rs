//! Captures: what is surveyed from one is what was surveyed live, and no archive can do harm.

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
    io::{Read, Write},
    path::Path,
    sync::Arc,
};

use rstest::rstest;
use support::{RECORDED, demo, recorded, report};
use tectum_report::{
    compare::{Scope, compare},
    fact::Why,
    report::Report,
};
use tectum_survey::{
    sections::{SECTIONS, reads},
    source::{Archive, ArchiveError, Door, Operation, Outcome, Packing, Tree},
    survey::{Plan, survey},
};

fn look_through(door: &Arc<Door>) -> Report {
    report(survey(door, &Plan::default(), &mut |_| {}))
}

fn capture(door: &Arc<Door>) -> Vec<u8> {
    let mut bytes = Vec::new();
    door.write_capture("tectum test", "2026-11-23T08:00:00Z".parse().unwrap(), &mut bytes).unwrap();
    bytes
}

fn archive(bytes: &[u8]) -> Result<Archive, ArchiveError> {
    Archive::read(bytes, Packing::of(bytes).unwrap())
}

/// The standing test of replay: every section of every machine there is, and of this one.
#[rstest]
#[case::this_machine(None)]
#[case::rack(Some("rack-2s"))]
#[case::cloud(Some("cloud-small"))]
#[case::arm_server(Some("arm-server"))]
#[case::arm_board(Some("arm-board"))]
#[case::demo(Some("gannet-before"))]
fn a_capture_gives_the_inventory_it_was_made_with(#[case] machine: Option<&str>) {
    let folder = machine
        .map(|name| if RECORDED.contains(&name) { recorded(name) } else { demo(name).into() });
    let tree = match &folder {
        None => Tree::live().unwrap(),
        Some(folder) => Tree::folder(folder.path()).unwrap(),
    };
    let door = Door::new(tree);
    let live = look_through(&door);
    let bytes = capture(&door);
    let replay = Door::to_archive(archive(&bytes).unwrap());
    let again = look_through(&replay);
    assert_eq!(again.inventory, live.inventory, "values, evidence and gaps alike");
    assert_eq!(again.readings, live.readings);
    assert_eq!(again.inventory_digest(), live.inventory_digest());
    // A capture of a capture is the same capture.
    assert_eq!(capture(&replay), bytes);
}

/// Unpacked with ordinary tools, the folder under `root/` stands in for the machine.
#[test]
fn an_unpacked_capture_is_a_folder_that_can_be_surveyed() {
    let folder = recorded("rack-2s");
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    let live = look_through(&door);
    let unpacked = tempfile::tempdir().unwrap();
    let bytes = capture(&door);
    tar::Archive::new(zstd::Decoder::new(&bytes[..]).unwrap()).unpack(unpacked.path()).unwrap();
    let again = look_through(&Door::new(Tree::folder(&unpacked.path().join("root")).unwrap()));
    assert_eq!(again.inventory_digest(), live.inventory_digest());
}

/// What is read is fixed and printed; a section that reads something else fails here.
#[test]
fn every_access_is_one_that_a_section_declares() {
    let all: Vec<_> = SECTIONS.iter().collect();
    let mut set = globset::GlobSetBuilder::new();
    for pattern in reads(&all) {
        set.add(globset::GlobBuilder::new(pattern).literal_separator(true).build().unwrap());
    }
    let set = set.build().unwrap();
    let doors = RECORDED.map(|name| {
        let folder = recorded(name);
        let door = Door::new(Tree::folder(folder.path()).unwrap());
        look_through(&door);
        door
    });
    let live = Door::new(Tree::live().unwrap());
    look_through(&live);
    for door in doors.iter().chain([&live]) {
        for access in door.log() {
            // Two questions read no file: what the kernel is called, and how full a mount is.
            let uname = &*access.path == "uname";
            let no_file = uname || access.operation == Operation::Statvfs;
            assert!(no_file || set.is_match(&*access.path), "undeclared: {}", access.path);
        }
    }
    for secret in
        ["/etc/shadow", "/etc/ssh/ssh_host_ed25519_key", "/proc/1/environ", "/root/.ssh/id"]
    {
        assert!(!set.is_match(secret), "{secret} must never be read");
    }
}

#[rstest]
#[case(Packing::Plain)]
#[case(Packing::Gzip)]
#[case(Packing::Zstd)]
fn a_plain_tar_of_a_tree_is_taken_as_the_folder(#[case] packing: Packing) {
    let folder = demo("gannet-before");
    let direct = look_through(&Door::new(Tree::folder(folder.path()).unwrap()));
    let mut builder = tar::Builder::new(Vec::new());
    builder.follow_symlinks(false);
    builder.append_dir_all(".", folder.path()).unwrap();
    let plain = builder.into_inner().unwrap();
    let bytes = match packing {
        Packing::Plain => plain,
        Packing::Zstd => zstd::encode_all(&plain[..], 1).unwrap(),
        Packing::Gzip => {
            let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
            gzip.write_all(&plain).unwrap();
            gzip.finish().unwrap()
        }
    };
    assert_eq!(Packing::of(&bytes), Some(packing));
    let replay = look_through(&Door::to_archive(archive(&bytes).unwrap()));
    assert_eq!(replay.inventory, direct.inventory);
}

/// Who copied `/etc` and the partition tables alone has copied nothing of the kernel's: what it would tell is not read,
/// and not missing from the machine. A part of `/sys` that was copied is taken for all of it, as before.
#[rstest]
#[case("sys", "/inventory/pci/functions", Some(Why::NotRead))]
#[case("sys", "/inventory/network/interfaces", Some(Why::NotRead))]
#[case("sys", "/inventory/os/kernel_release", None)]
#[case("proc", "/inventory/os/kernel_release", Some(Why::NotRead))]
#[case("proc", "/inventory/filesystems/mounts", Some(Why::NotRead))]
#[case("proc", "/inventory/pci/functions", None)]
fn what_was_not_copied_was_not_read(
    #[case] left_out: &str,
    #[case] at: &str,
    #[case] why: Option<Why>,
    #[values(false, true)] packed: bool,
) {
    let folder = demo("gannet-before");
    std::fs::remove_dir_all(folder.path().join(left_out)).unwrap();
    let door = if packed {
        let mut builder = tar::Builder::new(Vec::new());
        builder.follow_symlinks(false);
        builder.append_dir_all(".", folder.path()).unwrap();
        Door::to_archive(archive(&builder.into_inner().unwrap()).unwrap())
    } else {
        Door::new(Tree::folder(folder.path()).unwrap())
    };
    let report = look_through(&door);
    let gaps = report.gaps();
    let missing = gaps.iter().find(|(own, _)| own == at).map(|(_, gap)| gap.why);
    assert_eq!(missing, why);
}

/// Beside a whole look nothing is gone that was not copied: no value that was worked out from it, and no route of an
/// interface that nobody could see.
#[rstest]
fn what_was_not_copied_is_no_change(
    #[values("sys", "proc")] left_out: &str,
    #[values("gannet-after", "cormorant", "turnstone")] machine: &str,
) {
    let folder = demo(machine);
    let look = || look_through(&Door::new(Tree::folder(folder.path()).unwrap()));
    let whole = look();
    std::fs::remove_dir_all(folder.path().join(left_out)).unwrap();
    let less = look();
    for (before, after) in [(&whole, &less), (&less, &whole)] {
        let told = compare(before, after, Scope::InventoryAndReadings).changes;
        assert!(told.is_empty(), "{left_out} of {machine}: {told:#?}");
    }
}

fn demo_capture() -> Vec<u8> {
    let folder = demo("gannet-before");
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    look_through(&door);
    capture(&door)
}

#[test]
fn a_capture_that_is_cut_off_or_flipped_is_refused() {
    let bytes = demo_capture();
    for end in [300, bytes.len() / 2, bytes.len() - 1] {
        assert!(matches!(archive(&bytes[..end]), Err(ArchiveError::Damaged(_))), "cut at {end}");
    }
    for at in (300..bytes.len()).step_by(bytes.len() / 40) {
        let mut flipped = bytes.clone();
        flipped[at] ^= 0x10;
        // A few bits of the packing mean nothing; then what is read is what was kept.
        if archive(&flipped).is_ok() {
            let same =
                zstd::decode_all(&flipped[..]).unwrap() == zstd::decode_all(&bytes[..]).unwrap();
            assert!(same, "a flipped bit at {at} was not noticed");
        }
    }
}

/// A tar of entries made by hand; names are written as they are, however bad.
fn tar_of(entries: &[(&str, &[u8])]) -> Vec<u8> {
    let mut bytes = Vec::new();
    for (name, content) in entries {
        let mut header = tar::Header::new_ustar();
        header.as_mut_bytes()[..name.len()].copy_from_slice(name.as_bytes());
        header.set_size(content.len() as u64);
        header.set_mode(0o644);
        header.set_entry_type(tar::EntryType::Regular);
        header.set_cksum();
        bytes.extend(header.as_bytes());
        bytes.extend(*content);
        bytes.resize(bytes.len().next_multiple_of(512), 0);
    }
    bytes.extend([0; 1024]);
    bytes
}

const HEAD: &str = r#"{"format": "tectum-capture", "format_version": "#;

#[rstest]
#[case::leads_out(&[("etc/../../../etc/passwd", &b"x"[..])], "leads out")]
#[case::twice(&[("etc/hostname", &b"a"[..]), ("./etc/hostname", b"b")], "twice")]
#[case::record(&[("capture.json", &b"{"[..])], "capture.json")]
#[case::other_record(&[("capture.json", &b"{\"format\": \"x\", \"format_version\": \"1.0\"}"[..])], "its format is \"x\"")]
fn a_bad_archive_is_refused_with_the_reason(#[case] entries: &[(&str, &[u8])], #[case] said: &str) {
    let error = archive(&tar_of(entries)).unwrap_err().to_string();
    assert!(error.contains(said), "{error}");
}

#[test]
fn a_capture_of_a_newer_tectum_is_refused_with_advice() {
    let record = format!("{HEAD}\"2.0\"}}");
    let error = archive(&tar_of(&[("capture.json", record.as_bytes())])).unwrap_err();
    assert!(error.to_string().contains("use the Tectum that made the capture"), "{error}");
}

#[test]
fn a_capture_that_lacks_what_it_says_it_holds_gives_gaps() {
    let record = format!(
        "{HEAD}\"1.0\", \"at\": \"2026-11-23T08:00:00Z\", \"tool\": \"t\", \"privileged\": true,
        \"accesses\": [{{\"operation\": \"read\", \"path\": \"/etc/machine-id\", \"outcome\": \"done\",
        \"entry\": \"/etc/machine-id\"}}]}}"
    );
    let door = Door::to_archive(archive(&tar_of(&[("capture.json", record.as_bytes())])).unwrap());
    let lease = door.lease();
    let outcome = |path: &str| lease.read(Path::new(path), 100).unwrap_err().outcome;
    assert_eq!(outcome("/etc/machine-id"), Outcome::Damaged);
    assert_eq!(outcome("/etc/hostname"), Outcome::NotCaptured);
    let report = look_through(&door);
    assert!(report.gaps().iter().any(|(at, _)| at == "/machine/machine_id"));
}

/// A few kilobytes that would be gigabytes: refused before they are.
#[test]
fn a_bomb_is_refused() {
    struct Zeros(u64);
    impl Read for Zeros {
        fn read(&mut self, to: &mut [u8]) -> std::io::Result<usize> {
            let count = to.len().min(usize::try_from(self.0).unwrap_or(usize::MAX));
            to[..count].fill(0);
            self.0 -= count as u64;
            Ok(count)
        }
    }
    for size in [100u64 << 20, 600 << 20] {
        let mut header = tar::Header::new_ustar();
        header.set_path("etc/large").unwrap();
        header.set_size(size);
        header.set_mode(0o644);
        header.set_entry_type(tar::EntryType::Regular);
        header.set_cksum();
        let mut encoder = zstd::Encoder::new(Vec::new(), 1).unwrap();
        encoder.write_all(header.as_bytes()).unwrap();
        std::io::copy(&mut Zeros(size + 1024), &mut encoder).unwrap();
        let bomb = encoder.finish().unwrap();
        assert!(bomb.len() < 1 << 20);
        let error = archive(&bomb).unwrap_err();
        if matches!(error, ArchiveError::TooLarge { .. }) {
            assert!(size > 512 << 20, "only what says so of itself is told by its size");
            continue;
        }
        let source = std::error::Error::source(&error).unwrap().to_string();
        assert!(source.contains("grew into"), "{source}");
    }
}

fn record_of(accesses: &str) -> Vec<u8> {
    format!(
        "{HEAD}\"1.0\", \"at\": \"2026-11-23T08:00:00Z\", \"tool\": \"t\", \"privileged\": true,
        \"accesses\": [{accesses}]}}"
    )
    .into_bytes()
}

/// What contradicts itself is refused, never one of it taken without a word.
#[rstest]
#[case::twice(
    r#"{"operation":"resolve","path":"/a","outcome":"done","target":"/b"},
       {"operation":"resolve","path":"/a","outcome":"done","target":"/c"}"#,
    "says twice"
)]
#[case::refused_and_given(
    r#"{"operation":"list","path":"/a","outcome":"not-found","names":["x"]}"#,
    "makes no sense"
)]
#[case::of_another_kind(
    r#"{"operation":"list","path":"/a","outcome":"done","names":["x"],"target":"/b"}"#,
    "makes no sense"
)]
#[case::nothing_given(r#"{"operation":"list","path":"/a","outcome":"done"}"#, "makes no sense")]
fn a_record_that_contradicts_itself_is_refused(#[case] accesses: &str, #[case] why: &str) {
    let record = record_of(accesses);
    let error = archive(&tar_of(&[("capture.json", &record)])).unwrap_err();
    assert!(error.to_string().contains(why), "{error}");
}

#[test]
fn more_names_than_a_folder_is_read_for_are_refused() {
    let names = vec![r#""x""#; 70_000].join(",");
    let record = record_of(&format!(
        r#"{{"operation":"list","path":"/a","outcome":"done","names":[{names}]}}"#
    ));
    assert!(archive(&tar_of(&[("capture.json", &record)])).is_err());
}

#[rstest]
#[case("1.")]
#[case("1.x")]
#[case(".1")]
#[case("1")]
#[case("2.0")]
fn a_version_that_is_none_is_refused(#[case] version: &str) {
    let record =
        String::from_utf8(record_of("")).unwrap().replace("\"1.0\"", &format!("{version:?}"));
    let error = archive(&tar_of(&[("capture.json", record.as_bytes())])).unwrap_err();
    assert!(matches!(error, ArchiveError::OtherVersion { .. }), "{error}");
}

/// Another name of a file is the same file, where a plain tar holds it before.
#[test]
fn hard_links_are_followed_or_refused() {
    let tar = |target: &str| {
        let mut builder = tar::Builder::new(Vec::new());
        let mut header = tar::Header::new_gnu();
        header.set_size(5);
        header.set_mode(0o644);
        builder.append_data(&mut header, "etc/first", &b"gull\n"[..]).unwrap();
        let mut header = tar::Header::new_gnu();
        header.set_entry_type(tar::EntryType::Link);
        header.set_size(0);
        builder.append_link(&mut header, "etc/hostname", target).unwrap();
        builder.into_inner().unwrap()
    };
    let door = Door::to_archive(archive(&tar("etc/first")).unwrap());
    assert_eq!(&*door.lease().read(Path::new("/etc/hostname"), 100).unwrap().bytes, b"gull\n");
    let error = archive(&tar("etc/nothing")).unwrap_err();
    assert!(matches!(error, ArchiveError::LinkToNothing { .. }), "{error}");
}

/// What is unpacked of a capture is for its owner only.
#[test]
fn nothing_in_a_capture_is_for_others() {
    let folder = demo("gannet-before");
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    look_through(&door);
    let bytes = zstd::decode_all(&capture(&door)[..]).unwrap();
    let mut tar = tar::Archive::new(&bytes[..]);
    let mut count = 0;
    for entry in tar.entries().unwrap() {
        let entry = entry.unwrap();
        if entry.header().entry_type() != tar::EntryType::Symlink {
            assert_eq!(entry.header().mode().unwrap() & 0o077, 0, "{:?}", entry.path());
            count += 1;
        }
    }
    assert!(count > 100);
}
