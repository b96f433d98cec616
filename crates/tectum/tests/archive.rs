//! The archive as its users meet it: saving, naming looks, history, fleet, the odd one of many.

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
#[path = "../../tectum-archive/tests/support/server.rs"]
mod server;
mod support;

use std::{fs, os::unix::fs::PermissionsExt};

use rstest::rstest;
use saved::{dated, gannet, json};
use serde_json::Value;
use support::{Place, Ran};

#[test]
fn a_survey_is_filed_and_told() {
    let place = Place::new();
    let first = place.run(&["survey", "--save", "--from", "demo:gannet-before"]);
    assert_eq!((first.status, first.out.as_str()), (0, ""), "{}", first.err);
    assert!(first.err.contains("gannet: saved as look 1 at gannet-"), "{}", first.err);
    let changed = place.run(&["survey", "--save", "--from", "demo:gannet-after"]);
    assert!(changed.err.contains("saved as look 2") && changed.err.contains("changed"));
    let quiet = place.run(&["survey", "--save", "--quiet", "--from", "demo:gannet-after"]);
    assert_eq!((quiet.status, quiet.err.as_str()), (0, ""));
    // A look that is there is not saved twice.
    dated(&place, "demo:gannet-before", "old.json", "2026-01-01", &[]);
    let old = place.run(&["save", "old.json"]);
    assert!(old.err.contains("changed, to a state that it was seen in before"), "{}", old.err);
    let again = place.run(&["save", "old.json"]);
    assert!(again.err.contains("in the archive already, as number "), "{}", again.err);
    let mode = fs::metadata(place.path("archive")).unwrap().permissions().mode();
    assert_eq!(mode & 0o777, 0o700, "serial numbers are for its owner");
    let part = place.run(&["survey", "cpu", "--save", "--from", "demo:gannet-after"]);
    assert_eq!(part.status, 3);
    assert!(part.err.contains("only some sections were surveyed"), "{}", part.err);
}

#[test]
fn a_name_of_a_look_is_a_subject_of_every_command() {
    let place = gannet();
    let ran = place.run(&["get", "os.kernel_release", "--from", "gannet@2026-05-11"]);
    assert_eq!((ran.status, ran.out.as_str()), (0, "6.12.31-skerry\n"), "{}", ran.err);
    let ran = place.run(&["compare", "gannet@previous", "gannet", "--format", "json"]);
    let files = place.run(&["compare", "before.json", "after.json", "--format", "json"]);
    assert_eq!((ran.status, files.status), (1, 1), "{}", ran.err);
    assert_eq!(json(&ran)["changes"], json(&files)["changes"]);
    assert_eq!(json(&ran)["before"]["subject"], "gannet@previous");
    let why = place.run(&["why", "memory.modules.A1.serial", "--from", "gannet"]);
    let file = place.run(&["why", "memory.modules.A1.serial", "--from", "after.json"]);
    // How long a file took to be read is not kept.
    let from = |ran: &Ran| ran.out.lines().filter(|line| !line.contains("read: ")).count();
    assert_eq!(from(&why), from(&file), "where a value is from is kept: {}{}", why.out, why.err);
    assert!(why.out.contains("04 → string 4: LW-77A1001"), "{}", why.out);
    let gap = place.run(&["get", "gpu.devices.*.uuid", "--from", "gannet"]);
    let file = place.run(&["get", "gpu.devices.*.uuid", "--from", "after.json"]);
    assert_eq!((gap.status, &gap.err), (file.status, &file.err), "and why another is missing");
    let check = place.run(&["check", "gannet", "--format", "json"]);
    let file = place.run(&["check", "after.json", "--format", "json"]);
    // Where readings are from is not kept, and all else is.
    let odd = |ran: &Ran| -> Vec<String> {
        let all = json(ran)["findings"].as_array().unwrap().clone();
        all.iter().map(|one| format!("{} {} {}", one["rule"], one["part"], one["says"])).collect()
    };
    assert_eq!(odd(&check), odd(&file));
    assert!(odd(&check).len() > 5);
    let found = place.run(&["find", "LW-81C0044", "--from", "gannet*", "--count"]);
    assert_eq!(found.status, 0, "{}{}", found.out, found.err);
    let survey = place.run(&["survey", "--from", "gannet@previous"]);
    assert!(survey.out.contains("gannet@previous, seen 2026-05-11"), "{}", survey.out);
}

