//! `get`, `find` and the list of what there is to ask for, as their users run them.

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
use serde_json::{Value, json};
use support::{Place, Ran};

const GANNET: &str = "demo:gannet-before";
const AFTER: &str = "demo:gannet-after";

fn get(words: &[&str]) -> Ran {
    Place::new().run(&[&["get"], words].concat())
}

#[rstest]
#[case("memory.modules.A1.size", "34359738368\n")]
#[case("memory.modules.A1.size_bytes", "34359738368\n")]
#[case("/inventory/memory/modules/0/serial", "LW-77A1001\n")]
#[case("storage.disks[rotating=yes, size>=4TB].serial", "SKS4-220417\nSKS4-220418\n")]
#[case("storage.disks[rotating=no].name", "nvme0n1\n")]
#[case("storage.disks.*[model~\"*archive*\"].name", "sda\nsdb\n")]
#[case("storage.disks[size<1kB].name", "")]
#[case("storage.disks.sda.{serial,rotating}", "SKS4-220417\tyes\n")]
#[case("$.inventory.storage.disks[?@.rotating == true].name", "sda\nsdb\n")]
#[case("$.inventory.cpu.vendor", "TarnSilicon\n")]
fn values_are_bare_and_exact(#[case] path: &str, #[case] expected: &str) {
    let ran = get(&[path, "--from", GANNET]);
    assert_eq!((ran.out.as_str(), ran.status), (expected, 0), "{}", ran.err);
    assert_eq!(ran.err, "");
}

#[test]
fn each_value_has_a_line_whatever_part_it_is_of() {
    let ran = get(&["**.serial", "--from", GANNET]);
    assert!(ran.out.lines().count() > 10, "{}", ran.out);
    assert!(!ran.out.contains('\t'), "{}", ran.out);
    let ran = get(&["machine.hostname", "cpu.cores", "--from", GANNET]);
    assert_eq!(ran.out, "gannet\n8\n");
    let ran = get(&["cpu.per_package.1.cpus", "--from", GANNET]);
    assert_eq!(ran.out.lines().count(), 8, "each of a list: {}", ran.out);
}

#[test]
fn units_are_written_where_they_are_asked_for() {
    let ran = get(&["memory.modules.A1.size", "--units", "iec", "--from", GANNET]);
    assert_eq!(ran.out, "32 GiB\n");
}

#[test]
fn a_gap_is_told_on_standard_error_and_by_the_status() {
    let ran = get(&["gpu.devices.*.serial", "--from", GANNET]);
    assert_eq!((ran.out.as_str(), ran.status), ("", 1));
    assert!(ran.err.contains("gpu.devices.0.serial: not given by this machine"), "{}", ran.err);
    let ran = get(&["gpu.devices.*.serial", "--null", "-", "--from", GANNET]);
    assert_eq!(ran.out, "-\n-\n");
}

#[test]
fn many_gaps_are_counted_and_each_is_told_once() {
    let ran = get(&["$..*..*", "--from", GANNET]);
    assert_eq!(ran.err.lines().count(), 21, "{}", ran.err);
    assert!(ran.err.contains("more values are missing"), "{}", ran.err);
}

/// A machine whose firmware gives no table: which modules and boards it has nobody knows.
fn without_tables() -> Place {
    Place::with_changed("gannet-before", |tree| {
        for file in ["tables/DMI", "tables/smbios_entry_point"] {
            tree.remove(&format!("sys/firmware/dmi/{file}"));
        }
    })
}

#[rstest]
#[case("memory.modules.*.serial")]
#[case("memory.modules.A1.serial")]
#[case("memory.modules[size>=16GiB].{slot,serial}")]
#[case("memory.modules")]
#[case("/inventory/memory/modules/0/serial")]
#[case("$.inventory.memory.modules[*].serial")]
#[case("$.inventory.memory.modules[?@.size_bytes > 1].slot")]
fn parts_of_which_nobody_knows_are_a_gap(#[case] path: &str) {
    let place = without_tables();
    for words in [&["get", path][..], &["get", path, "--csv"], &["get", path, "--json"]] {
        let ran = place.run(&[words, &["--from", "machine"]].concat());
        assert_eq!(ran.status, 1, "{words:?}: {}{}", ran.out, ran.err);
        assert!(
            ran.err.starts_with("tectum: memory.modules: not given by this machine"),
            "{}",
            ran.err
        );
        assert!(!ran.out.contains("LW-"), "{}", ran.out);
    }
    let saved = place.run(&["survey", "--from", "machine", "--out", "saved.json", "--quiet"]);
    assert_eq!(saved.status, 0, "{}", saved.err);
    let ran = place.run(&["get", path, "--from", "saved.json"]);
    assert_eq!((ran.out.as_str(), ran.status), ("", 1));
    assert!(ran.err.contains("memory.modules: not given by this machine"), "{}", ran.err);
}

