//! Storage and networks that lead out of the machine, held against what was asked for when they were set up.

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
use support::{json as of_report, look, recorded, recorded_to_change, truth};

fn report() -> Value {
    of_report(&look(recorded("remote").path()))
}

fn part<'a>(all: &'a Value, field: &str, value: &Value) -> &'a Value {
    let all = all.as_array().unwrap();
    all.iter().find(|one| one[field] == *value).unwrap_or_else(|| panic!("no {value}"))
}

/// Holds each part that a truth names against the report's, field by field.
fn hold(all: &Value, field: &str, truth: &Value) {
    for (name, meant) in truth.as_object().unwrap() {
        let told = part(all, field, &json!(name));
        for (field, value) in meant.as_object().unwrap() {
            assert_eq!(told.get(field).unwrap_or(&Value::Null), value, "{field} of {name}");
        }
    }
}

#[test]
fn a_disk_over_a_network_says_what_carries_it() {
    let (report, truth) = (report(), truth("remote"));
    let storage = &report["inventory"]["storage"];
    hold(&storage["disks"], "name", &truth["disks"]);
    assert_eq!(storage["drives"], truth["drives"], "two namespaces are of one of them");
    let of_target = part(&storage["disks"], "name", &json!("nvme0n1"));
    hold(&of_target["partitions"], "name", &truth["partitions"]);
    // The host of a session has the number of the session's turn.
    assert!(part(&storage["disks"], "name", &json!("sda"))["address"].is_null());
}

#[test]
fn both_ways_to_a_target_are_told() {
    let (report, truth) = (report(), truth("remote"));
    let controllers = report["inventory"]["storage"]["nvme_controllers"].as_array().unwrap();
    let remotes = controllers.iter().map(|one| one["remote"].as_str().unwrap());
    let ports: Vec<String> = remotes
        .map(|remote| {
            let value = |name: &str| {
                remote.split(',').find_map(|part| part.strip_prefix(name)).unwrap().to_owned()
            };
            format!("{}:{}", value("traddr="), value("trsvcid="))
        })
        .collect();
    assert_eq!(json!(ports), truth["targets"]);
}

#[test]
fn what_is_made_of_disks_is_what_it_was_made_as() {
    let (report, truth) = (report(), truth("remote"));
    for built in truth["volumes"].as_array().unwrap() {
        let by = if built.get("title").is_some() { "title" } else { "name" };
        let told = part(&report["inventory"]["storage"]["volumes"], by, &built[by]);
        assert_eq!(told["kind"], built["kind"], "{}", built[by]);
        if let Some(on) = built.get("on") {
            assert_eq!(told["backing_devices"], *on, "{}", built[by]);
        }
        if let Some(point) = built.get("mount_point") {
            assert_eq!(told["mount_points"], json!([point]), "{}", built[by]);
            assert_eq!(told["filesystem"], built["filesystem"], "{}", built[by]);
        }
    }
}

#[test]
fn what_is_mounted_from_elsewhere_and_what_is_not_mounted() {
    let (report, truth) = (report(), truth("remote"));
    let filesystems = &report["inventory"]["filesystems"];
    for (point, source) in truth["remote_mounts"].as_object().unwrap() {
        let told = part(&filesystems["mounts"], "mount_point", &json!(point));
        assert_eq!((&told["class"], &told["source"]), (&json!("network"), source));
    }
    let in_state = |state: &str| -> Vec<&Value> {
        let entries = filesystems["fstab_entries"].as_array().unwrap().iter();
        entries.filter(|one| one["state"] == state).map(|one| &one["mount_point"]).collect()
    };
    assert_eq!(json!(in_state("not-mounted")), truth["not_mounted"]);
    assert_eq!(json!(in_state("not-mounted-on-request-only")), truth["on_request"]);
}

#[test]
fn interfaces_are_what_they_were_made_as() {
    let (report, truth) = (report(), truth("remote"));
    hold(&report["inventory"]["network"]["interfaces"], "name", &truth["network"]);
}

/// What a tunnel's `address` holds is its end, an IP address: 4 octets, or 16.
#[rstest]
#[case("g0")]
#[case("vti0x")]
#[case("t6")]
fn the_end_of_a_tunnel_is_no_mac_address(#[case] name: &str) {
    let machine = recorded("remote");
    let raw = machine.path().join(format!("sys/class/net/{name}/address"));
    let raw = std::fs::read_to_string(raw).unwrap();
    assert!(raw.trim().chars().any(|sign| !matches!(sign, '0' | ':')), "{raw}");
    let report = of_report(&look(machine.path()));
    let told = part(&report["inventory"]["network"]["interfaces"], "name", &json!(name));
    assert!(told["mac"].is_null(), "{told}");
}

/// A SCSI disk on the way to which no transport stands says none; the kernel names each of them by a device.
#[rstest]
#[case("host6/rport-6:0-1/target6:0:0/6:0:0:1", json!("fc"))]
#[case("host6/port-6:0/end_device-6:0/target6:0:0/6:0:0:1", json!("sas"))]
#[case("host6/session3/target6:0:0/6:0:0:1", json!("iscsi"))]
#[case("host6/target6:0:0/6:0:0:1", Value::Null)]
#[case("host6/sessions/target6:0:0/6:0:0:1", Value::Null)]
fn a_transport_is_what_stands_on_the_way(#[case] way: &str, #[case] transport: Value) {
    let machine = recorded_to_change("remote");
    let link = machine.path().join("sys/block/sda");
    let disk = machine.path().join(format!("sys/devices/platform/{way}/block/sda"));
    let old = std::fs::canonicalize(&link).unwrap();
    std::fs::create_dir_all(disk.parent().unwrap()).unwrap();
    std::fs::rename(old, &disk).unwrap();
    std::fs::remove_file(&link).unwrap();
    std::os::unix::fs::symlink(format!("../devices/platform/{way}/block/sda"), &link).unwrap();
    let report = of_report(&look(machine.path()));
    let told = part(&report["inventory"]["storage"]["disks"], "name", &json!("sda"));
    assert_eq!(told.get("transport").unwrap_or(&Value::Null), &transport);
}
