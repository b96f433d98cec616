//! Lists that a path leads through and that are not known: what it would name there nobody knows, and that is told.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/made.rs"]
mod made;

use std::collections::BTreeSet;

use proptest::prelude::*;
use rstest::rstest;
use serde_json::json;
use tectum_report::{
    Report,
    declare::{NodeMut, Record},
    fact::{Gap, Why},
    query::{HitValue, Path, every_path, find_all, rows},
};

/// The lists of an inventory that are in no other list, by their paths as they are declared.
fn lists() -> BTreeSet<String> {
    let all = every_path();
    let behind = all.iter().filter_map(|path| path.split_once(".*."));
    let lists = behind.map(|(list, _)| list.to_owned());
    lists.filter(|list| !list.starts_with("readings.") && !list.starts_with("machine.")).collect()
}

fn hidden(report: &Report, path: &str) -> BTreeSet<String> {
    let found = find_all(report, &path.parse().unwrap());
    let at = found.hidden.iter().filter_map(|(at, _)| at.strip_prefix("/inventory/"));
    at.map(|at| at.replace('/', ".")).collect()
}

/// How the names of quantities and dates end.
const UNITS: &[&str] = &[
    "_bytes",
    "_mhz",
    "_mts",
    "_mbps",
    "_kbps",
    "_lanes",
    "_bits",
    "_mv",
    "_microvolts",
    "_ma",
    "_cm",
    "_rack_units",
    "_rpm",
    "_millicelsius",
    "_decicelsius",
    "_watts",
    "_microwatts",
    "_microjoules",
    "_microwatt_hours",
    "_mwh",
    "_microampere_hours",
    "_percent",
    "_percent_hundredths",
    "_hundredths",
    "_seconds",
    "_ms",
    "_us",
    "_ns",
    "_mib_per_second",
    "_date",
    "_at",
];

/// What an element may be called, and no field is.
const ELEMENT: &str = "A1";

/// Whether a path of names, stars and beginnings names a declared one, or something on the way to it, plainly.
fn is_named(parts: &[&str], declared: &[&str]) -> bool {
    let is = |part: &str, name: &str| match part.strip_suffix('*') {
        _ if part == name => true,
        Some(begin) if name != "*" || begin.is_empty() => name.starts_with(begin),
        Some(_) => false,
        // No field is called so: only an element of a list can be.
        None if part == ELEMENT => name == "*",
        None => UNITS.iter().any(|unit| name.strip_suffix(unit) == Some(part)),
    };
    match (parts, declared) {
        ([], _) | (["**"], _) => true,
        (["**", rest @ ..], _) => {
            (0..=declared.len()).any(|from| is_named(rest, &declared[from..]))
        }
        (_, []) => false,
        ([part, rest @ ..], [name, ahead @ ..]) => is(part, name) && is_named(rest, ahead),
    }
}

/// The same by the declarations: lists beneath which something is declared that the path names.
fn expected(path: &str) -> BTreeSet<String> {
    let parts: Vec<&str> = path.split('.').collect();
    let all = every_path();
    let names = |declared: &str| {
        let own: Vec<&str> = declared.split('.').collect();
        let whole = [&["inventory"], own.as_slice()].concat();
        is_named(&parts, &own) || is_named(&parts, &whole)
    };
    let beneath = |list: &String| {
        let inner = format!("{list}.*.");
        all.iter().any(|declared| declared.starts_with(&inner) && names(declared))
    };
    lists().into_iter().filter(|list| beneath(list) && !names(list)).collect()
}

#[rstest]
#[case("memory.modules.*.size", &["memory.modules.*.size_bytes"])]
#[case("memory.modules.A1.size_bytes", &["memory.modules.*.size_bytes"])]
#[case("inventory.os.name", &["os.name"])]
#[case("os.hostname", &["os.hostname"])]
#[case("memory.available", &["readings.memory.available_bytes"])]
#[case("readings.memory.available", &["readings.memory.available_bytes"])]
#[case("machine.serial", &["machine.serial"])]
fn what_is_declared_is_found_by_every_spelling(#[case] path: &str, #[case] declared: &[&str]) {
    let path: Path = path.parse().unwrap();
    let all = every_path();
    let found: Vec<&String> = all.iter().filter(|declared| path.holds(declared)).collect();
    assert_eq!(found, declared);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn what_is_hidden_is_what_the_declarations_say(
        which in any::<prop::sample::Index>(),
        wild in prop::collection::vec(0u8..5, 12),
        deep in prop::option::weighted(0.4, (0usize..6, 0usize..4)),
        element in prop::sample::select(vec!["*", ELEMENT, "0000:82:00.0"]),
    ) {
        let all = every_path();
        let inventory: Vec<&String> =
            all.iter().filter(|path| !path.starts_with("readings.") && !path.starts_with("machine.")).collect();
        let declared = inventory[which.index(inventory.len())];
        let mut parts: Vec<String> = declared.split('.').map(str::to_owned).collect();
        let last = parts.len() - 1;
        for (at, part) in parts.iter_mut().enumerate() {
            match wild[at % wild.len()] {
                0 if at < last => *part = "*".into(),
                1 if part.len() > 3 => *part = format!("{}*", &part[..3]),
                _ => {}
            }
        }
        if let Some((from, many)) = deep {
            let from = from.min(last);
            parts.splice(from..(from + many).min(last), ["**".to_owned()]);
        }
        let asked = |name: &str| {
            let named = parts.iter().enumerate().map(|(at, part)| match part.as_str() {
                // The first name is a section's, and the second one a list's or a value's.
                "*" if at == 2 && declared.split('.').nth(2) == Some("*") && !parts.contains(&"**".into()) => name,
                part => part,
            });
            named.collect::<Vec<_>>().join(".")
        };
        let report = made::empty();
        // The points of a name part a path too, which the declarations know nothing of.
        let whole = expected(&asked(if element.contains('.') { ELEMENT } else { element }));
        prop_assert_eq!(hidden(&report, &asked(element)), whole, "{}", asked(element));
    }
}