#[test]
fn why_tells_of_the_list_that_hides_what_was_asked_for() {
    let place = without_tables();
    let ran = place.run(&["why", "memory.modules.A1.serial", "--from", "machine"]);
    for said in ["/inventory/memory/modules", "/sys/firmware/dmi/tables/DMI: not found", "help"] {
        assert!(ran.out.contains(said), "{said}: {}{}", ran.out, ran.err);
    }
    let json =
        place.run(&["why", "memory.modules.*.serial", "--format", "json", "--from", "machine"]);
    let json: Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(json["/inventory/memory/modules"]["why"], "not-provided");
    let whole = place.run(&["why", "memory.modules", "--from", "machine"]).out;
    assert!(whole.contains("1 value is missing for 1 reason"), "{whole}");
    let fields = place.run(&["sections", "--fields", "memory.modules.*.size", "--from", "machine"]);
    assert!(fields.out.contains("missing here: not given by this machine"), "{}", fields.out);
}

#[test]
fn a_section_that_was_not_surveyed_is_no_machine_without_it() {
    let place = Place::new();
    place.run(&["survey", "cpu", "--from", GANNET, "--out", "cpu.json", "--quiet"]);
    for path in ["memory.modules.*.serial", "$.inventory.memory.modules[*].serial"] {
        let ran = place.run(&["get", path, "--from", "cpu.json"]);
        assert_eq!((ran.out.as_str(), ran.status), ("", 1), "{path}");
        assert_eq!(ran.err, "tectum: memory: not known, as this section was not surveyed\n");
    }
    let why = place.run(&["why", "memory.modules.*.serial", "--from", "cpu.json"]);
    assert!(why.err.contains("memory: not known, as this section was not surveyed"), "{}", why.err);
    // One that was begun and is not there says why.
    let path = place.path("cpu.json");
    let text = std::fs::read_to_string(&path).unwrap();
    let note = r#""notes": [{"code": "section-unfinished", "section": "memory"}]"#;
    std::fs::write(&path, text.replace(r#""notes": []"#, note)).unwrap();
    let ran = place.run(&["get", "memory.modules.*.serial", "--from", "cpu.json"]);
    assert_eq!(ran.status, 1);
    assert!(ran.err.contains("memory: not known: section memory was not whole"), "{}", ran.err);
    let known = place.run(&["get", "cpu.cores", "--from", "cpu.json"]);
    assert_eq!((known.out.as_str(), known.status), ("8\n", 0), "{}", known.err);
}

#[rstest]
#[case("memory.modules.*.size")]
#[case("memory.modules.A1.size_bytes")]
#[case("readings.memory.available")]
#[case("memory.available")]
fn what_there_is_to_ask_for_is_found_by_every_spelling(#[case] path: &str) {
    let ran = Place::new().run(&["sections", "--fields", path, "--from", GANNET]);
    let fields = ran.out.lines().filter(|line| line.contains("_bytes")).count();
    assert_eq!(fields, 1, "{}", ran.out);
}

#[test]
fn a_part_that_is_not_there_is_no_error() {
    let ran = get(&["storage.disks.sdz.serial", "--from", GANNET]);
    assert_eq!((ran.out.as_str(), ran.err.as_str(), ran.status), ("", "", 0));
}

#[rstest]
#[case("memory.modulse", "the nearest is \"memory.modules\"")]
#[case("memory.modules.*.sise", "the nearest is \"memory.modules.*.size\"")]
#[case("memory.modules.*.SERIAL", "the nearest is \"memory.modules.*.serial\"")]
#[case("storage.disks[sise>1].name", "has no field \"sise\"")]
#[case("$.a[", "is no path")]
fn what_no_report_can_have_is_wrong_usage(#[case] path: &str, #[case] said: &str) {
    let ran = get(&[path, "--from", GANNET]);
    assert_eq!((ran.out.as_str(), ran.status), ("", 2));
    assert!(ran.err.contains(said), "{}", ran.err);
    assert!(ran.err.lines().count() == 1, "one line, not a list: {}", ran.err);
}

#[test]
fn rows_of_several_machines_say_whose_they_are() {
    let ran = get(&["machine.hostname", "--from", GANNET, "--from", AFTER]);
    assert_eq!(ran.out, "gannet\tgannet\ngannet (demo:gannet-after)\tgannet\n");
    let path = "storage.disks[rotating=yes].{name,serial,size}";
    let ran = get(&[path, "--csv", "--from", GANNET, "--from", AFTER]);
    let mut lines = ran.out.split("\r\n");
    assert_eq!(lines.next(), Some("host,name,serial,size_bytes"));
    assert_eq!(lines.next(), Some("gannet,sda,SKS4-220417,4000787030016"));
    let ran = get(&[path, "--json", "--from", GANNET]);
    let rows: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!(
        rows[0],
        json!({"name": "sda", "serial": "SKS4-220417", "size_bytes": 4000787030016_u64})
    );
}

#[test]
fn a_table_has_its_header_whatever_the_machines_have() {
    let ran = get(&["gpu.devices.*.{vendor,device}", "--csv", "--from", GANNET]);
    let header = ran.out.lines().next();
    let empty = get(&["peripherals.devices[name~=nothing*].name", "--csv", "--from", GANNET]);
    assert_eq!((header, empty.out.as_str()), (Some("vendor,device"), "name\r\n"));
    let none = get(&["peripherals.devices[name~=nothing*].name", "--json", "--from", GANNET]);
    assert_eq!(none.out, "[]\n");
}

#[test]
fn a_text_in_a_table_is_no_formula_and_in_a_line_no_second_line() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file("etc/hostname", "=cmd\n");
        tree.file("proc/sys/kernel/hostname", "=cmd\n");
    });
    let ran = place.run(&["get", "machine.hostname", "--csv", "--from", "machine"]);
    assert!(ran.out.starts_with("machine.hostname\r\n'="), "{}", ran.out);
}

