//! What changed: parts matched by identity, never by the name the kernel gave them.

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
use serde_json::json;
use support::{demo, demo_with, look, recorded};
use tectum_report::{
    compare::{Change, Comparison, Scope, What, WhichSide, WhyNot, compare},
    report::Report,
};

fn between(before: &Report, after: &Report) -> Comparison {
    compare(before, after, Scope::Inventory)
}

fn find<'a>(result: &'a Comparison, part: &str, what: What) -> Vec<&'a Change> {
    result.changes.iter().filter(|change| change.part == part && change.what == what).collect()
}

#[test]
fn the_maintenance_visit_is_told_as_it_was() {
    let (before, after) = (look(demo("gannet-before").path()), look(demo("gannet-after").path()));
    let result = between(&before, &after);
    let replaced = find(&result, "memory module", What::Replaced);
    assert_eq!(replaced.len(), 1);
    let (old, new) = (replaced[0].before.as_ref().unwrap(), replaced[0].after.as_ref().unwrap());
    assert_eq!(old.identity.as_deref(), Some("LW5-32G-4800R, LW-77A1002"));
    assert_eq!(new.identity.as_deref(), Some("LW5-64G-4800R, LW-81C0044"));
    let moved = find(&result, "memory module", What::Moved);
    assert_eq!(moved.len(), 1);
    assert_eq!(moved[0].before.as_ref().unwrap().place.as_deref(), Some("C1, CPU 2 CHANNEL C"));
    assert_eq!(moved[0].after.as_ref().unwrap().place.as_deref(), Some("C2, CPU 2 CHANNEL C"));
    let disks = find(&result, "disk", What::Replaced);
    assert_eq!(disks.len(), 1);
    let firmware = find(&result, "firmware", What::Changed);
    let version = firmware[0].fields.iter().find(|field| field.field == "version").unwrap();
    assert_eq!((&version.before, &version.after), (&json!("MF 3.8.1"), &json!("MF 3.9.0")));
    // The names sda and sdb were shuffled: nothing else may be told of the disk that stayed.
    // The controller's firmware changes with the visit too, and a kernel comes in; what follows from
    // a change stands beneath it.
    assert_eq!(result.changes.len(), 6, "{:#?}", result.changes);
    let follows = |part: &str| {
        let told = result.changes.iter().flat_map(|change| &change.follows);
        told.filter(|change| change.part == part).count()
    };
    for part in ["memory", "memory slot", "mount", "cpu", "operating system"] {
        assert!(follows(part) > 0, "{part}: {:#?}", result.changes);
    }
    assert!(result.not_compared.is_empty());
}

#[rstest]
fn a_machine_is_the_same_as_itself(
    #[values("rack-2s", "cloud-small", "arm-server", "arm-board")] name: &str,
) {
    let folder = recorded(name);
    let (first, second) = (look(folder.path()), look(folder.path()));
    assert_eq!(between(&first, &second).changes, []);
}

#[test]
fn readings_are_compared_only_when_asked() {
    let before = look(demo("gannet-before").path());
    let folder = demo_with("gannet-before", |tree| {
        tree.file("proc/meminfo", "MemTotal: 100 kB\nMemFree: 50 kB\n");
    });
    let after = look(folder.path());
    assert!(between(&before, &after).changes.is_empty());
    let with = compare(&before, &after, Scope::InventoryAndReadings);
    assert_eq!(find(&with, "memory readings", What::Changed).len(), 1);
}

#[test]
fn two_disks_with_one_filler_serial_are_not_merged() {
    let sata = "sys/devices/pci0000:00/0000:00:17.0";
    let same = |tree: &mut tectum_demo::Tree| {
        for (ata, host) in [(2, 1), (3, 2)] {
            let device = format!("{sata}/ata{ata}/host{host}/target{host}:0:0/{host}:0:0:0");
            tree.remove(&format!("{device}/vpd_pg89"));
            tree.file(format!("{device}/vpd_pg80"), b"\x00\x80\x00\x04SAME".to_vec());
            tree.line(format!("{device}/model"), "TWIN");
            tree.remove(&format!("{device}/wwid"));
        }
    };
    let before = look(demo_with("gannet-before", same).path());
    let after = look(
        demo_with("gannet-before", |tree| {
            same(tree);
            // The second of the twins goes.
            tree.remove("sys/block/sdb");
        })
        .path(),
    );
    let result = between(&before, &after);
    let removed = find(&result, "disk", What::Removed);
    assert_eq!(removed.len(), 1, "{:#?}", result.changes);
    let side = removed[0].before.as_ref().unwrap();
    assert_eq!(side.place.as_deref(), Some("pci 0000:00:17.0 port 2"));
    assert_eq!(result.changes.len(), 1);
}

#[test]
fn a_partition_that_grew_is_told_within_its_disk() {
    let before = look(demo("gannet-before").path());
    let part = "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1/nvme0n1p3/size";
    let after = look(demo_with("gannet-before", |tree| tree.line(part, 1_677_721_600)).path());
    let result = between(&before, &after);
    assert_eq!(result.changes.len(), 1);
    assert_eq!(result.changes[0].part, "partition");
    assert_eq!(result.changes[0].within, ["disk nvme0n1"]);
}

#[test]
fn what_one_report_could_not_see_is_said_and_not_told_as_a_change() {
    let root = look(demo("gannet-before").path());
    let mut text = support::json(&root);
    text["inventory"]["platform"]["system"]["serial"] = json!(null);
    text["inventory"]["memory"]["modules"] = json!(null);
    let gaps = text["gaps"].as_array_mut().unwrap();
    gaps.push(json!({ "at": "/inventory/platform/system/serial", "why": "permission" }));
    gaps.push(json!({ "at": "/inventory/memory/modules", "why": "permission" }));
    let user = Report::from_json(&serde_json::to_vec(&text).unwrap()).unwrap();
    let result = between(&root, &user);
    assert!(result.changes.is_empty(), "{:#?}", result.changes);
    let told: Vec<(&str, WhichSide)> =
        result.not_compared.iter().map(|one| (one.at.as_str(), one.side)).collect();
    assert_eq!(
        told,
        [
            ("/inventory/platform/system/serial", WhichSide::After),
            ("/inventory/memory/modules", WhichSide::After),
        ]
    );
}

#[test]
fn a_section_that_only_one_report_holds_is_not_compared() {
    let before = look(demo("gannet-before").path());
    let mut after = before.clone();
    after.keep_sections(&["cpu", "os"]);
    let result = between(&before, &after);
    assert!(result.changes.is_empty());
    assert!(result.not_compared.iter().all(|one| one.why == WhyNot::NotSurveyed));
    assert_eq!(result.not_compared.len(), 13);
}
