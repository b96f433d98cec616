//! What storage was built of in many layers, and machines without firmware tables, held against what was asked
//! for when they were made.

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
use support::{json as of_report, look, recorded, truth};

fn list(value: &Value) -> &Vec<Value> {
    value.as_array().unwrap()
}

fn named<'a>(all: &'a Value, field: &str, value: &Value) -> &'a Value {
    list(all).iter().find(|one| one[field] == *value).unwrap_or_else(|| panic!("no {value}"))
}

#[test]
fn every_layer_is_what_it_was_made_as() {
    let report = of_report(&look(recorded("layers").path()));
    let storage = &report["inventory"]["storage"];
    let truth = truth("layers");
    assert_eq!(storage["drives"], truth["drives"], "two paths lead to one of them");
    assert_eq!(list(&storage["volumes"]).len(), list(&truth["volumes"]).len());
    for built in list(&truth["volumes"]) {
        let volume = named(&storage["volumes"], "title", &built["title"]);
        for field in ["kind", "level", "filesystem"] {
            let Some(asked) = built.get(field) else { continue };
            assert_eq!(volume[field], *asked, "{field} of {}", built["title"]);
        }
        assert_eq!(volume["backing_devices"], built["on"], "{}", built["title"]);
        if let Some(point) = built["mount_point"].as_str() {
            assert_eq!(volume["mount_points"], json!([point]), "{}", built["title"]);
        }
        if built["kind"] == "raid" {
            assert_eq!(volume["missing_members"], built["missing"], "{}", built["title"]);
            let faulty = list(&volume["members"]).iter().filter(|member| {
                member["state"].as_str().is_some_and(|state| state.contains("faulty"))
            });
            let faulty: Vec<&Value> = faulty.map(|member| &member["name"]).collect();
            let meant: Vec<&Value> = built.get("faulty").into_iter().collect();
            assert_eq!(faulty, meant, "{}", built["title"]);
        }
    }
}

#[test]
fn a_drive_of_two_paths_is_one_drive_and_both_are_of_one_map() {
    let report = of_report(&look(recorded("layers").path()));
    let disks = &report["inventory"]["storage"]["disks"];
    let (one, other) = (named(disks, "name", &json!("sda")), named(disks, "name", &json!("sdb")));
    assert_eq!((&one["serial"], &one["wwn"]), (&other["serial"], &other["wwn"]));
    assert_eq!((&one["multipath_of"], &other["multipath_of"]), (&Value::Null, &json!("sda")));
    assert_eq!((&one["holders"], &other["holders"]), (&json!(["dm-0"]), &json!(["dm-0"])));
    assert_eq!(one["filesystem"], "mpath_member");
}

/// What the maker of each was asked for.
#[rstest]
#[case("mips")]
#[case("microvm")]
fn a_machine_without_firmware_tables_tells_what_it_can(#[case] name: &str) {
    let report = of_report(&look(recorded(name).path()));
    let (inventory, truth) = (&report["inventory"], truth(name));
    let cpu = &inventory["cpu"];
    assert_eq!(cpu["packages"], truth["sockets"]);
    assert_eq!((&cpu["cores"], &cpu["threads"]), (&truth["cores"], &truth["threads"]));
    let memory = &inventory["memory"];
    let told = [&memory["device_tree_bytes"], &memory["blocks"]["online_bytes"]];
    assert!(told.contains(&&truth["memory_bytes"]), "{told:?}");
    assert!(memory["installed_bytes"].is_null(), "no table tells of modules");
    for (disk, size) in truth["disks"].as_object().unwrap() {
        let disk = named(&inventory["storage"]["disks"], "name", &json!(disk));
        assert_eq!(disk["size_bytes"], *size);
    }
    assert_eq!(inventory["storage"]["drives"], truth["disks"].as_object().unwrap().len());
    let ports = list(&inventory["network"]["interfaces"]).iter();
    let ports: Vec<&Value> = ports.filter(|one| one["physical"] == true).collect();
    assert_eq!(ports.len(), 1);
    assert_eq!(ports[0]["driver"], truth["network_driver"]);
    for field in ["vendor", "product", "serial", "uuid"] {
        assert!(inventory["platform"]["system"][field].is_null(), "{field}");
    }
}

/// A floppy drive without a disk is there, and is none of the disks.
#[test]
fn a_drive_that_holds_nothing_adds_nothing() {
    let report = of_report(&look(recorded("mips").path()));
    let storage = &report["inventory"]["storage"];
    let floppy = named(&storage["disks"], "name", &truth("mips")["floppy"]);
    assert_eq!((&floppy["kind"], &floppy["size_bytes"]), (&json!("floppy"), &json!(0)));
    let sizes = list(&storage["disks"]).iter().map(|disk| disk["size_bytes"].as_u64().unwrap());
    assert_eq!(storage["total_bytes"], sizes.sum::<u64>());
}

/// A board whose firmware says nothing may be emulated or not; one with a hypervisor's own mark is.
#[rstest]
#[case("mips", "unclear")]
#[case("microvm", "virtual-machine")]
#[case("layers", "virtual-machine")]
fn whether_it_is_real_is_said_as_far_as_it_is_known(#[case] name: &str, #[case] runs_in: &str) {
    let report = of_report(&look(recorded(name).path()));
    assert_eq!(report["inventory"]["platform"]["virtualization"]["runs_in"], runs_in);
}