#[test]
fn saved_reports_and_captures_answer_alike() {
    let place = Place::new();
    place.run(&["survey", "--from", GANNET, "--out", "r.json", "--quiet"]);
    place.run(&["capture", "--from", GANNET, "--out", "c.tar.zst", "--quiet"]);
    let asked = |from: &str| {
        place
            .run(&["get", "storage.disks.*.{name,serial}", "memory.modules.*.size", "--from", from])
            .out
    };
    let expected = asked(GANNET);
    assert!(expected.lines().count() > 5, "{expected}");
    assert_eq!(asked("r.json"), expected);
    assert_eq!(asked("c.tar.zst"), expected);
}

fn find(words: &[&str]) -> Ran {
    Place::new().run(&[&["find"], words, &["--from", GANNET]].concat())
}

#[test]
fn a_hit_shows_the_whole_part_with_the_match_marked() {
    let ran = find(&["lw-77a1001"]);
    assert_eq!(ran.status, 0);
    assert!(ran.out.contains("memory.modules.0.serial"), "{}", ran.out);
    assert!(ran.out.contains("serial ›LW-77A1001‹"), "{}", ran.out);
    assert!(ran.out.contains("size 32"), "what else is known of the part: {}", ran.out);
    assert!(ran.out.contains("/sys/firmware/dmi/tables/DMI, handle 0x1100"), "{}", ran.out);
}

#[rstest]
#[case("32GiB")]
#[case("32 GiB")]
#[case("34359738368")]
fn amounts_are_found_however_they_are_written(#[case] text: &str) {
    let ran = find(&[text, "--only", "memory.modules.*.size", "--count"]);
    assert_eq!(ran.out, "4\tgannet\n");
}