#[rstest]
#[case(&["get", "os.name", "--from", "gannet@2020-01-01"], 2, "it was looked at later only")]
#[case(&["get", "os.name", "--from", "gannet@Friday"], 2, "is no time")]
#[case(&["get", "os.name", "--from", "ganet"], 3, "the nearest is \"gannet\"")]
#[case(&["get", "os.name", "--from", "x*"], 2, "holds no machine")]
#[case(&["history", "os.nmae"], 2, "the nearest is \"os.name\"")]
#[case(&["history", "os.name", "petrel"], 2, "holds no machine \"petrel\"")]
#[case(&["history", "--part", "NONE-1"], 1, "no part that is NONE-1")]
#[case(&["fleet", "--stale", "soon"], 2, "no length of time")]
#[case(&["fleet", "--changed-since", "soon"], 2, "is no time")]
#[case(&["fleet", "--by", "nothing.there"], 2, "no report has a field")]
#[case(&["archive", "mark", "gannet", "Latest"], 2, "can be no mark")]
#[case(&["archive", "mark", "gannet", "x", "--remove"], 1, "was none")]
#[case(&["archive", "prune", "--states-too"], 2, "say what to keep")]
#[case(&["compare", "gannet"], 2, "nothing to compare")]
fn what_cannot_be_is_told(#[case] words: &[&str], #[case] status: i32, #[case] said: &str) {
    let ran = gannet().run(words);
    assert_eq!(ran.status, status, "{}{}", ran.out, ran.err);
    assert!(ran.err.contains(said), "{}", ran.err);
    assert_eq!(ran.err.lines().count(), 1, "{}", ran.err);
}

#[test]
fn without_an_archive_the_way_to_one_is_told() {
    let place = Place::new();
    for words in [&["fleet"][..], &["archive", "list"], &["get", "os.name", "--from", "gannet"]] {
        let ran = place.run(words);
        assert_eq!(ran.status, 3, "{words:?}");
        assert!(ran.err.contains("tectum survey --save"), "{words:?}: {}", ran.err);
    }
    assert!(!place.path("archive").exists(), "asking makes none");
}