/// Gives the first list at a path a part that is known, and leaves others of it unknown.
fn in_part(report: &mut Report, list: &str, gap: Gap) {
    let mut record: &mut dyn Record = report.roots_mut().into_iter().nth(1).unwrap();
    let (name, way) = list
        .split('.')
        .collect::<Vec<_>>()
        .split_last()
        .map(|(name, way)| ((*name).to_owned(), way.to_vec()))
        .unwrap();
    for step in way {
        let index = record.shape().index_of(step).unwrap();
        record = match record.node_mut(index) {
            Some(NodeMut::Optional(slot)) => slot.fill(),
            Some(NodeMut::Record(inner)) => inner,
            _ => panic!("{step} is no record"),
        };
    }
    let index = record.shape().index_of(&name).unwrap();
    let Some(NodeMut::List(list)) = record.node_mut(index) else { panic!("{name} is no list") };
    list.set_missing(None);
    list.set_hidden_part(Some(gap));
}

/// Of a list of which some parts are known, others may be what is asked for, unless one is named that is there.
#[rstest]
#[case("memory.modules.*.serial", 1, true)]
#[case("memory.modules.**", 2, true)]
#[case("memory.modules[serial=M1].slot", 1, true)]
#[case("memory.modules.A1.serial", 1, false)]
#[case("memory.modules.Z9.serial", 0, true)]
#[case("memory.modules", 2, true)]
#[case("memory.installed_bytes", 1, false)]
#[case("storage.disks.*.serial", 0, false)]
fn of_a_list_that_is_known_in_part(#[case] path: &str, #[case] least: usize, #[case] told: bool) {
    let mut report = made::empty();
    made::set(&mut report, "/inventory/memory/modules/0/slot", &json!("A1"));
    made::set(&mut report, "/inventory/memory/modules/0/serial", &json!("M1"));
    made::set(&mut report, "/inventory/memory/installed_bytes", &json!(1));
    in_part(&mut report, "memory.modules", Gap::new(Why::TooMany));
    let found = find_all(&report, &path.parse().unwrap());
    let known = found.hits.iter().filter(|hit| match hit.value {
        HitValue::Fact(fact) => fact.json().is_some(),
        _ => false,
    });
    assert!(known.count() >= least, "{path}");
    let at: Vec<&str> = found.hidden.iter().map(|(at, _)| at.as_str()).collect();
    assert_eq!(at.contains(&"/inventory/memory/modules"), told, "{at:?}");
}

#[rstest]
#[case("memory.modules.*.serial", "memory.modules")]
#[case("memory.modules.A1.serial", "memory.modules")]
#[case("memory.modules[size>1GB].serial", "memory.modules")]
#[case("memory.modules", "memory.modules")]
#[case("/inventory/memory/modules/0/serial", "memory.modules")]
#[case("storage.disks.sda.partitions.*.name", "storage.disks")]
fn side_by_side_it_is_a_gap(#[case] path: &str, #[case] list: &str) {
    let report = made::empty();
    let path: Path = path.parse().unwrap();
    let all = rows(&report, std::slice::from_ref(&path));
    assert!(all.rows.is_empty());
    let gaps: Vec<&str> = all.gaps.iter().map(|(at, _)| at.as_str()).collect();
    assert_eq!(gaps, [list]);
}

/// Readings name parts of the inventory: these are known where nobody knows the readings.
#[rstest]
#[case("storage.disks.*.name", 0)]
#[case("readings.storage.disks.*.name", 1)]
#[case("storage.disks.*.reads", 1)]
fn what_stands_in_the_inventory_needs_no_reading(#[case] path: &str, #[case] gaps: usize) {
    let mut report = made::empty();
    made::set(&mut report, "/inventory/storage/disks/0/name", &json!("sda"));
    let path: Path = path.parse().unwrap();
    assert_eq!(find_all(&report, &path).hidden.len(), gaps);
}

#[test]
fn a_section_that_was_left_out_is_told() {
    let mut report = made::empty();
    report.inventory.memory = None;
    report.readings.memory = None;
    let left_out =
        |path: &str| path.parse::<Path>().unwrap().not_surveyed(&report).map(str::to_owned);
    for path in ["memory.modules.*.serial", "inventory.memory.modules", "readings.memory.free"] {
        assert_eq!(left_out(path).as_deref(), Some("memory"), "{path}");
    }
    for path in ["storage.disks.*.serial", "machine.hostname", "**.serial"] {
        assert_eq!(left_out(path), None, "{path}");
    }
}
