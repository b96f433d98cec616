//! One machine in every form that it can be had in: the folder of its files, a capture of them, reports of both forms, a
//! look in archives packed and plain. Whatever is asked, each gives the same answer.

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

use std::sync::LazyLock;

use rstest::rstest;
use serde_json::Value;
use support::{Place, Ran};

/// The forms of a machine, each by what stands behind `--from`, and the folder of an archive where one is asked.
const FORMS: [(&str, Option<&str>); 6] = [
    ("machine", None),
    ("machine.tar.zst", None),
    ("compact.json", None),
    ("expanded.json", None),
    ("host", Some("plain")),
    ("host", Some("packed")),
];

/// A demo machine in all its forms.
struct Forms {
    place: Place,
    host: String,
}

impl Forms {
    fn of(name: &str) -> Self {
        let place = Place::with_machine(name);
        let run = |words: &[&str]| {
            let ran = place.run(words);
            assert_eq!(ran.status, 0, "{words:?}: {}", ran.err);
            ran.out
        };
        let from = ["--from", "machine", "--quiet", "--out"];
        run(&[&["capture"][..], &from, &["machine.tar.zst"]].concat());
        run(&[&["survey"][..], &from, &["compact.json"]].concat());
        let expanded = ["expanded.json", "--evidence", "expanded"];
        run(&[&["survey"][..], &from, &expanded].concat());
        for (archive, packed) in [("plain", "false"), ("packed", "true")] {
            let saved = place
                .command(&["save", "compact.json", "--archive", archive, "--quiet"])
                .env("TECTUM_ARCHIVE_PACKED", packed)
                .output()
                .unwrap();
            assert!(saved.status.success(), "{}", String::from_utf8_lossy(&saved.stderr));
        }
        let host = run(&["get", "machine.hostname", "--from", "compact.json"]).trim().to_owned();
        Self { place, host }
    }

    /// What is answered to words about each form.
    fn answers(&self, words: &[&str]) -> Vec<(String, Ran)> {
        let forms = FORMS.iter().map(|(form, archive)| {
            let subject = if *form == "host" { self.host.as_str() } else { *form };
            let mut all = words.to_vec();
            all.extend(["--from", subject]);
            all.extend(archive.iter().flat_map(|folder| ["--archive", *folder]));
            (format!("{form} {}", archive.unwrap_or_default()), self.place.run(&all))
        });
        forms.collect()
    }

    /// The one answer that is given of every form.
    fn answer(&self, words: &[&str]) -> Ran {
        let mut answers = self.answers(words).into_iter();
        let (_, first) = answers.next().unwrap();
        for (form, other) in answers {
            let said = (other.status, &other.out);
            assert_eq!(said, (first.status, &first.out), "{form}: {words:?}: {}", other.err);
            assert_eq!(reasons(&other), reasons(&first), "{form}: {words:?}");
        }
        first
    }
}

/// Why something is missing, as it is told; what is said of the subject itself differs.
fn reasons(ran: &Ran) -> Vec<&str> {
    ran.err.lines().filter(|line| !line.contains("its own clock")).collect()
}

static GANNET: LazyLock<Forms> = LazyLock::new(|| Forms::of("gannet-before"));
static SANDERLING: LazyLock<Forms> = LazyLock::new(|| Forms::of("sanderling"));

