//! What sections look like: what they say of the demo machine, and that they stay within the width.

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
use support::{Place, SECTIONS};
use unicode_width::UnicodeWidthStr;

fn shown(section: &str, detail: &str, width: usize) -> String {
    shown_from(&Place::new(), "demo:gannet-after", section, detail, width)
}

fn shown_from(place: &Place, subject: &str, section: &str, detail: &str, width: usize) -> String {
    let words = ["survey", section, "--from", subject, "--detail", detail];
    let output = place.command(&words).env("COLUMNS", width.to_string()).output().unwrap();
    let told = String::from_utf8_lossy(&output.stderr);
    assert!(output.status.success(), "{section} at {width}: {}, {told}", output.status);
    String::from_utf8(output.stdout).unwrap()
}

#[rstest]
fn no_line_is_wider_than_the_page(
    #[values("brief", "normal", "full")] detail: &str,
    #[values(60, 80, 100, 132, 200)] width: usize,
) {
    // Surveyed once, shown often.
    let place = Place::new();
    let made = place.run(&["survey", "--from", "demo:gannet-after", "--out", "r.json", "--quiet"]);
    assert_eq!((made.status, made.err.as_str()), (0, ""));
    // The whole sheet at every width, sections alone at one.
    let alone = SECTIONS.into_iter().filter(|_| width == 80).map(Some);
    for section in alone.chain([None]) {
        let words = ["survey", "--from", "r.json", "--detail", detail];
        let mut command = place.command(&words);
        let output = command.args(section).env("COLUMNS", width.to_string()).output().unwrap();
        let told = String::from_utf8_lossy(&output.stderr);
        assert!(output.status.success(), "{section:?} at {width}: {}, {told}", output.status);
        for line in String::from_utf8(output.stdout).unwrap().lines() {
            assert!(line.width() <= width, "{section:?} at {width}: {} in {line:?}", line.width());
        }
    }
}

#[test]
fn full_detail_tells_what_the_sheet_leaves_out() {
    // Lines are wrapped: blanks of any kind are one.
    let words = |text: String| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let [normal, full] = ["normal", "full"].map(|detail| words(shown("memory", detail, 120)));
    for part in ["detail Synchronous, Registered (Buffered)", "check 16 bits", "free slots 4"] {
        assert!(!normal.contains(part) && full.contains(part), "{part}");
    }
}

#[test]
fn a_stack_is_drawn_from_the_mount_to_the_disk() {
    let place = Place::with_changed("gannet-before", |tree| {
        let dm = "sys/devices/virtual/block/dm-0";
        tree.link("sys/block/dm-0", &format!("/{dm}"));
        tree.line(format!("{dm}/size"), 2048);
        tree.line(format!("{dm}/dev"), "253:0");
        tree.line(format!("{dm}/dm/name"), "reef-tide--data");
        tree.line(format!("{dm}/dm/uuid"), "LVM-abc");
        tree.folder(format!("{dm}/slaves/sda1"));
        tree.file("proc/self/mountinfo", "31 1 253:0 / /srv/tide rw - xfs /dev/mapper/x rw\n");
    });
    let ran = place.run(&["survey", "storage", "--from", "machine"]);
    let drawn = "/srv/tide ◂ xfs ◂ volume reef/tide-data 1 MiB ◂ sda1 ◂ sda";
    assert!(ran.out.contains(drawn), "{}", ran.out);
}

/// Every sheet of every recorded machine, drawn narrow and wide: nothing is wider than the page, and
/// nothing stands in it that a terminal would obey.
#[rstest]
fn every_recorded_machine_fits_the_page(
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
        "remote"
    )]
    machine: &str,
) {
    let place = Place::new();
    let words = ["survey", "--out", "r.json", "--quiet", "--from", &recorded(machine)];
    assert_eq!(place.run(&words).status, 0);
    for section in SECTIONS {
        for (detail, width) in [("normal", 80), ("normal", 120), ("full", 100)] {
            let shown = shown_from(&place, "r.json", section, detail, width);
            assert!(!shown.trim().is_empty(), "{section}");
            for line in shown.lines() {
                assert!(line.width() <= width, "{section} at {width}: {line:?}");
                assert!(!line.contains(|c: char| c.is_control()), "{section}: {line:?}");
            }
        }
    }
}

/// Names as long as files can make them, and with characters that would break a drawing.
#[test]
fn names_without_measure_break_no_drawing() {
    let place = Place::with_changed("gannet-before", |tree| {
        let long = "ab".repeat(30_000);
        let disk = format!("sys/devices/virtual/block/{}", "d".repeat(200));
        tree.link(format!("sys/block/{}", "d".repeat(200)), &format!("/{disk}"));
        tree.line(format!("{disk}/size"), 4096);
        tree.line("etc/hostname", &long);
        // A memory device whose label is as long as a table can hold.
        let mut table = vec![16, 15, 0, 0x10, 3, 3, 6, 0, 0, 0, 1, 0xFE, 0xFF, 1, 0, 0, 0];
        table.extend([17, 40, 0x10, 0x11, 0, 0x10, 0xFE, 0xFF, 64, 0, 64, 0, 0, 32, 9, 0, 1, 2]);
        table.resize(table.len() + 22, 0);
        table.extend(long.bytes());
        table.extend([0, 0x1B, b'[', b'3', b'1', b'm', 0, 0]);
        table.extend([127, 4, 0xFF, 0xFE, 0, 0]);
        tree.file("sys/firmware/dmi/tables/DMI", table);
    });
    place.run(&["survey", "--from", "machine", "--out", "r.json", "--quiet"]);
    for section in SECTIONS {
        for width in [80, 120] {
            for line in shown_from(&place, "r.json", section, "normal", width).lines() {
                assert!(line.width() <= width, "{section} at {width}: {} wide", line.width());
            }
        }
    }
    let memory = shown_from(&place, "r.json", "memory", "normal", 100);
    assert!(memory.contains("abab") && memory.contains('…'), "{memory}");
}

