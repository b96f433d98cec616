//! Paths with conditions, held against a plain evaluation; hostile texts.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use std::sync::Arc;

use proptest::prelude::*;
use rstest::rstest;
use tectum_report::{
    declare::{Parts, Record},
    fact::{Evidence, Fact, Gap, Why, saying},
    json::{chosen::Chosen, write::Plain},
    leaf::{Bytes, DeviceName, Serial, Term},
    model::{Disk, Storage},
    query::{HitValue, JsonQuery, Path, Search, find, find_all, paths, plain, rows, search},
    report::{Observed, Report, Taken},
};

fn evidence() -> Evidence {
    Evidence::new(Arc::from("/proc/x"), saying!("a-rule", "a rule"))
}

fn known<T>(value: T) -> Fact<T> {
    Fact::known(value, evidence())
}

/// What a random disk is made of; a size may be missing.
#[derive(Debug, Clone)]
struct Made {
    size: Option<u64>,
    rotating: bool,
    model: String,
}

fn report(disks: &[Made]) -> Report {
    let disks = disks.iter().enumerate().map(|(index, made)| Disk {
        name: known(DeviceName(format!("sd{index}"))),
        size_bytes: match made.size {
            Some(size) => known(Bytes(size)),
            None => Fact::gap(Gap::new(Why::Permission)),
        },
        rotating: known(made.rotating),
        model: known(Term(made.model.clone())),
        ..Disk::default()
    });
    let mut observed = Observed::default();
    observed.inventory.storage =
        Some(Storage { disks: Parts::known(disks.collect(), evidence()), ..Storage::default() });
    let taken = Taken {
        at: "2026-01-01T00:00:00Z".parse().unwrap(),
        tool: "test".into(),
        subject: "made up".into(),
        privileged: false,
        sections: vec!["storage".into()],
        elapsed_ms: 0,
    };
    Report::new(observed, taken, Vec::new(), Vec::new())
}

fn names(report: &Report, path: &str) -> Vec<String> {
    let path: Path = path.parse().unwrap();
    path.check().unwrap();
    let hits = find(report, &path);
    let text = |hit: tectum_report::query::Hit<'_>| match hit.value {
        HitValue::Fact(fact) => fact.text().unwrap(),
        _ => panic!("a value"),
    };
    hits.into_iter().map(text).collect()
}

prop_compose! {
    fn made()(
        size in prop::option::weighted(0.9, 0usize..6),
        rotating: bool,
        model in "[ab]{0,2}",
    ) -> Made {
        // Sizes around units, so that what is equal, less and more all happens.
        let unit = [1, 1000, 1024, 1 << 20, 1_000_000, 4_000_000_000_000];
        Made { size: size.map(|at| unit[at]), rotating, model }
    }
}

/// Names with points: one that ends as a field is called, and two that differ behind their point.
#[rstest]
#[case("storage.disks.*.model", "one two three")]
#[case("storage.disks.*.0.model", "two")]
#[case("storage.disks.x.*.model", "one two three")]
#[case("storage.disks.x.1.model", "three")]
#[case("storage.disks.x.model.model", "one")]
#[case("storage.disks.x*.model", "one two three")]
#[case("storage.disks.*.2.model", "")]
fn a_name_may_hold_points(#[case] path: &str, #[case] models: &str) {
    let mut report = report(&[]);
    let disks = [("x.model", "one"), ("x.0", "two"), ("x.1", "three")].map(|(name, model)| Disk {
        name: known(DeviceName(name.to_owned())),
        model: known(Term(model.to_owned())),
        serial: known(Serial("S".to_owned())),
        ..Disk::default()
    });
    report.inventory.storage.as_mut().unwrap().disks = Parts::known(disks.into(), evidence());
    let path: Path = path.parse().unwrap();
    let find = |report: &Report| {
        let hits = find(report, &path).into_iter();
        let texts = hits.map(|hit| match hit.value {
            HitValue::Fact(fact) => fact.text().unwrap(),
            _ => panic!("a value"),
        });
        texts.collect::<Vec<_>>().join(" ")
    };
    assert_eq!(find(&report), models);
    let text = serde_json::to_vec(&Plain(&report.inventory as &dyn Record)).unwrap();
    let chosen = Chosen::by(std::slice::from_ref(&path));
    let read = Report::of_inventory(&text, report.taken, Some(&chosen)).unwrap();
    assert_eq!(find(&read), models);
}

