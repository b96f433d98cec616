//! What no accident may do to an archive: damage, a disk that is full or read-only, many who read and save at once, savers
//! that are killed.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stderr,
    dead_code,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/saved.rs"]
mod saved;
mod support;

use std::{
    fs,
    os::unix::{fs::PermissionsExt, process::CommandExt},
    path::Path,
    process::{Command, Stdio},
    time::{Duration, Instant},
};

use rstest::rstest;
use saved::{dated, gannet, json};
use serde_json::Value;
use support::Place;

#[test]
fn damage_is_told_by_the_status() {
    let place = gannet();
    let machines = place.path("archive/machines");
    let machine = fs::read_dir(machines).unwrap().next().unwrap().unwrap().path();
    let mut looks: Vec<_> =
        fs::read_dir(machine.join("looks")).unwrap().map(|entry| entry.unwrap().path()).collect();
    looks.sort();
    let mut bytes = fs::read(&looks[1]).unwrap();
    bytes.truncate(bytes.len() / 2);
    fs::write(&looks[1], bytes).unwrap();
    let ran = place.run(&["archive", "verify"]);
    assert_eq!(ran.status, 1, "{}", ran.out);
    assert!(ran.out.contains("damaged") && ran.out.contains("looks/00000002-"), "{}", ran.out);
    let told = json(&place.run(&["archive", "verify", "--format", "json"]));
    assert_eq!(told["problems"][0]["is_damage"], true);
    // The other look is there all the same.
    let one = ["gannet", "gannet@previous"]
        .map(|name| place.run(&["get", "os.name", "--from", name]).status);
    assert!(one.contains(&0) && one.contains(&3), "{one:?}");
}

#[test]
fn an_archive_that_cannot_be_written_can_be_read() {
    let place = gannet();
    // Root may write anywhere, and so the program runs as nobody.
    let root = rustix::process::geteuid().is_root();
    let program = place.path("tectum");
    fs::copy(assert_cmd::cargo::cargo_bin("tectum"), &program).unwrap();
    fs::set_permissions(&program, fs::Permissions::from_mode(0o755)).unwrap();
    set_modes(place.root(), 0o555, 0o444);
    fs::set_permissions(&program, fs::Permissions::from_mode(0o755)).unwrap();
    let run = |words: &[&str]| {
        let mut command = Command::new(&program);
        command.current_dir(place.root()).env_clear().args(["--archive", "archive"]).args(words);
        if root {
            command.uid(65_534).gid(65_534);
        }
        command.output().unwrap()
    };
    let read = run(&["get", "os.kernel_release", "--from", "gannet@previous"]);
    let refused = run(&["save", "before.json"]);
    set_modes(place.root(), 0o755, 0o644);
    assert_eq!(String::from_utf8_lossy(&read.stdout), "6.12.31-skerry\n", "{read:?}");
    assert_eq!(refused.status.code(), Some(3), "{refused:?}");
    let said = String::from_utf8_lossy(&refused.stderr).into_owned();
    assert!(said.contains("archive/lock") && said.contains("Permission denied"), "{said}");
    let whole = place.run(&["archive", "verify"]);
    assert_eq!(whole.status, 0, "{}", whole.out);
}

fn set_modes(path: &Path, folder: u32, file: u32) {
    fs::set_permissions(path, fs::Permissions::from_mode(0o755)).unwrap();
    for entry in fs::read_dir(path).unwrap() {
        let path = entry.unwrap().path();
        match path.is_dir() {
            true => set_modes(&path, folder, file),
            false => fs::set_permissions(path, fs::Permissions::from_mode(file)).unwrap(),
        }
    }
    fs::set_permissions(path, fs::Permissions::from_mode(folder)).unwrap();
}

/// Whoever reads brings the index up to date, and others read and save meanwhile.
#[rstest]
#[case::with_an_index(false)]
#[case::without_one(true)]
fn twenty_processes_that_read_at_once_are_all_answered(#[case] lost: bool) {
    for _ in 0..2 {
        let place = Place::new();
        for number in 1..=3 {
            let host = format!("tide-{number}");
            let with = [
                ("gannet", host.as_str()),
                ("MS-F2240-00731", &format!("MS-F2240-0080{number}")),
                ("0e6a2d9f1c33", &format!("0e6a2d9f1c8{number}")),
            ];
            dated(&place, "demo:gannet-before", "one.json", "2026-05-12", &with);
            assert_eq!(place.run(&["save", "one.json", "--quiet"]).status, 0);
        }
        let index = place.path("archive/index.sqlite");
        if lost {
            fs::remove_file(&index).unwrap();
        }
        let begun = (0..20).map(|number| {
            let words: &[&str] = match number % 5 {
                0 => &["save", "one.json", "--quiet"],
                1 => &["fleet", "--format", "csv"],
                _ => &["get", "machine.hostname", "--from", "tide-2"],
            };
            let program = env!("CARGO_BIN_EXE_tectum");
            let mut command = Command::new(program);
            command.current_dir(place.root()).env_clear().args(words);
            command.env("TECTUM_ARCHIVE_LOCATION", place.path("archive")).env("TZ", "UTC");
            command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap()
        });
        let begun: Vec<_> = begun.collect();
        for (number, process) in begun.into_iter().enumerate() {
            let ended = process.wait_with_output().unwrap();
            let said = String::from_utf8_lossy(&ended.stderr);
            assert_eq!((ended.status.code(), &*said), (Some(0), ""), "{number}");
            let out = String::from_utf8_lossy(&ended.stdout);
            match number % 5 {
                0 => {}
                1 => assert_eq!(out.lines().count(), 4, "{out}"),
                _ => assert_eq!(out, "tide-2\n"),
            }
        }
        assert!(index.is_file(), "and the index is there for the next one");
    }
}