/// Two numbers on two bases would look like several threads a core.
#[test]
fn what_is_offline_is_told_beside_what_is_online() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.line("sys/devices/system/cpu/online", "0-12");
        tree.line("sys/devices/system/cpu/offline", "13-15");
    });
    let shown = shown_from(&place, "machine", "cpu", "normal", 100);
    assert!(shown.contains("13 threads online; of 16 CPUs present, offline: "), "{shown}");
    assert!(shown.contains("offline: 13-15"), "{shown}");
}

/// The subject of a recorded machine.
fn recorded(machine: &str) -> String {
    let from = std::path::Path::new(env!("CARGO_MANIFEST_DIR"))
        .join(format!("../tectum-survey/tests/machines/{machine}.tar.zst"));
    from.to_str().unwrap().to_owned()
}

/// The text of a sheet in one line, for lines are wrapped.
fn words(machine: &str, section: &str) -> String {
    let text = shown_from(&Place::new(), &recorded(machine), section, "normal", 160);
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Volumes are those that somebody made: the layers that they consist of are told as theirs, and sizes that
/// are promised twice make no sum.
#[rstest]
#[case::thin("big-iron", "filesystems", "volume group quarry 5 volumes", true)]
#[case::thin_sum("big-iron", "filesystems", "volume group quarry 3.08 GiB", false)]
#[case::cached("layers", "filesystems", "volume group cache-vg 32 MiB in 1 volume", true)]
#[case::group("big-iron", "storage", "LVM2_member · part of volume group quarry", true)]
#[case::array("layers", "storage", "lab:six part of raid6 six", true)]
#[case::paths("layers", "storage", "mpath_member · part of multipath mpatha", true)]
#[case::layer("layers", "storage", "volume component cache-vg/slow_corig", true)]
#[case::session("remote", "storage", "scsi by iscsi, serial ISCSISER1", true)]
#[case::fabric("remote", "storage", "nvme by tcp, serial TGTSERIAL77", true)]
#[case::copied("remote", "storage", "part of replicated drbd0", true)]
#[case::given_read_only("remote", "storage", "it is read-only", false)]
#[case::share("remote", "filesystems", "share shared", true)]
#[case::server("remote", "filesystems", "server 127.0.0.1", true)]
#[case::snapshot("big-iron", "storage", "snapshot quarry/plain-snap 100 MiB", true)]
#[case::no_medium("mips", "storage", "fd0 no medium, floppy disk", true)]
#[case::no_disk("mips", "storage", "on 3 disks, 1 floppy drive", true)]
#[case::signal("mips", "network", "eth0 10 Mb/s, fe80::", true)]
#[case::reason("mips", "cpu", "vulnerabilities: not given by this machine", true)]
#[case::offline("big-iron", "cpu", "14 threads online; of 16 CPUs present, offline: 7,14", true)]
fn what_the_sheet_says_of_recorded_machines(
    #[case] machine: &str,
    #[case] section: &str,
    #[case] said: &str,
    #[case] stands: bool,
) {
    let words = words(machine, section);
    assert_eq!(words.contains(said), stands, "{said:?} in {words}");
}

/// Whole disks that are of one make are told together only where the same lies on them.
#[test]
fn disks_that_hold_different_things_stand_apart() {
    let place = Place::new();
    let brief = place.run(&["survey", "--from", &recorded("layers")]);
    assert!(brief.out.contains("209.7 MB each, virtio disk: vdd, vde, vdf, vdg"), "{}", brief.out);
    for own in ["sda ", "vda ", "vdh ", "vdi "] {
        let lines = brief.out.lines().filter(|line| line.trim_start().starts_with(own));
        assert_eq!(lines.count(), 1, "{own} in {}", brief.out);
    }
    assert!(brief.out.contains("6 volumes made of them"), "{}", brief.out);
}

/// Of blank lines that follow one another there is one.
#[rstest]
fn nothing_stands_between_two_blank_lines(
    #[values("mips", "microvm", "s390", "arm-board")] machine: &str,
) {
    for section in SECTIONS {
        let shown = shown_from(&Place::new(), &recorded(machine), section, "normal", 100);
        let blank = |text: &str| text.trim().is_empty();
        let lines: Vec<&str> = shown.trim_end().lines().collect();
        let twice = lines.windows(2).any(|pair| pair.iter().all(|line| blank(line)));
        assert!(!twice, "{section} of {machine}: {shown}");
    }
}