#[test]
fn an_amount_that_is_written_otherwise_is_marked_whole() {
    let ran = find(&["4TB", "--only", "storage.disks.*.size"]);
    assert!(ran.out.contains("size ›3.64 TiB‹"), "{}", ran.out);
}

#[test]
fn of_very_many_lines_of_files_the_first_are_told_and_all_are_counted() {
    let place = Place::with_changed("gannet-before", |tree| {
        let lines: String = (0..450).map(|number| format!("# kittiwake {number}\n")).collect();
        tree.file("etc/fstab", lines);
    });
    let counted = place.run(&["find", "kittiwake", "--count", "--from", "machine"]);
    assert_eq!((counted.out.as_str(), counted.status), ("450\tgannet\n", 0));
    let told = place.run(&["find", "kittiwake", "--from", "machine"]);
    assert!(told.out.contains("/etc/fstab, line 200"), "{}", told.out);
    assert!(!told.out.contains("line 201"), "{}", told.out);
    assert!(told.out.contains("and 250 more places"), "{}", told.out);
    let json = place.run(&["find", "kittiwake", "--json", "--from", "machine"]);
    assert_eq!(json.out.lines().count(), 200);
    assert!(json.err.contains("gannet: 250 more texts of its files not told"), "{}", json.err);
}

#[test]
fn what_is_not_found_may_stand_where_nobody_could_look() {
    let place = Place::new();
    place.run(&[
        "survey",
        "--from",
        GANNET,
        "--out",
        "r.json",
        "--quiet",
        "--evidence",
        "expanded",
    ]);
    let mut report: Value =
        serde_json::from_slice(&std::fs::read(place.path("r.json")).unwrap()).unwrap();
    for gap in report["gaps"].as_array_mut().unwrap() {
        if gap["at"].as_str().unwrap().ends_with("/uuid") {
            gap["why"] = json!("permission");
        }
    }
    std::fs::write(place.path("r.json"), serde_json::to_vec(&report).unwrap()).unwrap();
    let hidden = report["gaps"].as_array().unwrap().iter();
    let hidden = hidden.filter(|gap| gap["why"] == "permission").count();
    assert!(hidden > 0);
    let ran = place.run(&["find", "kittiwake", "--from", "r.json"]);
    assert_eq!((ran.out.as_str(), ran.status), ("", 1));
    let said = format!("{hidden} value");
    assert!(ran.err.contains(&said) && ran.err.contains("could not be seen"), "{}", ran.err);
    let elsewhere = place.run(&["find", "kittiwake", "--only", "os", "--from", "r.json"]);
    assert_eq!((elsewhere.err.as_str(), elsewhere.status), ("", 1));
}

#[test]
fn an_empty_table_says_whether_there_is_nothing_or_nobody_knows() {
    let words = ["survey", "--format", "csv", "--table", "memory_modules", "--from", "machine"];
    let ran = without_tables().run(&words);
    assert_eq!(ran.out.lines().count(), 1, "{}", ran.out);
    assert!(ran.err.contains("tectum: memory.modules: not given by this machine"), "{}", ran.err);
    let whole = Place::with_machine("gannet-before").run(&words);
    assert!(
        whole.out.lines().count() > 1 && !whole.err.contains("memory.modules"),
        "{}",
        whole.err
    );
    let quiet = without_tables().run(&[&words[..], &["--quiet"]].concat());
    assert_eq!(quiet.err, "");
}

#[test]
fn nothing_found_is_status_1() {
    let ran = find(&["no-such-word-anywhere"]);
    assert_eq!((ran.out.as_str(), ran.status), ("", 1));
}

#[rstest]
#[case(&["SKS4-*", "--pattern"], 2)]
#[case(&["^SKS4-22041[78]$", "--regex"], 2)]
#[case(&["sks4", "--only", "storage.disks.*.serial"], 2)]
#[case(&["sks4", "--only", "memory"], 0)]
fn patterns_expressions_and_paths(#[case] words: &[&str], #[case] count: usize) {
    let ran = find(&[words, &["--json"]].concat());
    let hits: Vec<Value> =
        ran.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let serials =
        hits.iter().filter(|hit| hit["field"] == "serial" && hit["in"] == "value").count();
    assert_eq!(serials, count, "{}", ran.out);
}