#[test]
fn twenty_processes_that_save_at_once_lose_nothing() {
    let place = Place::new();
    for number in 0..20 {
        let day = format!("2026-05-{:02}", number + 1);
        dated(&place, "demo:gannet-before", &format!("{number}.json"), &day, &[]);
    }
    let running: Vec<_> =
        (0..20).map(|number| saver(&place, &format!("{number}.json")).spawn().unwrap()).collect();
    for one in running {
        let ended = one.wait_with_output().unwrap();
        assert!(ended.status.success(), "{}", String::from_utf8_lossy(&ended.stderr));
    }
    let all = json(&place.run(&["archive", "list", "gannet", "--format", "json"]));
    assert_eq!(all[0]["observations"].as_array().unwrap().len(), 20);
    let whole = place.run(&["archive", "verify"]);
    assert_eq!(whole.status, 0, "{}", whole.out);
    assert!(whole.out.contains("20 looks, 1 state"), "{}", whole.out);
}

/// The program, filing a report.
fn saver(place: &Place, file: &str) -> Command {
    let mut command = Command::new(assert_cmd::cargo::cargo_bin("tectum"));
    command
        .current_dir(place.root())
        .env_clear()
        .args(["--archive", "archive", "save", file])
        .stdout(Stdio::null())
        .stderr(Stdio::piped());
    command
}

/// So many savers are killed in one archive: what looks through all of it takes as long as there is in it.
const KILLS_IN_ONE: u32 = 50;

/// Savers are killed at moments that no plan chose: what one of them acknowledged is there, and the archive is
/// whole.
fn kills(many: u32) {
    let mut seed: u32 = 0x2026_1126;
    // How long a saver takes that nobody kills, as far as is known.
    let mut longest = Duration::ZERO;
    let mut saved = 0;
    for first in (0..many).step_by(KILLS_IN_ONE as usize) {
        let place = Place::new();
        dated(&place, "demo:gannet-before", "base.json", "2026-01-01", &[]);
        let text = fs::read_to_string(place.path("base.json")).unwrap();
        let mut known = 0;
        for number in first..many.min(first + KILLS_IN_ONE) {
            let day = format!(
                "20{:02}-{:02}-{:02}",
                20 + number / 300,
                1 + number / 28 % 12,
                1 + number % 28
            );
            let mut report: Value = serde_json::from_str(&text).unwrap();
            report["taken"]["at"] = format!("{day}T03:00:00Z").into();
            // Every other look is at a state that is known.
            report["inventory"]["os"]["kernel_release"] =
                format!("6.12.{}-skerry", number / 2).into();
            fs::write(place.path("next.json"), report.to_string()).unwrap();
            let begun = Instant::now();
            let mut running = saver(&place, "next.json").spawn().unwrap();
            // Any moment of the time that saving takes, by a plain generator of numbers.
            seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            if number > 0 {
                let most = u64::try_from(longest.as_micros()).unwrap() * 3 / 2;
                let moment = begun + Duration::from_micros(u64::from(seed >> 8) % most);
                while Instant::now() < moment && running.try_wait().unwrap().is_none() {
                    std::thread::sleep(Duration::from_millis(1));
                }
                let _ = running.kill();
            }
            let ended = running.wait_with_output().unwrap();
            if ended.status.success() {
                longest = longest.max(begun.elapsed());
            }
            let acknowledged = String::from_utf8_lossy(&ended.stderr).contains("saved as look");
            known = whole_after(&place, number, known, acknowledged);
        }
        saved += known;
    }
    assert!(saved < usize::try_from(many).unwrap(), "no saver was ever killed in time");
}

/// How many looks there are after a saver was killed; that they are those before it and its own, if it was
/// acknowledged, and whole.
fn whole_after(place: &Place, number: u32, known: usize, acknowledged: bool) -> usize {
    let list = place.run(&["archive", "list", "gannet", "--format", "json"]);
    let looks = match list.status {
        0 => json(&list)[0]["observations"].as_array().unwrap().len(),
        // Killed before there was anything.
        _ => 0,
    };
    let is = looks == known + 1 || (looks == known && !acknowledged);
    assert!(is, "{number}: {looks} after {known}");
    if looks > 0 {
        let whole = place.run(&["archive", "verify"]);
        assert_eq!(whole.status, 0, "{number}: {}", whole.out);
    }
    looks
}

#[test]
fn savers_that_are_killed_leave_a_whole_archive() {
    kills(50);
}

#[test]
#[ignore = "slow: a thousand kills"]
fn a_thousand_savers_that_are_killed_leave_a_whole_archive() {
    kills(1000);
}

#[test]
fn a_full_disk_is_told_and_loses_nothing() {
    let place = gannet();
    dated(
        &place,
        "demo:gannet-after",
        "next.json",
        "2026-06-01",
        &[("6.12.31-skerry", "6.12.32-skerry")],
    );
    let before = place.run(&["archive", "list", "gannet"]).out;
    // No file may grow: as on a full disk, writing fails.
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let script =
        format!("ulimit -f 8; exec {} --archive archive save next.json", program.display());
    let ran = Command::new("/bin/sh")
        .args(["-c", &format!("trap '' XFSZ; {script}")])
        .current_dir(place.root())
        .env_clear()
        .output()
        .unwrap();
    assert_eq!(ran.status.code(), Some(3), "{ran:?}");
    let said = String::from_utf8_lossy(&ran.stderr).into_owned();
    assert!(said.contains("cannot write"), "{said}");
    assert_eq!(place.run(&["archive", "list", "gannet"]).out, before);
    let whole = place.run(&["archive", "verify"]);
    assert_eq!(whole.status, 0, "{}", whole.out);
    assert_eq!(place.run(&["save", "next.json"]).status, 0);
}
