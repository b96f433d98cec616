//! Recorded machines against what they were built from.

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
use serde_json::Value;
use support::{json, look, recorded, truth};

/// The report's inventory of a machine, and its truth.
fn both(name: &str) -> (Value, Value, Value) {
    let folder = recorded(name);
    let report = json(&look(folder.path()));
    (report["inventory"].clone(), report["machine"].clone(), truth(name))
}

/// Asserts that what the truth knows is what the report says.
#[track_caller]
fn same(found: &Value, expected: &Value, what: &str) {
    if !expected.is_null() {
        assert_eq!(found, expected, "{what}");
    }
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
#[case("arm-board")]
fn identity_and_system(#[case] name: &str) {
    let (inventory, machine, truth) = both(name);
    assert_eq!(machine["hostname"], truth["hostname"]);
    assert_eq!(machine["machine_id"], truth["machine_id"]);
    let os = &inventory["os"];
    assert_eq!(os["kernel_release"], truth["kernel_release"]);
    let release = &truth["os_release"];
    for (field, key) in [
        ("pretty_name", "PRETTY_NAME"),
        ("name", "NAME"),
        ("version", "VERSION"),
        ("version_id", "VERSION_ID"),
        ("codename", "VERSION_CODENAME"),
        ("id", "ID"),
        ("home_url", "HOME_URL"),
        ("support_url", "SUPPORT_URL"),
        ("bug_report_url", "BUG_REPORT_URL"),
    ] {
        assert_eq!(os[field], release[key], "{field}");
    }
    let platform = &inventory["platform"];
    for (part, fields) in [
        ("system", &["manufacturer", "product", "version", "serial", "uuid", "sku", "family"][..]),
        ("board", &["manufacturer", "product", "version", "serial", "asset_tag", "location"]),
        ("chassis", &["manufacturer", "version", "serial", "asset_tag", "sku"]),
    ] {
        let found = match part {
            "system" => &platform["system"],
            "board" => &platform["boards"][0],
            _ => &platform["chassis"][0],
        };
        for field in fields {
            same(&found[field], &truth[part][field], &format!("{part} {field}"));
        }
    }
    if truth["system"].is_null() {
        let tree = &platform["device_tree"];
        assert_eq!(tree["model"], truth["firmware"]["model"]);
        assert_eq!(tree["compatible"], truth["firmware"]["compatible"]);
    }
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
fn what_only_the_firmware_tells(#[case] name: &str) {
    let (inventory, _, truth) = both(name);
    let platform = &inventory["platform"];
    let strings: Vec<&Value> =
        platform["oem_strings"].as_array().unwrap().iter().map(|one| &one["text"]).collect();
    assert_eq!(serde_json::json!(strings), truth["oem_strings"]);
    let supplies = platform["power_supplies"].as_array().unwrap();
    let expected = truth["dmi_extra"]["power_supplies"].as_array().cloned().unwrap_or_default();
    assert_eq!(supplies.len(), expected.len());
    for (found, expected) in supplies.iter().zip(&expected) {
        for (field, key) in [
            ("location", "location"),
            ("name", "name"),
            ("manufacturer", "manufacturer"),
            ("serial", "serial"),
            ("asset_tag", "asset_tag"),
            ("part_number", "part_number"),
            ("revision", "revision"),
            ("max_watts", "max_watts"),
        ] {
            assert_eq!(found[field], expected[key], "{field}");
        }
    }
    if let Some(expected) = truth["dmi_extra"]["slots"].as_array() {
        let slots = platform["slots"].as_array().unwrap();
        assert_eq!(slots.len(), expected.len());
        for (found, slot) in slots.iter().zip(expected) {
            assert_eq!(found["designation"], slot["name"]);
            let used = slot["in_use"].as_bool().unwrap();
            assert_eq!(found["usage"], if used { "In use" } else { "Available" });
            if used {
                assert_eq!(found["pci_address"], slot["bus_address"]);
                assert_eq!(found["driver"], "nvme");
            }
        }
    }
    if truth["ipmi"]["dmi_type_38"] == true {
        let controller = &platform["management"]["controllers"][0];
        assert_eq!(controller["interface"], "KCS: Keyboard Controller Style");
        let port = truth["ipmi"]["io_base"].as_str().unwrap();
        assert_eq!(controller["address"], format!("I/O port {port}"));
    }
}

#[rstest]
#[case("rack-2s", "2025-03-17")]
#[case("cloud-small", "2026-02-11")]
#[case("arm-server", "2024-08-30")]
#[case("arm-board", "")]
fn firmware(#[case] name: &str, #[case] date: &str) {
    let (inventory, _, truth) = both(name);
    let (found, expected) = (&inventory["firmware"], &truth["firmware"]);
    assert_eq!(found["kind"], expected["mode"]);
    for field in ["vendor", "version", "release"] {
        same(&found[field], &expected[field], field);
    }
    assert_eq!(found["kernel_command_line"], truth["kernel_cmdline"]);
    match date {
        "" => assert!(found["release_date"].is_null()),
        date => assert_eq!(found["release_date"], date),
    }
}

#[rstest]
#[case("rack-2s", "Fjell FX-6244 CPU @ 2.40GHz", Some("hypervisor"))]
#[case("cloud-small", "Skarnberg vCPU (gen 2)", Some("hypervisor"))]
#[case("arm-server", "Neoverse-N1", None)]
#[case("arm-board", "ARMv7 Processor rev 0 (v7l)", None)]
fn processors(#[case] name: &str, #[case] model: &str, #[case] runs_on: Option<&str>) {
    let (inventory, _, truth) = both(name);
    let (found, expected) = (&inventory["cpu"], &truth["cpu"]);
    let number = |key: &str| expected[key].as_u64().unwrap();
    assert_eq!(found["packages"], expected["sockets"]);
    assert_eq!(found["cores"], number("sockets") * number("cores_per_socket"));
    assert_eq!(found["threads"], expected["logical_cpus"]);
    assert_eq!(found["online"], expected["online"]);
    assert_eq!(found["offline"], expected["offline"]);
    assert_eq!(found["vendor"], expected["vendor"]);
    assert_eq!(found["model_name"], model);
    assert_eq!(found["runs_on"].as_str(), runs_on);
    for field in ["family", "model", "stepping"] {
        same(&found[field], &expected[field], field);
    }
    for (index, socket) in expected["dmi"].as_array().into_iter().flatten().enumerate() {
        let socket_found = &found["sockets"][index];
        for (field, key) in [
            ("manufacturer", "manufacturer"),
            ("version", "version"),
            ("serial", "serial"),
            ("asset_tag", "asset_tag"),
            ("part_number", "part_number"),
            ("max_speed_mhz", "max_mhz"),
            ("boot_speed_mhz", "current_mhz"),
        ] {
            assert_eq!(socket_found[field], socket[key], "{field}");
        }
    }
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
fn memory_modules(#[case] name: &str) {
    let (inventory, _, truth) = both(name);
    let (found, expected) = (&inventory["memory"], &truth["memory"]);
    assert_eq!(found["installed_bytes"], expected["configured_bytes"]);
    assert_eq!(
        found["slots"].as_array().unwrap().len() as u64,
        expected["slots"].as_u64().unwrap()
    );
    same(&found["arrays"][0]["max_capacity_bytes"], &expected["max_capacity_bytes"], "capacity");
    same(&found["arrays"][0]["error_correction"], &expected["ecc"], "ecc");
    let modules = found["modules"].as_array().unwrap();
    let mut filled = 0;
    for (slot, dimm) in expected["dimms"].as_array().unwrap().iter().enumerate() {
        assert_eq!(found["slots"][slot]["locator"], dimm["locator"]);
        if dimm["empty"] == true {
            assert_eq!(found["slots"][slot]["state"], "empty");
            continue;
        }
        assert_eq!(found["slots"][slot]["state"], "filled");
        let module = &modules[filled];
        filled += 1;
        for (field, key) in [
            ("slot", "locator"),
            ("bank", "bank"),
            ("size_bytes", "size_bytes"),
            ("manufacturer", "manufacturer"),
            ("serial", "serial"),
            ("part_number", "part_number"),
            ("asset_tag", "asset_tag"),
            ("speed_mts", "speed"),
            ("configured_speed_mts", "configured_speed"),
            ("kind", "type"),
            ("form_factor", "form_factor"),
            ("ranks", "rank"),
        ] {
            same(&module[field], &dimm[key], field);
        }
    }
    assert_eq!(modules.len(), filled);
}

#[test]
fn a_board_without_firmware_tables_has_no_modules_and_says_why() {
    let folder = recorded("arm-board");
    let report = look(folder.path());
    assert!(json(&report)["inventory"]["memory"]["modules"].is_null());
    let gaps = report.gaps();
    let (_, gap) = gaps.iter().find(|(at, _)| at == "/inventory/memory/modules").unwrap();
    let tried: Vec<&str> = gap.tried.iter().map(|attempt| &*attempt.source).collect();
    assert_eq!(tried, ["/sys/firmware/dmi/tables/DMI", "/sys/firmware/dmi/entries"]);
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
#[case("arm-board")]
fn disks_and_partitions(#[case] name: &str) {
    let (inventory, _, truth) = both(name);
    let disks = inventory["storage"]["disks"].as_array().unwrap();
    let expected = truth["disks"].as_array().unwrap();
    let wanted: Vec<&Value> = expected.iter().filter(|disk| disk["kind"] != "optical").collect();
    assert_eq!(disks.len(), wanted.len());
    for disk in wanted {
        // Names are given in the order of probing; what the drive says of itself is not.
        let found = disks
            .iter()
            .find(|found| match disk["serial"].as_str() {
                Some(serial) => found["serial"] == serial,
                None => found["name"] == disk["name"],
            })
            .unwrap_or_else(|| panic!("no disk {disk}"));
        for (field, key) in [
            ("size_bytes", "size_bytes"),
            ("model", "model"),
            ("vendor", "vendor"),
            ("firmware_revision", "firmware_rev"),
            ("rotating", "rotational"),
            ("removable", "removable"),
            ("read_only", "read_only"),
            ("logical_sector_bytes", "logical_block_size"),
            ("physical_sector_bytes", "physical_block_size"),
            ("partition_table", "partition_table"),
        ] {
            same(&found[field], &disk[key], &format!("{} {field}", disk["id"]));
        }
        if let Some(wwn) = disk["wwn"].as_str() {
            let digits = wwn.trim_start_matches("0x");
            assert!(found["wwn"].as_str().unwrap().ends_with(digits));
        }
        same(&found["filesystem"], &disk["filesystem"]["type"], "filesystem on the whole disk");
        same(&found["filesystem_label"], &disk["filesystem"]["label"], "its label");
        partitions(found, disk, &truth);
    }
}

fn partitions(found: &Value, disk: &Value, truth: &Value) {
    let all = truth["partitions"].as_array().unwrap();
    let wanted: Vec<&Value> = all.iter().filter(|one| one["disk"] == disk["id"]).collect();
    let partitions = found["partitions"].as_array().unwrap();
    assert_eq!(partitions.len(), wanted.len(), "partitions of {}", disk["id"]);
    for partition in wanted {
        let found = partitions.iter().find(|found| found["number"] == partition["number"]).unwrap();
        let sector = partition["sector_size"].as_u64().unwrap();
        let bytes = |key: &str| partition[key].as_u64().unwrap() * sector;
        assert_eq!(found["start_bytes"], bytes("start_sector"));
        // The kernel shows an extended partition as one or two sectors, enough for its loader.
        let extended = matches!(partition["type"].as_str(), Some("5" | "f" | "85"));
        if !extended {
            assert_eq!(found["size_bytes"], bytes("sectors"), "{partition}");
        }
        let uuid = partition["partuuid"].as_str().map(str::to_ascii_lowercase);
        assert_eq!(found["partuuid"].as_str().map(str::to_owned), uuid);
        same(&found["label"], &partition["name"], "name");
        same(&found["filesystem_label"], &partition["label"], "label");
        if let Some(filesystem) = partition["filesystem"].as_str() {
            assert_eq!(found["filesystem"], filesystem);
        }
        if let Some(mount) = partition["mount_point"].as_str() {
            assert_eq!(found["mount_points"], serde_json::json!([mount]));
        }
    }
}

#[test]
fn an_optical_drive_stands_apart_from_the_disks() {
    let (inventory, _, truth) = both("rack-2s");
    let expected = truth["disks"].as_array().unwrap();
    let drive = expected.iter().find(|disk| disk["kind"] == "optical").unwrap();
    let drives = inventory["storage"]["optical_drives"].as_array().unwrap();
    assert_eq!(drives.len(), 1);
    assert_eq!(drives[0]["serial"], drive["serial"]);
    assert_eq!(drives[0]["model"], drive["model"]);
    assert_eq!(drives[0]["firmware_revision"], drive["firmware_rev"]);
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
#[case("arm-board")]
fn display_devices(#[case] name: &str) {
    let (inventory, _, truth) = both(name);
    let found = inventory["gpu"]["devices"].as_array().unwrap();
    let expected = truth["gpus"].as_array().unwrap();
    assert_eq!(found.len(), expected.len());
    for (found, gpu) in found.iter().zip(expected) {
        assert_eq!(found["address"], format!("pci {}", gpu["address"].as_str().unwrap()));
        assert_eq!(found["vendor_id"], gpu["vendor"]);
        assert_eq!(found["device_id"], gpu["device"]);
        assert_eq!(found["driver"], gpu["driver"]);
    }
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
#[case("arm-board")]
fn two_surveys_give_one_inventory(#[case] name: &str) {
    let folder = recorded(name);
    let (first, second) = (look(folder.path()), look(folder.path()));
    assert_eq!(first.inventory, second.inventory);
    assert_eq!(first.inventory_digest(), second.inventory_digest());
}

/// Boards and firmware show pictures without PCI; a link back to a PCI display is not told twice.
#[test]
fn display_devices_elsewhere_are_found_once() {
    let folder = support::demo_with("gannet-before", |tree| {
        let simple = "sys/devices/platform/simple-framebuffer.0";
        tree.folder(simple);
        tree.link("sys/class/graphics/fb0/device", simple);
        tree.link(format!("{simple}/driver"), "sys/bus/platform/drivers/simple-framebuffer");
        tree.folder("sys/bus/platform/drivers/simple-framebuffer");
        tree.link("sys/class/drm/card1/device", simple);
        tree.remove("usr/share/misc/pci.ids");
        tree.folder("sys/class/graphics/fbcon");
    });
    let report = json(&look(folder.path()));
    let devices = report["inventory"]["gpu"]["devices"].as_array().unwrap();
    let addresses: Vec<&Value> = devices.iter().map(|device| &device["address"]).collect();
    let all = ["pci 0000:63:00.0", "pci 0000:82:00.0", "platform simple-framebuffer.0"];
    assert_eq!(addresses, all);
    assert_eq!(devices[2]["driver"], "simple-framebuffer");
    // No id list that is left names this made-up vendor: the numbers stand, the name says why it is missing.
    assert!(devices[0]["vendor"].is_null());
    assert_eq!(devices[0]["vendor_id"], "f5c7");
}

#[test]
fn acpi_tables_are_named_by_their_headers_and_not_kept() {
    let folder = recorded("rack-2s");
    let report = look(folder.path());
    let tables = &json(&report)["inventory"]["firmware"]["acpi_tables"];
    let names: Vec<&Value> = tables.as_array().unwrap().iter().map(|one| &one["name"]).collect();
    assert_eq!(names, ["APIC", "DSDT", "FACP", "FACS", "HPET", "MCFG", "SLIT", "SRAT", "WAET"]);
    assert_eq!(tables[0]["oem_id"], "BOCHS");
    assert!(tables[3]["oem_id"].is_null(), "the control structure has another header");
    let read = report.sources.iter().find(|one| one.path.ends_with("tables/DSDT")).unwrap();
    assert_eq!((read.bytes, read.outcome.code()), (Some(36), "done"));
}

#[rstest]
#[case(&[6, 0, 0, 0, 1], Some(true))]
#[case(&[6, 0, 0, 0, 0], Some(false))]
#[case(&[6, 0, 0, 0, 7], None)]
#[case(&[6, 0], None)]
fn secure_boot_is_read_from_its_variable(#[case] bytes: &[u8], #[case] on: Option<bool>) {
    let variable = "sys/firmware/efi/efivars/SecureBoot-8be4df61-93ca-11d2-aa0d-00e098032b8c";
    let folder = support::demo_with("gannet-before", |tree| tree.file(variable, bytes));
    let report = json(&look(folder.path()));
    assert_eq!(report["inventory"]["firmware"]["secure_boot"].as_bool(), on);
}

/// Power under an emulator: the device tree says that it is one, and who it is.
#[test]
fn a_partition_of_power_is_told_by_its_device_tree() {
    let (inventory, machine, _) = both("ppc");
    let platform = &inventory["platform"];
    assert_eq!(platform["virtualization"]["runs_in"], "virtual-machine");
    let technologies = platform["virtualization"]["technologies"].as_array().unwrap();
    assert!(technologies.contains(&"QEMU".into()), "{technologies:?}");
    assert_eq!(platform["system"]["product"], "IBM pSeries (emulated by qemu)");
    assert_eq!(platform["system"]["uuid"], "b09c0900-0000-4000-8000-00000000cafe");
    assert_eq!(machine["system_uuid"], "b09c0900-0000-4000-8000-00000000cafe");
    assert_eq!(platform["system"]["partition_name"], "ppc");
    assert_eq!(inventory["firmware"]["kind"], "open-firmware");
    assert_eq!(inventory["firmware"]["version"], "SLOF,HEAD");
}

/// IBM Z tells of the machine, the partition and every level of virtual machines.
#[test]
fn a_machine_of_z_is_told_by_what_it_says_of_itself() {
    let (inventory, machine, _) = both("s390");
    let platform = &inventory["platform"];
    let system = &platform["system"];
    assert_eq!(system["manufacturer"], "QEMU");
    assert_eq!(system["product"], "8561");
    assert_eq!(system["uuid"], "5390aa00-0000-4000-8000-00000000cafe");
    assert_eq!(machine["system_uuid"], system["uuid"]);
    assert!(machine["serial"].is_null(), "its emulator writes its own name into every field");
    assert_eq!(
        (&system["partition_name"], &system["partition_number"]),
        (&"QEMU".into(), &0.into())
    );
    let levels = platform["virtualization"]["levels"].as_array().unwrap();
    assert_eq!(levels.len(), 1);
    assert_eq!(levels[0]["name"], "s390");
    assert_eq!(levels[0]["control_program"], "KVM/Linux");
    assert_eq!(levels[0]["cpus"], 2);
    assert_eq!(platform["virtualization"]["runs_in"], "virtual-machine");
}

/// What a device tree says of who the machine is, without what every machine of its kind says.
#[rstest]
#[case("vm,uuid", "00000000-0000-0000-0000-000000000000", "uuid", None)]
#[case("vm,uuid", "FFFFFFFF-FFFF-FFFF-FFFF-FFFFFFFFFFFF", "uuid", None)]
#[case(
    "vm,uuid",
    "B09C0900-0000-4000-8000-00000000CAFF",
    "uuid",
    Some("b09c0900-0000-4000-8000-00000000caff")
)]
#[case("system-id", "IBM,0000000", "serial", None)]
#[case("system-id", "IBM,0278ABC", "serial", Some("0278ABC"))]
#[case("serial-number", "0000000000000000", "serial", None)]
#[case("serial-number", "10000000a1b2c3d4", "serial", Some("10000000a1b2c3d4"))]
fn an_id_that_every_machine_has_is_nobodys(
    #[case] property: &str,
    #[case] text: &str,
    #[case] field: &str,
    #[case] told: Option<&str>,
) {
    let folder = support::recorded_to_change("arm-board");
    let tree = folder.path().join("sys/firmware/devicetree/base");
    std::fs::write(tree.join(property), format!("{text}\0")).unwrap();
    let report = support::json(&look(folder.path()));
    assert_eq!(report["inventory"]["platform"]["system"][field].as_str(), told);
}

/// A serial number in what a machine of Z says of itself is one, unless it is the maker's name.
#[rstest]
#[case("QEMU            ", None)]
#[case("0000000000000000", None)]
#[case("00000000000A1B2C", Some("00000000000A1B2C"))]
fn a_sequence_code_is_a_serial_number(#[case] code: &str, #[case] told: Option<&str>) {
    let folder = support::recorded_to_change("s390");
    let path = folder.path().join("proc/sysinfo");
    let text = std::fs::read_to_string(&path).unwrap();
    let changed =
        text.replace("Sequence Code:        QEMU", &format!("Sequence Code:        {code}"));
    support::rewrite(&path, changed);
    let report = support::json(&look(folder.path()));
    assert_eq!(report["machine"]["serial"].as_str(), told);
}