#[test]
fn a_word_of_a_raw_file_that_is_in_no_value_is_told_apart_and_without_its_password() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file(
            "etc/fstab",
            "# kittiwake keeps the charts\n//tide/x /mnt cifs username=kittiwake,password=hush 0 0\n",
        );
    });
    place.run(&["capture", "--from", "machine", "--out", "c.tar.zst", "--quiet"]);
    let ran = place.run(&["find", "charts", "--from", "c.tar.zst"]);
    assert!(ran.out.contains("in files, but in no value"), "{}", ran.out);
    assert!(ran.out.contains("/etc/fstab, line 1"), "{}", ran.out);
    let ran = place.run(&["find", "kittiwake", "--from", "c.tar.zst"]);
    assert!(!ran.out.contains("hush"), "{}", ran.out);
}

#[rstest]
#[case::of_another_encoding(b"# Skj\xe6r kittiwake\n", "/etc/fstab, line 1")]
#[case::that_is_no_text(b"\x01\x02\0\xffkittiwake\0", "/etc/fstab, offset 0x04, 9 bytes")]
fn a_word_is_found_in_a_file(#[case] content: &[u8], #[case] expected: &str) {
    let place = Place::with_changed("gannet-before", |tree| tree.file("etc/fstab", content));
    let ran = place.run(&["find", "kittiwake", "--from", "machine"]);
    assert!(ran.out.contains(expected), "{}", ran.out);
    assert!(!ran.out.contains('\u{1}'), "{}", ran.out);
}

#[test]
fn a_subject_that_cannot_be_read_is_no_answer_of_a_search() {
    let place = Place::new();
    std::fs::write(place.path("broken.json"), "{}").unwrap();
    for (word, found) in [("SKS4-220417", true), ("no-such-word-anywhere", false)] {
        let ran = place.run(&["find", word, "--from", GANNET, "--from", "broken.json"]);
        assert_eq!((ran.status, ran.out.is_empty()), (3, !found), "{}", ran.err);
        assert!(ran.err.contains("broken.json"), "{}", ran.err);
    }
}

#[test]
fn a_folder_of_reports_is_looked_through() {
    let place = Place::new();
    std::fs::create_dir(place.path("fleet")).unwrap();
    for (name, from) in [("a", GANNET), ("b", AFTER)] {
        let out = format!("fleet/{name}.json");
        place.run(&["survey", "--from", from, "--out", &out, "--quiet"]);
    }
    std::fs::write(place.path("fleet/c.json"), "{}").unwrap();
    let ran = place.run(&["find", "SKS8", "--count", "--from", "fleet"]);
    assert_eq!(ran.out.lines().count(), 2, "{}", ran.out);
    assert!(ran.out.starts_with("0\tgannet\n"), "{}", ran.out);
    assert!(ran.err.contains("c.json"), "one that is no report is told: {}", ran.err);
}

#[test]
fn what_there_is_to_ask_for_is_listed() {
    let place = Place::new();
    let ran = place.run(&["sections", "--fields", "memory.modules", "--from", GANNET]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(ran.out.contains("memory.modules.*.size_bytes in bytes"), "{}", ran.out);
    assert!(ran.out.contains("DSP0134 clause 7.18"), "{}", ran.out);
    assert!(ran.out.contains("4 values here"), "{}", ran.out);
    assert!(!ran.out.contains("storage.disks"), "{}", ran.out);
}

#[test]
fn a_reading_stands_in_the_row_of_the_part_that_it_is_of() {
    let place = Place::new();
    let from = ["--csv", "--from", "demo:gannet-before"];
    let asked = |path: &str| place.run(&[&["get", path], &from[..]].concat()).out;
    assert_eq!(
        asked("storage.disks.*.{name,serial,temperature}"),
        "name,serial,temperature_millicelsius\r\nnvme0n1,SK7N-0011902,38850\r\n\
         sda,SKS4-220417,\r\nsdb,SKS4-220418,\r\n"
    );
    // What names the part is no value of its own.
    assert_eq!(asked("storage.disks.*.name"), "name\r\nnvme0n1\r\nsda\r\nsdb\r\n");
    assert_eq!(asked("readings.storage.disks.*.name"), "name\r\nnvme0n1\r\nsda\r\nsdb\r\n");
}