#[rstest]
#[case::one("memory.modules.A1.serial", 0)]
#[case::all_of_a_list("memory.modules.*.serial", 0)]
#[case::side_by_side("storage.disks.*.{model,serial,size_bytes}", 0)]
#[case::of_parts_in_parts("storage.disks.*.partitions.*.{name,size_bytes,mount_points}", 0)]
#[case::by_a_condition("storage.disks[rotating=yes, size>=4TB].serial", 0)]
#[case::of_slots_that_may_be_empty("memory.slots.*.{locator,bank}", 0)]
#[case::of_a_record("firmware.vendor", 0)]
#[case::a_reading("filesystems.usage.*.{mount_point,used_bytes}", 0)]
#[case::who_it_is("machine.serial", 0)]
#[case::a_series("cpu.caches.*.shared_by", 0)]
#[case::what_the_machine_does_not_have("gpu.devices.*.video_bios", 1)]
#[case::a_part_that_is_not_there("storage.disks.sdz.serial", 0)]
#[case::json_path("$.inventory.memory.modules[?@.size_bytes > 0].part_number", 0)]
#[case::json_path_of_what_is_missing("$.inventory.gpu.devices[*].video_bios", 1)]
fn a_path_names_the_same_values(#[case] path: &str, #[case] status: i32) {
    let told = GANNET.answer(&["get", path]);
    assert_eq!(told.status, status, "{path}: {}", told.err);
    assert_eq!(told.out.is_empty(), path.contains("sdz") || path.contains("video_bios"), "{path}");
    SANDERLING.answer(&["get", path]);
    for form in ["--json", "--csv"] {
        if !path.starts_with('$') {
            GANNET.answer(&["get", form, path]);
        }
    }
}

/// Why a value is what it is, and why one is missing, is told in the same words of every form.
#[rstest]
#[case("memory.modules.A1.serial")]
#[case("memory.modules.A2.serial")]
#[case("memory.installed_bytes")]
#[case("storage.disks.sda.size_bytes")]
#[case("storage.disks.sda.wwn")]
#[case("os.pretty_name")]
#[case("platform.system.sku")]
#[case("cpu.sockets.0.serial")]
fn why_is_told_alike(#[case] path: &str) {
    let told = |forms: &Forms| {
        let answers = forms.answers(&["why", path]);
        let texts = answers.into_iter().map(|(form, ran)| {
            // Where values are from is not kept of what moves by itself, and how long it took differs.
            let lines = ran.out.lines().filter(|line| !line.contains(" µs"));
            (form, ran.status, lines.collect::<Vec<_>>().join("\n"))
        });
        let texts: Vec<_> = texts.collect();
        for (form, status, text) in &texts {
            assert_eq!((status, text), (&texts[0].1, &texts[0].2), "{form}: {path}");
        }
    };
    told(&GANNET);
    told(&SANDERLING);
}

/// What a search finds in values is found in every form, wherever that is kept.
#[rstest]
#[case("LW-77A1002")]
#[case("SKS4-220417")]
#[case("skua_net")]
#[case("4TB")]
#[case("34359738368")]
#[case("nowhere-to-be-found")]
fn a_search_finds_the_same_values(#[case] word: &str) {
    let paths = |ran: &Ran| -> Vec<String> {
        let hits = ran.out.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
        // What only the files of a machine say is not kept in a report.
        let values = hits.filter(|hit| hit["in"] == "value");
        values.map(|hit| hit["path"].as_str().unwrap().to_owned()).collect()
    };
    let answers = GANNET.answers(&["find", word, "--json"]);
    let (_, first) = &answers[0];
    assert_eq!(paths(first).is_empty(), word.starts_with("nowhere"));
    for (form, other) in &answers {
        assert_eq!(paths(other), paths(first), "{form}: {word}");
    }
}

/// No form differs from another, whichever stands before.
#[rstest]
fn forms_of_a_machine_do_not_differ() {
    let files = ["machine", "machine.tar.zst", "compact.json", "expanded.json"];
    for before in files {
        for after in files {
            for format in ["text", "json"] {
                let words = ["compare", before, after, "--quiet", "--format", format];
                let ran = GANNET.place.run(&words);
                assert_eq!(ran.status, 0, "{words:?}: {}", ran.out);
                if format == "json" {
                    let told: Value = serde_json::from_str(&ran.out).unwrap();
                    assert_eq!(told["changes"], serde_json::json!([]));
                }
            }
        }
    }
}
