//! What every command and section looks like on the demo machines: kept as it is, so that each change of a look is
//! seen and meant.

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

use insta::{Settings, assert_snapshot};
use rstest::rstest;
use support::{Place, SECTIONS, reports, views};

/// What a command prints in a window of some width.
fn look(place: &Place, width: usize, words: &[&str]) -> String {
    let mut command = place.command(words);
    let output = command.env("COLUMNS", width.to_string()).output().unwrap();
    let err = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(output.status.code().is_some_and(|status| status < 2), "{words:?}: {err}");
    let text = String::from_utf8(output.stdout).unwrap();
    for line in text.lines().filter(|_| !words.contains(&"--format") && !words.contains(&"--plain"))
    {
        let bare = anstream::adapter::strip_str(line).to_string();
        let wide = unicode_width::UnicodeWidthStr::width(bare.as_str());
        assert!(wide <= width, "{words:?} at {width}: {wide} in {bare:?}");
    }
    text
}

/// Keeps what something looks like under a name.
fn keep(name: &str, text: &str) {
    let mut settings = Settings::clone_current();
    settings.set_snapshot_path("looks");
    settings.set_prepend_module_to_snapshot(false);
    settings.set_omit_expression(true);
    settings.bind(|| assert_snapshot!(name, text));
}

#[rstest]
fn a_section(#[values(80, 120)] width: usize) {
    let place = reports();
    for section in SECTIONS {
        let words = ["survey", section, "--from", "gannet.json", "--quiet"];
        keep(&format!("section-{section}-{width}"), &look(&place, width, &words));
    }
}

#[rstest]
#[case("sheet", &["survey", "--from", "gannet.json", "--quiet"])]
#[case("compare", &["compare", "gannet.json", "gannet-after.json", "--quiet"])]
#[case("check", &["check", "gannet.json", "gannet-after.json", "--quiet"])]
#[case("check-explain", &["check", "gannet.json", "--explain", "filesystem-nearly-full", "--quiet"])]
#[case("why", &["why", "memory.modules.B1.serial", "os.build_id", "--from", "gannet.json"])]
#[case("find", &["find", "LW-77A1003", "--from", "gannet.json", "--from", "gannet-after.json"])]
fn a_command(#[case] name: &str, #[case] words: &[&str]) {
    let place = reports();
    for width in [80, 120] {
        keep(&format!("{name}-{width}"), &look(&place, width, words));
    }
    keep(&format!("{name}-plain"), &look(&place, 80, &[words, &["--plain"]].concat()));
    keep(&format!("{name}-coloured"), &look(&place, 80, &[words, &["--color", "always"]].concat()));
}

#[rstest]
#[case("sheet", &["survey", "--from", "gannet.json", "--quiet"])]
#[case("compare", &["compare", "gannet.json", "gannet-after.json", "--quiet"])]
#[case("check", &["check", "gannet.json", "gannet-after.json", "--quiet"])]
fn as_markdown(#[case] name: &str, #[case] words: &[&str]) {
    let text = look(&reports(), 80, &[words, &["--format", "markdown"]].concat());
    keep(&format!("{name}-markdown"), &text);
}

#[rstest]
#[case("history", &["history", "memory.installed", "gannet"])]
#[case("archive-list", &["archive", "list", "gannet"])]
#[case("fleet", &["fleet"])]
#[case("fleet-by", &["fleet", "--by", "firmware.version"])]
fn an_archive(#[case] name: &str, #[case] words: &[&str]) {
    let place = reports();
    let saved = place.run(&["save", "gannet.json", "gannet-after.json", "--quiet"]);
    assert_eq!(saved.status, 0, "{}", saved.err);
    for width in [80, 120] {
        keep(&format!("{name}-{width}"), &look(&place, width, words));
    }
}

/// What is alike is told together: the sheet of a machine of many parts is read on one screen.
#[test]
fn a_machine_of_many_parts_fits_a_screen() {
    let mut machine = tectum_demo::Shipped::named("fulmar").unwrap().machine().unwrap();
    let disk = machine.disks.iter().find(|disk| disk.name == "sda").unwrap().clone();
    for number in 0..24_u8 {
        let mut one = disk.clone();
        one.name =
            format!("sd{}", char::from(b'c' + number % 23)) + if number == 23 { "a" } else { "" };
        one.serial = format!("SKS4-3304{number:02}");
        one.wwn = format!("naa.5000a1b2c3d4{:04}", 6000 + u32::from(number));
        one.port = 10 + u32::from(number);
        one.partitions.clear();
        machine.disks.push(one);
    }
    let port = machine.ports.iter().find(|port| port.name == "enp23s0f1").unwrap().clone();
    for number in 0..40_u32 {
        let mut one = port.clone();
        one.name = format!("enp23s0f{}", 10 + number);
        one.mac = format!("02:5c:a7:30:00:{number:02x}");
        one.port = 10 + number;
        one.errors = 0;
        machine.ports.push(one);
    }
    let slot = machine.slots.first().unwrap().clone();
    for number in 0..16_u32 {
        let mut one = slot.clone();
        one.locator = format!("E{number}");
        one.bank = format!("CPU {} CHANNEL {}", 1 + number / 8, number % 8);
        let module = one.module.as_mut().unwrap();
        module.serial = format!("LW-79E{number:04}");
        machine.slots.push(one);
    }
    let place = Place::new();
    tectum_demo::Tree::of(&machine).write(&place.path("machine")).unwrap();
    let words = ["survey", "--from", "machine", "--quiet"];
    let text = look(&place, 120, &words);
    for part in ["24 × ", "40 × ", "7 × ", "20 modules in 24 slots"] {
        assert!(text.contains(part), "{part:?} in {text}");
    }
    let lines = text.lines().count();
    assert!(lines <= 56, "{lines} lines: {text}");
}

/// Signs, boxes and widths are a renderer's: a view has words alone.
#[test]
fn no_view_holds_a_sign() {
    let all = views();
    for path in all {
        // How far work has come is no page.
        if path.ends_with("progress.rs") {
            continue;
        }
        let text = std::fs::read_to_string(&path).unwrap();
        let sign = text.chars().find(|it| ('\u{2190}'..'\u{2c00}').contains(it));
        assert_eq!(sign, None, "{}", path.display());
    }
}