#[test]
fn history_tells_since_when() {
    let place = gannet();
    let ran = place.run(&["history", "memory.modules.*.serial", "gannet"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let at = |text: &str| ran.out.find(text).unwrap_or_else(|| panic!("{text:?} in {}", ran.out));
    assert!(at("2026-05-11 to 2026-05-11") > 0 && at("since 2026-05-12, seen last 2026-05-12") > 0);
    let all = json(&place.run(&["history", "memory.modules", "gannet", "--format", "json"]));
    let values = all[0]["values"].as_array().unwrap();
    assert!(!values.is_empty());
    let changed = |one: &Value| {
        let spans = one["spans"].as_array().unwrap();
        spans.len() > 1 || !spans[0]["otherwise_since"].is_null()
    };
    assert!(values.iter().all(changed), "of a whole part only what changed: {values:?}");
    // A module that was in one slot before and is in none after.
    let before =
        json(&place.run(&["get", "memory.modules.*.serial", "--json", "--from", "before.json"]));
    let after = place.run(&["get", "memory.modules.*.serial", "--from", "after.json"]).out;
    let serials = before.as_array().unwrap().iter().filter_map(|row| row["serial"].as_str());
    let gone = serials.into_iter().find(|serial| !after.contains(*serial)).unwrap().to_owned();
    let way = place.run(&["history", "--part", &gone]);
    assert!(way.out.contains("seen nowhere since 2026-05-12"), "{}", way.out);
    let nothing = place.run(&["history", "gpu.devices.*.uuid"]);
    assert_eq!(nothing.status, 1);
    assert!(nothing.err.contains("saw a value there"), "{}", nothing.err);
    let numbers = place.run(&["history", "readings.memory.available_bytes"]);
    assert!(numbers.out.contains("2 looks") && numbers.out.contains("GiB"), "{}", numbers.out);
}

#[test]
fn a_fleet_has_a_row_a_machine() {
    let place = gannet();
    dated(
        &place,
        "demo:gannet-before",
        "petrel.json",
        "2026-05-12",
        &[
            ("gannet", "petrel"),
            ("MS-F2240-00731", "MS-F2240-00732"),
            ("5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c33", "5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c34"),
        ],
    );
    place.run(&["save", "petrel.json"]);
    let fleet = json(&place.run(&["fleet", "--format", "json"]));
    let hosts: Vec<&str> =
        fleet.as_array().unwrap().iter().map(|row| row["host"].as_str().unwrap()).collect();
    assert_eq!(hosts, ["gannet", "petrel"]);
    assert_eq!(fleet[0]["observations"], 2);
    assert_eq!(fleet[0]["stale"], true);
    let by = json(&place.run(&["fleet", "--by", "os.kernel_release", "--format", "json"]));
    assert_eq!(by[0]["machines"], serde_json::json!(["gannet", "petrel"]));
    let csv = place.run(&["fleet", "--format", "csv", "--sort", "memory"]).out;
    let lines: Vec<&str> = csv.lines().collect();
    assert!(
        lines[0].starts_with("host,machine,system_uuid") && lines[1].starts_with("gannet,"),
        "{csv}"
    );
    let text = place.run(&["fleet", "pet*"]).out;
    assert!(text.contains("petrel") && !text.contains("gannet"), "{text}");
    let changed = place.run(&["fleet", "--changed-since", "2026-05-11", "--format", "csv"]).out;
    assert_eq!(changed.lines().count(), 3, "{changed}");
    let changed = place.run(&["fleet", "--changed-since", "2026-05-12", "--format", "csv"]).out;
    assert_eq!(changed.lines().count(), 1, "{changed}");
    let long = place.run(&["fleet", "--stale", "900y", "--format", "csv"]).out;
    assert_eq!(long.lines().count(), 1, "{long}");
}

#[test]
fn of_many_the_odd_one_is_named() {
    let place = Place::new();
    for number in 1..=5 {
        let firmware = if number == 3 { "2.1.0" } else { "2.4.0" };
        let version = place.run(&["get", "firmware.version", "--from", "demo:gannet-before"]).out;
        dated(
            &place,
            "demo:gannet-before",
            "one.json",
            "2026-05-12",
            &[
                ("gannet", &format!("tide-{number}")),
                ("MS-F2240-00731", &format!("MS-F2240-0080{number}")),
                ("0e6a2d9f1c33", &format!("0e6a2d9f1c8{number}")),
                (version.trim(), firmware),
            ],
        );
        assert_eq!(place.run(&["save", "one.json"]).status, 0);
    }
    let ran = place.run(&["compare", "tide-*"]);
    assert_eq!(ran.status, 1, "{}{}", ran.out, ran.err);
    assert!(ran.out.contains("tide-3") && ran.out.contains("4 of 5 have"), "{}", ran.out);
    let groups = json(&place.run(&["compare", "tide-*", "--format", "json"]));
    assert_eq!(groups.as_array().unwrap().len(), 1);
    assert_eq!(groups[0]["odd"][0]["machines"], serde_json::json!(["tide-3"]));
    let value = &groups[0]["odd"][0]["values"][0];
    assert_eq!((&value["path"], &value["common"]), (&"firmware.version".into(), &"2.4.0".into()));
    let same = place.run(&["compare", "tide-1", "tide-2", "tide-4"]);
    assert_eq!(same.status, 0, "{}", same.out);
    assert!(same.out.contains("nothing that was held against each other differs"), "{}", same.out);
}

/// A night on which nobody could see the modules is no night without modules.
#[test]
fn what_a_look_could_not_see_is_not_gone() {
    let place = Place::new();
    for (day, tables) in [("2026-05-11", true), ("2026-05-12", false), ("2026-05-13", true)] {
        let other = Place::with_changed("gannet-before", |tree| {
            if !tables {
                tree.remove("sys/firmware/dmi");
            }
        });
        let machine = other.path("machine").display().to_string();
        dated(&place, &machine, "one.json", day, &[]);
        assert_eq!(place.run(&["save", "one.json"]).status, 0);
    }
    let ran = place.run(&["history", "memory.modules.A1.serial"]);
    let span = "LW-77A1001  since 2026-05-11, seen last 2026-05-13, 2 looks";
    assert!(ran.out.contains(span), "{}{}", ran.out, ran.err);
    let all = place.run(&["history", "memory.modules"]);
    assert!(all.err.contains("nothing there was ever otherwise"), "{}{}", all.out, all.err);
    let part = place.run(&["history", "--part", "LW-77A1001"]);
    assert!(part.out.contains("since 2026-05-11, seen last 2026-05-13"), "{}", part.out);
    assert!(!part.out.contains("not there since"), "{}", part.out);
    // Of a fleet it is told who tells nothing, and who has nothing there.
    dated(
        &place,
        "demo:gannet-before",
        "two.json",
        "2026-05-13",
        &[
            ("gannet", "petrel"),
            ("MS-F2240-00731", "MS-F2240-00732"),
            ("0e6a2d9f1c33", "0e6a2d9f1c34"),
        ],
    );
    assert_eq!(place.run(&["save", "two.json"]).status, 0);
    let by = |path: &str| json(&place.run(&["fleet", "--by", path, "--format", "json"]));
    let none = by("storage.optical_drives.*.model");
    assert_eq!((&none[0]["values"], &none[0]["not_told"]), (&serde_json::json!([]), &0.into()));
    let text = place.run(&["fleet", "--by", "storage.optical_drives.*.model"]).out;
    assert!(text.contains("0 values in 2 machines") && text.contains("none there"), "{text}");
    let serials = by("gpu.devices.*.serial");
    assert_ne!(serials[0]["not_told"], 0, "{serials}");
    let text = place.run(&["fleet", "--by", "gpu.devices.*.serial"]).out;
    assert!(text.contains("not told"), "{text}");
}

/// Five machines, of which the third has a disk that is a sector larger, which no rounded size shows.
fn a_sector_larger() -> Place {
    let place = Place::new();
    for number in 1..=5 {
        let host = format!("tide-{number}");
        let serial = format!("MS-F2240-0080{number}");
        let uuid = format!("0e6a2d9f1c8{number}");
        let mut with =
            vec![("gannet", host.as_str()), ("MS-F2240-00731", &serial), ("0e6a2d9f1c33", &uuid)];
        if number == 3 {
            with.push(("\"size_bytes\":960197124096", "\"size_bytes\":960197124608"));
        }
        dated(&place, "demo:gannet-before", "one.json", "2026-05-12", &with);
        assert_eq!(place.run(&["save", "one.json"]).status, 0);
    }
    place
}

#[test]
fn what_reads_the_same_and_is_not_is_told_to_the_last_digit() {
    let place = a_sector_larger();
    let path = "storage.disks.nvme0n1.size";
    let by = place.run(&["fleet", "--by", path]);
    for said in ["2 values in 5 machines", "(exactly 960197124096)", "(exactly 960197124608)"] {
        assert!(by.out.contains(said), "{said}: {}", by.out);
    }
    let having = json(&place.run(&["fleet", "--by", path, "--format", "json"]));
    assert_eq!(having[0]["values"], serde_json::json!([960_197_124_096_u64]));
    assert_eq!(having[1]["machines"], serde_json::json!(["tide-3"]));
    let csv = place.run(&["fleet", "--by", path, "--format", "csv"]).out;
    assert!(csv.contains("tide-3,960197124608,0\r\n"), "{csv}");
    let many = place.run(&["compare", "tide-*"]);
    assert_eq!(many.status, 1, "{}", many.out);
    assert!(many.out.contains("(exactly 960197124608)"), "{}", many.out);
    let two = place.run(&["compare", "tide-2", "tide-3", "--only", "storage"]);
    assert!(two.out.contains("(exactly 960197124096) → "), "{}", two.out);
    // The machine as it is, and with a smaller disk a day later.
    let with = [
        ("gannet", "tide-3"),
        ("MS-F2240-00731", "MS-F2240-00803"),
        ("0e6a2d9f1c33", "0e6a2d9f1c83"),
    ];
    dated(&place, "demo:gannet-before", "one.json", "2026-05-13", &with);
    assert_eq!(place.run(&["save", "one.json"]).status, 0);
    let ran = place.run(&["history", path, "tide-3"]);
    for said in
        ["(exactly 960197124608)  2026-05-12 to", "(exactly 960197124096)  since 2026-05-13"]
    {
        assert!(ran.out.contains(said), "{said}: {}", ran.out);
    }
    let told = json(&place.run(&["history", path, "tide-3", "--format", "json"]));
    let spans = told[0]["values"][0]["spans"].as_array().unwrap();
    let sizes: Vec<u64> = spans.iter().map(|span| span["value"].as_u64().unwrap()).collect();
    assert_eq!(sizes, [960_197_124_608, 960_197_124_096]);
}

#[rstest]
#[case("iec", "894.3 GiB")]
#[case("si", "960.2 GB")]
#[case("exact", "960197124096 bytes")]
fn units_are_those_that_are_asked_for(#[case] units: &str, #[case] size: &str) {
    let place = gannet();
    let path = "storage.disks.nvme0n1.size";
    for words in [&["history", path][..], &["fleet", "--by", path]] {
        let ran = place.run(&[words, &["--units", units]].concat());
        assert!(ran.out.contains(size), "{words:?}: {}", ran.out);
    }
    dated(&place, "demo:gannet-before", "petrel.json", "2026-05-12", &[("gannet", "petrel")]);
    let alike = ["compare", "before.json", "after.json", "petrel.json", "--alike", path];
    let ran = place.run(&[&alike[..], &["--units", units]].concat());
    assert!(ran.out.contains(size), "{}", ran.out);
    let fleet = place.run(&["fleet", "--units", units]).out;
    assert_eq!(fleet.contains("3: 13 TB"), units != "exact", "{fleet}");
}

#[test]
fn a_group_of_machines_is_named_in_settings() {
    let place = Place::new();
    for (number, host) in [(1, "tide-1"), (2, "tide-2"), (3, "reef-1")] {
        let product = if number == 2 { "Lugworm 9" } else { "Fathom 2240" };
        dated(
            &place,
            "demo:gannet-before",
            "one.json",
            "2026-05-12",
            &[
                ("gannet", host),
                ("MS-F2240-00731", &format!("MS-F2240-0080{number}")),
                ("0e6a2d9f1c33", &format!("0e6a2d9f1c8{number}")),
                ("\"product\":\"Fathom 2240\"", &format!("\"product\":\"{product}\"")),
            ],
        );
        assert_eq!(place.run(&["save", "one.json"]).status, 0);
    }
    let text = "[groups.tide]\nhosts = ['tide-*']\n[groups.fathoms]\nwhere = { path = 'platform.system.product', equals = 'Fathom 2240' }\n";
    fs::write(place.path("own.toml"), text).unwrap();
    let hosts = |words: &[&str]| {
        let ran = place.run(&[&["--settings", "own.toml"], words].concat());
        assert_eq!(ran.status, 0, "{}", ran.err);
        let lines = ran.out.lines().map(|line| line.split(['\t', ',']).next().unwrap().to_owned());
        lines.collect::<Vec<_>>()
    };
    assert_eq!(hosts(&["get", "os.name", "--from", "@tide"]), ["tide-1", "tide-2"]);
    assert_eq!(hosts(&["get", "os.name", "--from", "@tide@2026-05-12"]), ["tide-1", "tide-2"]);
    assert_eq!(hosts(&["fleet", "@fathoms", "--format", "csv"]), ["host", "reef-1", "tide-1"]);
    let both = hosts(&["fleet", "@fathoms", "tide-2", "--format", "csv"]);
    assert_eq!(both, ["host", "reef-1", "tide-1", "tide-2"]);
    // Expectations may name them too.
    let expect = "[[expect]]\nname = 'kernel'\nselect = 'os.kernel_release'\nequals = '7'\ngroups = ['tide']\n";
    fs::write(place.path("expect.toml"), expect).unwrap();
    let words = [
        "--settings",
        "own.toml",
        "check",
        "*",
        "--expect",
        "expect.toml",
        "--without-rules",
        "--format",
        "json",
    ];
    let checked = json(&place.run(&words));
    assert_eq!(checked["findings"][0]["machines"], serde_json::json!(["tide-1", "tide-2"]));
    let wrong = place.run(&["--settings", "own.toml", "fleet", "@tid"]);
    assert_eq!(wrong.status, 2);
    assert!(wrong.err.contains("did you mean \"tide\"?"), "{}", wrong.err);
    let told = place.run(&["--settings", "own.toml", "settings"]).out;
    assert!(told.contains("groups.tide") && told.contains("tide-*"), "{told}");
}

#[test]
fn marks_name_looks_and_clearing_up_keeps_them() {
    let place = gannet();
    for day in 13..=25 {
        dated(&place, "demo:gannet-after", "day.json", &format!("2026-05-{day}"), &[]);
        place.run(&["save", "day.json", "--quiet"]);
    }
    let mark = place.run(&["archive", "mark", "gannet@2026-05-20", "accepted"]);
    assert!(
        mark.err.contains("the look of 2026-05-20 03:00 UTC is marked accepted"),
        "{}",
        mark.err
    );
    let at = place.run(&["survey", "--from", "gannet@accepted"]).out;
    assert!(at.contains("gannet@accepted, seen 2026-05-20"), "{at}");
    let would = place.run(&["archive", "prune", "--days", "3"]);
    assert!(would.err.contains("9 looks would be removed; --yes does it"), "{}", would.err);
    let looks = |place: &Place| {
        let all = json(&place.run(&["archive", "list", "gannet", "--format", "json"]));
        all[0]["observations"].as_array().unwrap().len()
    };
    assert_eq!(looks(&place), 15);
    let done = place.run(&["archive", "prune", "--days", "3", "--yes"]);
    assert!(done.err.contains("removed 9 looks"), "{}", done.err);
    assert_eq!(looks(&place), 6);
    let list = place.run(&["archive", "list", "gannet"]).out;
    assert!(list.contains("accepted") && list.contains("first seen"), "{list}");
    let whole = place.run(&["archive", "verify"]);
    assert_eq!(whole.status, 0, "{}", whole.out);
    let copied = place.run(&["archive", "copy", "archive", "other"]);
    assert!(copied.err.contains("copied 6 looks at 1 machine"), "{}", copied.err);
    let there = place.run(&["--archive", "other", "archive", "list", "gannet"]);
    assert_eq!(there.out, list);
}

#[test]
fn a_database_holds_what_a_folder_does() {
    let Some(server) = server::server() else { return };
    let url = server.database();
    let place = gannet();
    let copied = place.run(&["archive", "copy", "archive", &url]);
    assert!(copied.err.contains("copied 2 looks at 1 machine"), "{}", copied.err);
    let both = |words: &[&str]| {
        let folder = place.run(words);
        let database = place.run(&[&["--archive", &url], words].concat());
        assert_eq!(
            (folder.status, &folder.out),
            (database.status, &database.out),
            "{words:?}: {}",
            database.err
        );
    };
    both(&["compare", "gannet@previous", "gannet"]);
    both(&["history", "memory.modules.*.serial"]);
    both(&["history", "--part", "LW-81C0044"]);
    both(&["fleet"]);
    both(&["fleet", "--by", "os.kernel_release", "--format", "json"]);
    both(&["archive", "list", "gannet"]);
    both(&["get", "storage.disks.*.{model,serial}", "--from", "gannet@2026-05-11"]);
    let saved = place.run(&["--archive", &url, "survey", "--save", "--from", "demo:gannet-after"]);
    assert!(
        saved.err.contains("saved as look 3") && saved.err.contains("unchanged"),
        "{}",
        saved.err
    );
    let whole = place.run(&["--archive", &url, "archive", "verify"]);
    assert_eq!(whole.status, 0, "{}", whole.out);
    let wrong = place.run(&["--archive", "mysql://x:secret@y/z", "fleet"]);
    assert_eq!(wrong.status, 3);
    assert!(wrong.err.contains("postgres://") && !wrong.err.contains("secret"), "{}", wrong.err);
}