proptest! {
    #[test]
    fn conditions_choose_as_a_plain_filter_does(
        disks in prop::collection::vec(made(), 0..8),
        sign in prop::sample::select(vec!["=", "!=", "<", "<=", ">", ">="]),
        amount in prop::sample::select(vec![
            ("1", 1u64), ("1kB", 1000), ("1KiB", 1024), ("1 MiB", 1 << 20), ("1MB", 1_000_000),
            ("4TB", 4_000_000_000_000), ("0.001 MB", 1000),
        ]),
        rotating in prop::option::of(any::<bool>()),
        with_star: bool,
    ) {
        let report = report(&disks);
        let (text, bytes) = amount;
        let more = rotating.map(|is| format!(", rotating={}", if is { "yes" } else { "no" }));
        let star = if with_star { ".*" } else { "" };
        let path = format!("storage.disks{star}[size{sign}{text}{}].name", more.unwrap_or_default());
        let holds = |size: u64| match sign {
            "=" => size == bytes,
            "!=" => size != bytes,
            "<" => size < bytes,
            "<=" => size <= bytes,
            ">" => size > bytes,
            _ => size >= bytes,
        };
        let fits = |made: &Made| rotating.is_none_or(|is| is == made.rotating);
        let expected: Vec<String> = disks
            .iter()
            .enumerate()
            .filter(|(_, made)| made.size.is_some_and(holds) && fits(made))
            .map(|(index, _)| format!("sd{index}"))
            .collect();
        prop_assert_eq!(names(&report, &path), expected);
        // What could not be judged is told, where nothing else decided.
        let path: Path = path.parse().unwrap();
        let open = disks.iter().filter(|made| made.size.is_none() && fits(made)).count();
        prop_assert_eq!(find_all(&report, &path).not_judged.len(), open);
    }

    #[test]
    fn no_text_makes_reading_a_path_fail_otherwise_than_with_an_error(text in "\\PC{0,40}") {
        let report = report(&[Made { size: Some(1), rotating: true, model: "a".into() }]);
        if let Ok(all) = paths(&text) {
            for path in all {
                let _ = (path.check(), find(&report, &path).len(), path.ends_at_a_value());
            }
        }
        if let Ok(query) = text.parse::<JsonQuery>() {
            let whole = plain(&report);
            let _ = query.find(&whole).len();
        }
        let all = [Search::words(&text), Search::pattern(&text), Search::expression(&text)];
        for wanted in all.into_iter().flatten() {
            for found in search(&report, &wanted, None) {
                for mark in wanted.marks(&found.label) {
                    prop_assert!(found.label.get(mark).is_some());
                }
            }
        }
    }
}

#[rstest]
#[case("storage.disks[sise>1].name", "a disk has no field \"sise\"; the nearest is \"size\"")]
#[case("storage.disks[wholly_other>1].name", "a disk has no field \"wholly_other\"")]
#[case(
    "network.addresses[intrface=x].value",
    "an address has no field \"intrface\"; the nearest is \"interface\""
)]
#[case("storage.disks[size>1GHz].name", "is no bytes that \"size\" can be compared with")]
#[case("storage.disks[rotating>yes].name", "is yes or no")]
#[case("storage.disks[kind=tape].name", "is one of nvme, ata")]
#[case(
    "network.interfaces[kind=brigde].name",
    "\"kind\" is never \"brigde\"; the nearest is \"bridge\""
)]
#[case("network.interfaces[kind=zzz].name", "\"kind\" is one of ")]
#[case("cpu[cores>1].threads", "behind a list or its element")]
#[case("storage.disks[nonsense].name", "no report has")]
fn a_condition_that_cannot_be_is_told(#[case] path: &str, #[case] said: &str) {
    let error = path.parse::<Path>().unwrap().check().unwrap_err().to_string();
    assert!(error.contains(said), "{error}");
}

#[rstest]
#[case("storage.disks[size>1.name")]
#[case("storage.disks[size>1][size>2].name")]
#[case("storage.disks[size>1]x.name")]
#[case("**[size>1]")]
#[case("a..b")]
fn what_is_no_path_is_an_error(#[case] path: &str) {
    assert!(path.parse::<Path>().is_err());
}

#[test]
fn a_path_of_many_parts_is_refused_and_repeated_stars_cost_nothing() {
    assert!(vec!["a"; 41].join(".").parse::<Path>().is_err());
    let stars = vec!["**"; 39].join(".");
    let path: Path = format!("{stars}.name").parse().unwrap();
    let report = report(&[]);
    assert!(find(&report, &path).is_empty());
}

#[test]
fn values_stand_side_by_side_as_they_were_asked_for() {
    let made = |size, model: &str| Made { size, rotating: true, model: model.into() };
    let report = report(&[made(Some(5), "a"), made(None, "b")]);
    let asked = paths("storage.disks.*.{model,size,name}").unwrap();
    let all = rows(&report, &asked);
    assert_eq!(all.columns, ["model", "size_bytes", "name"]);
    let texts: Vec<Vec<Option<String>>> = all
        .rows
        .iter()
        .map(|row| row.cells.iter().map(|cell| cell.and_then(|cell| cell.fact.text())).collect())
        .collect();
    let text = |text: &str| Some(text.to_owned());
    assert_eq!(texts, [[text("a"), text("5"), text("sd0")], [text("b"), None, text("sd1")]]);
    assert_eq!(all.gaps.len(), 1);
    assert_eq!(all.gaps[0].0, "storage.disks.1.size_bytes");
}

#[test]
fn a_json_path_names_values_by_the_reports_json() {
    let made = |size| Made { size: Some(size), rotating: true, model: "m".into() };
    let report = report(&[made(5), made(7)]);
    let query: JsonQuery = "$.inventory.storage.disks[?@.size_bytes > 5].name".parse().unwrap();
    let whole = plain(&report);
    let found = query.find(&whole);
    assert_eq!(found.len(), 1);
    assert_eq!(
        (found[0].0.as_str(), found[0].1.as_str()),
        ("/inventory/storage/disks/1/name", Some("sd1"))
    );
}
