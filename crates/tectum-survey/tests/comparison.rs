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

use std::{io::Read, os::unix::fs::PermissionsExt, path::Path};

use rstest::rstest;
use serde_json::json;
use support::{RECORDED, compared_by_texts, demo, demo_with, look, recorded, rewrite};
use tectum_report::{
    compare::{Change, Comparison, Sameness, Scope, What, WhichSide, WhyNot, compare},
    report::Report,
};
use tectum_survey::{
    source::{Archive, Door, Packing, Tree},
    survey::{Plan, survey},
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
    assert_eq!(find(&with, "memory", What::Changed).len(), 1);
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
    let neither = between(&user, &user);
    assert!(neither.changes.is_empty(), "{:#?}", neither.changes);
    let told: Vec<WhichSide> = neither.not_compared.iter().map(|one| one.side).collect();
    assert_eq!(told, [WhichSide::Both; 2]);
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

/// A recorded machine beside itself after a change of its files.
fn after_change(name: &str, change: impl FnOnce(&Path)) -> Comparison {
    let before = look(recorded(name).path());
    let folder = support::recorded_to_change(name);
    change(folder.path());
    between(&before, &look(folder.path()))
}

#[test]
fn a_comment_at_the_top_of_fstab_is_no_change() {
    let result = after_change("rack-2s", |root| {
        let path = root.join("etc/fstab");
        let text = std::fs::read_to_string(&path).unwrap();
        rewrite(path, format!("# by the harbour office\n\n{text}"));
    });
    assert_eq!(result.changes, []);
}

#[test]
fn another_server_at_a_mount_point_is_told_once() {
    let line = |server: &str| format!("40 22 0:51 / /srv/tides rw - nfs4 {server}:/tides rw\n");
    let with = |server: &str| {
        let folder = demo_with("gannet-before", |tree| {
            tree.file("proc/self/mountinfo", line(server));
        });
        look(folder.path())
    };
    let result = between(&with("skua.example"), &with("petrel.example"));
    assert_eq!(result.changes.len(), 1, "{:#?}", result.changes);
    assert_eq!(result.changes[0].after.as_ref().unwrap().label, "mount /srv/tides");
    assert_eq!(result.changes[0].fields[0].field, "source");
}

#[test]
fn a_mount_that_is_gone_is_told() {
    let with = |more: &str| {
        let folder = demo_with("gannet-before", |tree| {
            let lines = format!("40 22 0:51 / /srv/a rw - nfs4 skua:/a rw\n{more}");
            tree.file("proc/self/mountinfo", lines);
        });
        look(folder.path())
    };
    let result = between(&with("41 22 0:52 / /srv/b rw - nfs4 skua:/b rw\n"), &with(""));
    let removed = find(&result, "mount", What::Removed);
    assert_eq!((removed.len(), result.changes.len()), (1, 1), "{:#?}", result.changes);
}

#[test]
fn a_cpu_that_is_offline_is_one_change() {
    let result = after_change("big-iron", |root| {
        let cpus = root.join("sys/devices/system/cpu");
        rewrite(cpus.join("online"), "0-12\n");
        rewrite(cpus.join("offline"), "13-15\n");
        let cpuinfo = root.join("proc/cpuinfo");
        let text = std::fs::read_to_string(&cpuinfo).unwrap();
        let online: Vec<&str> = text.split("\n\n").take(13).collect();
        rewrite(cpuinfo, online.join("\n\n") + "\n\n");
    });
    assert_eq!(result.changes.len(), 1, "{:#?}", result.changes);
    let change = &result.changes[0];
    assert_eq!((change.part, change.section.as_str()), ("cpu", "cpu"));
    let own: Vec<&str> =
        change.fields.iter().filter(|field| !field.derived).map(|field| field.field).collect();
    assert_eq!(own, ["offline"]);
}

#[test]
fn an_arrays_member_under_another_name_is_the_same_member() {
    let named = |first: &str, second: &str| {
        let folder = demo_with("gannet-before", |tree| {
            let sata = "sys/devices/pci0000:00/0000:00:17.0";
            for (ata, name, uuid) in [(8, first, "aa"), (9, second, "bb")] {
                let disk = format!("{sata}/ata{ata}/host{ata}/target{ata}:0:0/{ata}:0:0:0");
                let block = format!("{disk}/block/{name}");
                tree.link(format!("sys/block/{name}"), &format!("/{block}"));
                tree.line(format!("{block}/size"), 8192);
                tree.link(format!("{block}/device"), &format!("/{disk}"));
                tree.line(format!("{disk}/wwid"), format!("naa.50000000000000{uuid}"));
                tree.link(format!("{block}/subsystem"), "/sys/class/block");
            }
            let md = "sys/devices/virtual/block/md7";
            tree.link("sys/block/md7", &format!("/{md}"));
            tree.line(format!("{md}/size"), 8192);
            tree.line(format!("{md}/md/level"), "raid1");
            tree.line(format!("{md}/md/raid_disks"), 2);
            for (slot, name) in [(0, first), (1, second)] {
                tree.line(format!("{md}/md/dev-{name}/slot"), slot);
                tree.line(format!("{md}/md/dev-{name}/state"), "in_sync");
                tree.link(format!("{md}/slaves/{name}"), &format!("/sys/block/{name}"));
            }
        });
        look(folder.path())
    };
    let result = between(&named("sdx", "sdy"), &named("sdy", "sdx"));
    assert_eq!(result.changes, [], "{:#?}", result.changes);
}

#[test]
fn two_machines_are_said_to_be_two() {
    let (one, other) = (look(recorded("rack-2s").path()), look(recorded("arm-server").path()));
    let result = between(&one, &other);
    assert_eq!(result.machines.same, Sameness::Other);
    assert!(result.machines.by.iter().any(|field| field.field == "system_uuid"));
    assert_eq!(between(&one, &one).machines.same, Sameness::Same);
    let nameless = look(tempfile::tempdir().unwrap().path());
    assert_eq!(between(&one, &nameless).machines.same, Sameness::Unknown);
}

/// What only root may see, in a list too, is neither new nor gone.
#[rstest]
fn one_boot_seen_as_root_and_as_an_ordinary_user_is_no_change(
    #[values("rack-2s", "big-iron", "arm-server")] name: &str,
) {
    let folder = recorded(name);
    let door = Door::new(Tree::folder(folder.path()).unwrap());
    let root = support::report(survey(&door, &Plan::default(), &mut |_| {}));
    let mut capture = Vec::new();
    door.write_capture("tectum test", "2026-11-23T08:00:00Z".parse().unwrap(), &mut capture)
        .unwrap();
    let (capture, refused) = as_an_ordinary_user(folder.path(), &capture);
    assert!(refused > 5, "{refused} files are for root alone");
    let archive = Archive::read(capture.as_slice(), Packing::Plain).unwrap();
    let door = Door::to_archive(archive);
    let user = support::report(survey(&door, &Plan::default(), &mut |_| {}));
    let result = between(&root, &user);
    assert_eq!(result.changes, [], "{:#?}", result.changes);
    assert!(!result.not_compared.is_empty());
    assert_eq!(between(&user, &root).changes, []);
}

/// A capture in which every file that the kernel gave to root alone (by its mode) is refused, and
/// how many these are.
fn as_an_ordinary_user(machine: &Path, capture: &[u8]) -> (Vec<u8>, usize) {
    let mut packed = tar::Builder::new(Vec::new());
    let mut hidden = std::collections::HashSet::new();
    let mut record = Vec::new();
    let mut all = tar::Archive::new(zstd::Decoder::new(capture).unwrap());
    for entry in all.entries().unwrap() {
        let mut entry = entry.unwrap();
        let (mut header, path) = (entry.header().clone(), entry.path().unwrap().into_owned());
        let mut bytes = Vec::new();
        entry.read_to_end(&mut bytes).unwrap();
        if path == Path::new("capture.json") {
            record = bytes;
            continue;
        }
        if header.entry_type().is_file() {
            // Everything in a capture is for its owner only, so the machine's own modes are asked.
            let own = path.strip_prefix("root").unwrap();
            let mode = machine.join(own).metadata().unwrap().permissions().mode();
            if mode & 0o044 == 0 {
                hidden.insert(Path::new("/").join(own));
            }
        }
        match entry.link_name().unwrap() {
            Some(target) => packed.append_link(&mut header, &path, target).unwrap(),
            None => packed.append_data(&mut header, &path, bytes.as_slice()).unwrap(),
        }
    }
    let mut record: serde_json::Value = serde_json::from_slice(&record).unwrap();
    record["privileged"] = json!(false);
    let mut refused = 0;
    for access in record["accesses"].as_array_mut().unwrap() {
        if access["entry"].as_str().is_some_and(|entry| hidden.contains(Path::new(entry))) {
            let (operation, path) = (&access["operation"], &access["path"]);
            *access =
                json!({ "operation": operation, "path": path, "outcome": "permission-denied" });
            refused += 1;
        }
    }
    let record = serde_json::to_vec(&record).unwrap();
    let mut header = tar::Header::new_gnu();
    header.set_size(record.len() as u64);
    header.set_mode(0o644);
    packed.append_data(&mut header, "capture.json", record.as_slice()).unwrap();
    (packed.into_inner().unwrap(), refused)
}

/// Each recorded machine beside itself, beside the next one, and beside itself with another release of its system: from what
/// is saved no more is read than has to be, and the same is told.
#[test]
fn saved_reports_are_compared_as_the_whole_ones() {
    let mut reports: Vec<(&str, Report)> =
        RECORDED.into_iter().map(|name| (name, look(recorded(name).path()))).collect();
    reports.push(("gannet", look(demo("gannet-after").path())));
    let told = |before: &Report, after: &Report, name: &str| {
        let (by_texts, sections) = compared_by_texts(before, after).unwrap();
        let whole = between(before, after);
        assert_eq!(by_texts.changes, whole.changes, "{name}, of {sections:?}");
        assert_eq!(by_texts.not_compared, whole.not_compared, "{name}, of {sections:?}");
        assert_eq!(by_texts.machines, whole.machines, "{name}");
        sections
    };
    for (number, (name, report)) in reports.iter().enumerate() {
        let (_, next) = &reports[(number + 1) % reports.len()];
        assert!(told(report, next, name).len() > 5, "{name}");
        let open = told(report, report, name);
        let mut other = report.clone();
        let system = other.fact_mut("/inventory/os/pretty_name").unwrap();
        system.set(&json!("Another System 99"), Vec::new()).unwrap();
        let sections = told(report, &other, name);
        assert!(sections.contains(&"os"), "{name}: {sections:?}");
        assert!(open.iter().all(|section| sections.contains(section)), "{name}: {sections:?}");
    }
}
