//! What the firmware's tables and the kernel's files say of platform and firmware: hand-made corners, each on a
//! machine that is otherwise whole.

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
use support::{changed, demo, demo_with, json as of_report, look, recorded_to_change, with_table};
use tectum_demo::{StructureBuilder, entry_point_32, table};

const DMI: &str = "sys/firmware/dmi/tables/DMI";

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
fn without_the_whole_table_the_files_of_one_structure_each_say_the_same(#[case] name: &str) {
    let folder = recorded_to_change(name);
    let whole = of_report(&look(folder.path()));
    std::fs::remove_dir_all(folder.path().join("sys/firmware/dmi/tables")).unwrap();
    let report = look(folder.path());
    let pieces = of_report(&report);
    assert_eq!(pieces["inventory"]["platform"]["firmware_tables"]["source"], "structure-entries");
    assert_eq!(whole["inventory"]["platform"]["firmware_tables"]["source"], "structure-table");
    for part in ["system", "boards", "chassis", "slots", "power_supplies", "oem_strings"] {
        let at = format!("/inventory/platform/{part}");
        assert_eq!(pieces.pointer(&at), whole.pointer(&at), "{part}");
    }
    assert_eq!(pieces["inventory"]["memory"], whole["inventory"]["memory"]);
    let memory = report.inventory.memory.as_ref().unwrap();
    let source = &memory.modules[0].size_bytes.evidence()[0].source;
    assert_eq!(&**source, "/sys/firmware/dmi/entries/17-0/raw", "evidence names the very file");
}

#[test]
fn without_any_table_the_published_strings_are_said_to_be_the_source() {
    let folder = demo_with("gannet-before", |tree| tree.remove("sys/firmware/dmi"));
    let report = of_report(&look(folder.path()));
    let tables = &report["inventory"]["platform"]["firmware_tables"];
    assert_eq!(tables["source"], "published-strings");
    assert!(tables["structures"].is_null());
    assert_eq!(report["inventory"]["platform"]["system"]["product"], "Fathom 2240");
}

/// A UUID that boards come with is no identity: two machines that have it would be one.
#[rstest]
#[case::of_many("03000200-0400-0500-0006-000700080009", None)]
#[case::of_one(
    "8B0A5D1E-3C57-4F5E-9D1A-77C0A1E4B201",
    Some("8b0a5d1e-3c57-4f5e-9d1a-77c0a1e4b201")
)]
fn a_uuid_that_boards_come_with_is_none(#[case] text: &str, #[case] told: Option<&str>) {
    let report = changed(|tree| {
        tree.remove("sys/firmware/dmi");
        tree.line("sys/devices/virtual/dmi/id/product_uuid", text);
    });
    let uuid = &report["inventory"]["platform"]["system"]["uuid"];
    assert_eq!((uuid.as_str(), report["machine"]["system_uuid"].as_str()), (told, told));
    // And of the table, whose first fields stand in the other order.
    let bytes: Vec<u8> = (0..8).flat_map(|at| [0, at + 2]).collect();
    let system = StructureBuilder::new(1, 7).text("Marram Systems").bytes(&[0; 3]);
    let system = system.bytes(&bytes).bytes(&[6, 0, 0]);
    let report = changed(|tree| {
        tree.file(DMI, table([system]));
        tree.remove("sys/devices/virtual/dmi/id/product_uuid");
    });
    assert_eq!(report["inventory"]["platform"]["system"]["manufacturer"], "Marram Systems");
    assert!(report["inventory"]["platform"]["system"]["uuid"].is_null());
    let gaps = report["gaps"].as_array().unwrap();
    let gap = gaps.iter().find(|gap| gap["at"] == "/inventory/platform/system/uuid").unwrap();
    assert_eq!(gap["why"], "blank", "{gap}");
}

#[test]
fn what_contradicts_the_entry_point_is_told_and_what_is_readable_is_read() {
    let mut bytes = table([
        StructureBuilder::new(1, 7).text("Marram Systems").text("Fathom 2240"),
        StructureBuilder::new(11, 7).byte(1).strings("twice the same handle", &[]),
    ]);
    let entry = entry_point_32((2, 8), &bytes, 9);
    // The end of the table is cut off.
    bytes.truncate(bytes.len() - 3);
    let report = changed(|tree| {
        tree.file(DMI, bytes);
        tree.file("sys/firmware/dmi/tables/smbios_entry_point", entry);
    });
    let platform = &report["inventory"]["platform"];
    assert_eq!(platform["system"]["product"], "Fathom 2240");
    assert_eq!(platform["oem_strings"][0]["text"], "twice the same handle");
    let told: Vec<&str> = platform["firmware_tables"]["oddities"]
        .as_array()
        .unwrap()
        .iter()
        .map(|odd| odd["what"].as_str().unwrap())
        .collect();
    for part in ["header", "handle 0x0007", "says 9 structures", "bytes long"] {
        assert!(told.iter().any(|what| what.contains(part)), "{part}: {told:?}");
    }
}

#[rstest]
#[case::nothing("etc/nothing", "", "no-sign-of-either", None)]
#[case::xen("sys/hypervisor/type", "xen", "virtual-machine", Some("Xen"))]
#[case::another_hypervisor("sys/hypervisor/type", "surf", "virtual-machine", None)]
#[case::device_tree(
    "sys/firmware/devicetree/base/hypervisor/compatible",
    "linux,kvm\0",
    "virtual-machine",
    Some("KVM")
)]
#[case::clock(
    "sys/devices/system/clocksource/clocksource0/available_clocksource",
    "kvm-clock tsc hpet",
    "virtual-machine",
    Some("KVM")
)]
#[case::bare_clock(
    "sys/devices/system/clocksource/clocksource0/available_clocksource",
    "tsc hpet acpi_pm",
    "no-sign-of-either",
    None
)]
#[case::mainframe(
    "proc/sysinfo",
    "Manufacturer: IBM\nVM00 Control Program: z/VM 7.2.0\n",
    "virtual-machine",
    Some("z/VM")
)]
#[case::maker("sys/devices/virtual/dmi/id/sys_vendor", "QEMU", "virtual-machine", Some("QEMU"))]
#[case::product("sys/devices/virtual/dmi/id/product_name", "KVM", "virtual-machine", Some("KVM"))]
#[case::a_maker_whose_name_only_begins_alike(
    "sys/devices/virtual/dmi/id/sys_vendor",
    "Qemunda Works",
    "no-sign-of-either",
    None
)]
#[case::container("run/systemd/container", "systemd-nspawn", "container", Some("systemd-nspawn"))]
#[case::unknown_container("run/systemd/container", "tidepool", "container", None)]
#[case::marker(".dockerenv", "", "container", Some("Docker"))]
#[case::group(
    "proc/1/cgroup",
    "0::/system.slice/docker-77f3c19e.scope",
    "container",
    Some("Docker")
)]
#[case::pod("proc/1/cgroup", "4:cpu:/kubepods/burstable/pod1", "container", Some("Kubernetes"))]
#[case::no_group("proc/1/cgroup", "0::/init.scope", "no-sign-of-either", None)]
#[case::layers(
    "proc/1/mountinfo",
    "20 1 0:9 / / rw - overlay overlay rw,lowerdir=/var/lib/docker/overlay2/l/A",
    "container",
    Some("Docker")
)]
#[case::lxcfs(
    "proc/1/mountinfo",
    "20 1 0:9 / /proc/cpuinfo rw - fuse.lxcfs lxcfs rw",
    "container",
    Some("LXC")
)]
#[case::lxcfs_where_containers_run(
    "proc/1/mountinfo",
    "20 1 0:9 / /var/lib/lxcfs rw - fuse.lxcfs lxcfs rw",
    "no-sign-of-either",
    None
)]
fn signs_of_virtual_machines_and_containers(
    #[case] path: &str,
    #[case] text: &str,
    #[case] runs_in: &str,
    #[case] technology: Option<&str>,
) {
    let report = changed(|tree| tree.line(path, text));
    let found = &report["inventory"]["platform"]["virtualization"];
    assert_eq!(found["runs_in"], runs_in);
    match technology {
        Some(name) => assert_eq!(found["technologies"], json!([name])),
        None => assert!(found["technologies"].is_null(), "named only on evidence: {found}"),
    }
    let signs = found["signs"].as_array().unwrap();
    assert_eq!(signs.is_empty(), runs_in == "no-sign-of-either");
}

const VENDOR: &str = "sys/devices/virtual/dmi/id/sys_vendor";
const PRODUCT: &str = "sys/devices/virtual/dmi/id/product_name";
const FACP: &str = "sys/firmware/acpi/tables/FACP";
const XEN: (&str, &str) = ("sys/hypervisor/type", "xen");

/// The head of a table by a maker (ACPI Specification 6.5, clause 5.2.6).
fn acpi_by(maker: &str) -> String {
    format!("FACP\u{24}\0\0\0\u{6}\0{maker:\0<6}TECTUM01\u{1}\0\0\0TECT\u{1}\0\0\0")
}

/// What real machines have too, and what is left over, decides nothing; what decides is told with its name.
#[rstest]
#[case::a_disk_made_from_an_image_of_a_container(
    &[(".dockerenv", ""), ("proc/2/comm", "kthreadd")], "unclear", &[])]
#[case::a_container_that_shows_processes_of_its_own(
    &[(".dockerenv", ""), ("proc/2/comm", "tidegauged")], "container", &["Docker"])]
#[case::a_virtual_machine_with_such_a_disk(
    &[(".dockerenv", ""), ("proc/2/comm", "kthreadd"), XEN], "virtual-machine", &["Xen"])]
#[case::the_control_domain(
    &[XEN, ("sys/hypervisor/start_flags/initdomain", "1")], "control-domain", &["Xen"])]
#[case::the_control_domain_by_its_features(
    &[XEN, ("sys/hypervisor/properties/features", "00002f05")], "control-domain", &["Xen"])]
#[case::the_control_domain_by_its_capabilities(
    &[XEN, ("proc/xen/capabilities", "control_d")], "control-domain", &["Xen"])]
#[case::another_domain(
    &[XEN, ("sys/hypervisor/start_flags/initdomain", "0"), ("proc/xen/capabilities", ""),
      ("sys/hypervisor/properties/features", "00002705")], "virtual-machine", &["Xen"])]
#[case::the_control_domain_on_a_virtual_machine(
    &[XEN, ("proc/xen/capabilities", "control_d"), (VENDOR, "VMware, Inc.")],
    "virtual-machine", &["Xen", "VMware"])]
#[case::the_control_domain_on_a_cloud_that_calls_both_the_same(
    &[XEN, ("proc/xen/capabilities", "control_d"), (PRODUCT, "Google Compute Engine")],
    "control-domain", &["Xen"])]
#[case::a_container_on_the_control_domain(
    &[XEN, ("proc/xen/capabilities", "control_d"), ("run/systemd/container", "lxc")],
    "container", &["Xen", "LXC"])]
#[case::a_real_machine_of_a_maker_of_both(
    &[(VENDOR, "Nutanix"), (PRODUCT, "NX-0000-T1")], "no-sign-of-either", &[])]
#[case::a_virtual_one_of_theirs(
    &[(VENDOR, "Nutanix"), (PRODUCT, "AHV")], "virtual-machine", &["Nutanix AHV"])]
#[case::a_product_that_only_begins_alike(
    &[(PRODUCT, "KVM over tide 8")], "no-sign-of-either", &[])]
#[case::a_cloud_that_calls_both_the_same(
    &[(PRODUCT, "Google Compute Engine"), (FACP, "Google")], "unclear", &[])]
#[case::one_of_them_that_something_decides(
    &[(PRODUCT, "Google Compute Engine"), (CLOCKS, "kvm-clock tsc")], "virtual-machine", &["KVM", "Google Compute Engine"])]
#[case::a_cloud_that_says_the_type(
    &[(VENDOR, "Amazon EC2"), (PRODUCT, "t0.tiny"), (FACP, "AMAZON")],
    "virtual-machine", &["Amazon EC2"])]
#[case::a_real_one_of_theirs(
    &[(VENDOR, "Amazon EC2"), (PRODUCT, "t0.metal"), (FACP, "AMAZON")], "no-sign-of-either", &[])]
#[case::one_that_does_not_say_it(&[(FACP, "AMAZON")], "unclear", &[])]
#[case::a_maker_of_tables_for_virtual_machines_alone(
    &[(FACP, "VBOX")], "virtual-machine", &["VirtualBox"])]
fn what_decides_and_what_does_not(
    #[case] files: &[(&str, &str)],
    #[case] runs_in: &str,
    #[case] technologies: &[&str],
) {
    let report = changed(|tree| {
        for (path, text) in files {
            match *path {
                FACP => tree.file(FACP, acpi_by(text)),
                _ => tree.line(*path, text),
            }
        }
    });
    let found = &report["inventory"]["platform"]["virtualization"];
    assert_eq!(found["runs_in"], runs_in, "{found}");
    let named = found["technologies"].as_array().cloned().unwrap_or_default();
    assert_eq!(named, technologies, "{found}");
    let decisive = |sign: &Value| sign["decisive"].as_bool().unwrap();
    let signs = found["signs"].as_array().unwrap();
    let decided = !["unclear", "no-sign-of-either"].contains(&runs_in);
    assert_eq!(signs.iter().any(decisive), decided, "{found}");
}

/// Devices of one kind, and what they hang on.
#[rstest]
#[case::made_up("devices/platform/a0000000.virtio_mmio/virtio0", "virtual-machine")]
#[case::of_a_channel("devices/css0/0.0.0001/0.0.0003/virtio0", "virtual-machine")]
#[case::a_card_may_show_them("devices/pci0000:00/0000:00:05.0/virtio0", "unclear")]
#[case::another_processor_on_the_board(
    "devices/platform/soc/10000000.m4/remoteproc/remoteproc0/rproc-virtio.0.auto/virtio0",
    "no-sign-of-either"
)]
#[case::a_queue_of_a_card("devices/pci0000:00/0000:00:05.2/vdpa0/virtio0", "no-sign-of-either")]
fn devices_like_those_that_hypervisors_give(#[case] device: &str, #[case] runs_in: &str) {
    let report = changed(|tree| {
        tree.line(format!("sys/{device}/device"), "0x0001");
        tree.link("sys/bus/virtio/devices/virtio0", &format!("/sys/{device}"));
    });
    let found = &report["inventory"]["platform"]["virtualization"];
    assert_eq!(found["runs_in"], runs_in, "{found}");
    assert!(found["technologies"].is_null(), "{found}");
}

const CLOCKS: &str = "sys/devices/system/clocksource/clocksource0/available_clocksource";

#[test]
fn a_container_on_a_virtual_machine_is_both() {
    let report = changed(|tree| {
        tree.line("sys/hypervisor/type", "xen");
        tree.line("run/systemd/container", "lxc");
    });
    let found = &report["inventory"]["platform"]["virtualization"];
    assert_eq!(found["runs_in"], "container-in-virtual-machine");
    assert_eq!(found["technologies"], json!(["Xen", "LXC"]));
}

#[test]
fn boards_and_chassis_say_what_they_hold() {
    let report = with_table([
        StructureBuilder::new(2, 0x20)
            .text("Marram Systems")
            .bytes(&[0, 0, 0, 0, 0x11, 0])
            .word(0x30)
            .bytes(&[10, 2])
            .word(0x40)
            .word(0x41),
        StructureBuilder::new(3, 0x30)
            .text("Marram Systems")
            .bytes(&[0x80 | 28, 0, 0, 0, 4, 3, 5, 4])
            .dword(0)
            .bytes(&[4, 2, 1, 3, 0x80 | 39, 1, 2]),
        StructureBuilder::new(4, 0x40).text("CPU 1"),
    ]);
    let platform = &report["inventory"]["platform"];
    let board = &platform["boards"][0];
    assert_eq!(board["features"], json!(["Hosting board", "Hot swappable"]));
    assert_eq!(
        board["contained_structures"],
        json!(["CPU 1 (Processor Information)", "structure 0x0041"])
    );
    let chassis = &platform["chassis"][0];
    assert_eq!((&chassis["has_lock"], &chassis["power_cords"]), (&json!(true), &json!(2)));
    assert_eq!(chassis["bootup_state"], "Warning");
    assert_eq!(chassis["security_status"], "External interface locked out");
    assert_eq!(chassis["contained_elements"], json!(["System Power Supply: 1 to 2"]));
}

#[test]
fn power_heat_and_management_as_the_firmware_describes_them() {
    let report = with_table([
        StructureBuilder::new(22, 1)
            .text("backup bay")
            .text("Marram Power")
            .bytes(&[0, 0])
            .text("cache battery")
            .byte(6)
            .word(120)
            .word(3600)
            .bytes(&[0, 0xFF])
            .word(0x0A1B)
            .word(46 << 9 | 3 << 5 | 9)
            .bytes(&[0, 10])
            .dword(0),
        StructureBuilder::new(26, 2)
            .text("12 V rail")
            .byte(0x67)
            .word(13_200)
            .word(10_800)
            .word(0x8000)
            .word(0x8000)
            .word(0x8000)
            .dword(0)
            .word(12_000),
        StructureBuilder::new(28, 3)
            .text("Inlet")
            .byte(0x67)
            .word(850)
            .word(0xFF9C)
            .word(0x8000)
            .word(0x8000)
            .word(0x8000)
            .dword(0),
        StructureBuilder::new(27, 4).word(3).byte(0x63).byte(2).dword(0).word(0x8000).text("Fan 1"),
        StructureBuilder::new(34, 5).text("board monitor").byte(3).dword(0x48).byte(5),
        StructureBuilder::new(36, 6)
            .word(0x8000)
            .word(700)
            .word(0x8000)
            .word(800)
            .word(0x8000)
            .word(0x8000),
        StructureBuilder::new(35, 7).text("inlet watch").word(5).word(3).word(6),
        StructureBuilder::new(24, 8).byte(0b01_10_00_11),
        StructureBuilder::new(23, 9).byte(0x22).word(0).word(0).word(0).word(0),
        StructureBuilder::new(30, 10).text("Far Reach").byte(1),
        StructureBuilder::new(42, 11).bytes(&[0x40, 0, 1, 4, 0]),
    ]);
    let platform = &report["inventory"]["platform"];
    let battery = &platform["batteries"][0];
    assert_eq!(battery["serial"], "0x0A1B", "the smart battery's number, where there is no other");
    assert_eq!(battery["manufacture_date"], "2026-03-09");
    assert_eq!(battery["design_capacity_mwh"], 1200);
    assert_eq!(battery["chemistry"], "Lithium-ion");
    let voltage = &platform["probes"]["voltage"][0];
    assert_eq!((&voltage["max_mv"], &voltage["nominal_mv"]), (&json!(13_200), &json!(12_000)));
    let inlet = &platform["probes"]["temperature"][0];
    assert_eq!(inlet["min_decicelsius"], -100, "below zero");
    assert!(inlet["nominal_decicelsius"].is_null(), "the structure ends before it");
    let fan = &platform["cooling_devices"][0];
    assert_eq!((&fan["watched_by"], &fan["kind"]), (&json!("Inlet"), &json!("Fan")));
    assert!(fan["nominal_rpm"].is_null());
    let management = &platform["management"];
    assert_eq!(management["devices"][0]["chip"], "National Semiconductor LM75");
    assert_eq!(management["devices"][0]["address"], "0x48");
    let watch = &management["components"][0];
    assert_eq!((&watch["device"], &watch["watches"]), (&json!("board monitor"), &json!("Inlet")));
    assert_eq!((&watch["upper_critical"], &watch["lower_critical"]), (&json!(800), &Value::Null));
    assert_eq!(management["remote_access"][0]["enabled"], json!(["Inbound connection enabled"]));
    assert_eq!(management["host_interfaces"][0]["protocols"], json!(["Redfish over IP"]));
    let security = &platform["security"];
    assert_eq!(security["power_on_password"], "Enabled");
    assert_eq!(security["keyboard_password"], "Not Implemented");
    assert_eq!(security["administrator_password"], "Disabled");
    assert!(security["front_panel_reset"].is_null(), "3 says that it is not known");
    assert_eq!(security["watchdog_reset"], true);
    assert_eq!(security["boot_after_reset"], "Operating system");
}

#[test]
fn the_makers_own_structures_are_kept_by_number_with_their_strings() {
    let report = with_table([
        StructureBuilder::new(0xD7, 0x77).byte(1).strings("Secret Sauce 4", &["\u{20}".into()]),
        StructureBuilder::new(0x50, 0x78).byte(0),
    ]);
    let others = &report["inventory"]["platform"]["other_structures"];
    assert_eq!(others[0]["number"], 0xD7);
    assert_eq!((&others[0]["handle"], &others[0]["name"]), (&json!("0x0077"), &Value::Null));
    assert_eq!(others[0]["strings"][0]["text"], "Secret Sauce 4");
    assert!(others[0]["strings"][1]["text"].is_null(), "blank");
    assert_eq!(others[1]["number"], 0x50);
}

#[test]
fn boot_parameters_are_taken_apart() {
    let report = changed(|tree| {
        tree.line(
            "proc/cmdline",
            "console=tty0 root=PARTUUID=0a6d1c70-02 console=ttyS0,115200 ip=192.0.2.7::192.0.2.1 \
             ro hugepages=64 -- single",
        );
    });
    let parameters = report["inventory"]["firmware"]["boot_parameters"].as_array().unwrap();
    let of = |name: &str| parameters.iter().filter(|one| one["name"] == name).collect::<Vec<_>>();
    assert_eq!(parameters.len(), 6, "what stands behind -- is for the first process");
    let consoles: Vec<&Value> = of("console").iter().map(|one| &one["value"]).collect();
    assert_eq!(consoles, ["tty0", "ttyS0,115200"], "in their order, none lost");
    assert_eq!(of("root")[0]["value"], "PARTUUID=0a6d1c70-02");
    assert_eq!(of("ip")[0]["value"], "192.0.2.7::192.0.2.1");
    assert!(of("ro")[0]["value"].is_null());
}

#[test]
fn firmware_says_its_languages_its_parts_and_what_it_can() {
    let report = changed(|tree| {
        tree.file(
            DMI,
            table([
                StructureBuilder::new(0, 0)
                    .text("Marram Firmware")
                    .byte(0)
                    .word(0)
                    .bytes(&[0, 0xFF])
                    .qword(1 << 7 | 1 << 11)
                    .bytes(&[0x01, 0x08, 3, 8, 5, 2])
                    .word(0x4002),
                StructureBuilder::new(13, 1)
                    .bytes(&[2, 1])
                    .bytes(&[0; 15])
                    .byte(2)
                    .strings("enGB", &["isIS".into()]),
                StructureBuilder::new(45, 2)
                    .text("Controller")
                    .text("1.7")
                    .bytes(&[0, 0, 0, 0, 0, 0])
                    .qword(4 << 20)
                    .word(3)
                    .bytes(&[4, 0]),
            ]),
        );
        tree.line("sys/class/tpm/tpm0/tpm_version_major", 2);
        tree.line("sys/class/tpm/tpm0/device/description", "TPM 2.0 Device");
        tree.file("proc/cpuinfo", "processor: 0\nmicrocode: 0x1\n\nprocessor: 1\nmicrocode: 0x2\n");
    });
    let firmware = &report["inventory"]["firmware"];
    assert_eq!(firmware["rom_size_bytes"], 2u64 << 30, "the extended field, in GiB");
    assert_eq!(firmware["controller_release"], "5.2");
    let can = firmware["characteristics"].as_array().unwrap();
    assert_eq!(can.len(), 4);
    assert!(can.contains(&json!("UEFI Specification is supported")));
    assert_eq!(
        (&firmware["language"], &firmware["languages"]),
        (&json!("isIS"), &json!(["enGB", "isIS"]))
    );
    let item = &firmware["inventory"][0];
    assert_eq!((&item["image_bytes"], &item["state"]), (&json!(4 << 20), &json!("Enabled")));
    assert_eq!(item["characteristics"], json!(["Updatable", "Write-Protected"]));
    assert_eq!(firmware["tpms"][0]["major_version"], 2);
    assert_eq!(
        report["inventory"]["cpu"]["microcode"],
        json!(["0x1", "0x2"]),
        "CPUs that differ are both told"
    );
}

#[test]
fn a_processor_without_microcode_in_cpuinfo_is_asked_for_it_one_by_one() {
    let report = changed(|tree| {
        tree.file("proc/cpuinfo", "processor: 0\n");
        tree.line("sys/devices/system/cpu/cpu0/microcode/version", "0x77");
    });
    assert_eq!(report["inventory"]["cpu"]["microcode"], json!(["0x77"]));
}

#[test]
fn the_same_machine_has_the_same_inventory_whatever_moves_by_itself() {
    let report = look(demo("gannet-before").path());
    let moved = demo_with("gannet-before", |tree| {
        tree.line("proc/meminfo", "MemTotal: 131000000 kB\nMemFree: 5 kB");
        tree.line("sys/devices/system/edac/mc/mc0/dimm0/dimm_ce_count", 99);
        tree.line("sys/kernel/mm/hugepages/hugepages-2048kB/free_hugepages", 1);
    });
    assert_eq!(look(moved.path()).inventory_digest(), report.inventory_digest());
}

#[test]
fn a_slot_that_is_split_names_all_that_share_it() {
    let slot = |handle, groups: &[u8]| {
        StructureBuilder::new(9, handle)
            .text("PCIe 3")
            .bytes(&[0xA5, 0x0D, 4, 4])
            .word(3)
            .bytes(&[4, 0])
            .word(0)
            .bytes(&[0x17, 0x00, 8])
            .byte(u8::try_from(groups.len() / 5).unwrap())
            .bytes(groups)
    };
    let report =
        with_table([slot(0x90, &[0, 0, 0x17, 0x09, 4, 1, 0, 0x18, 0, 4]), slot(0x91, &[])]);
    let slots = &report["inventory"]["platform"]["slots"];
    assert_eq!(slots[0]["pci_address"], "0000:17:00.0");
    assert_eq!(slots[0]["peers"], json!(["0000:17:01.1 x4", "0001:18:00.0 x4"]));
    assert_eq!(slots[1]["peers"], json!([]));
}

#[test]
fn structures_that_nothing_else_tells_of_have_their_fields() {
    let report = with_table([
        // A cache that is disabled: level 2, internal, write back; 512 KiB of at most 1024.
        StructureBuilder::new(7, 0x70)
            .text("L2")
            .word(0x0101)
            .word(1024)
            .word(512)
            .word(2)
            .word(2)
            .bytes(&[0, 5, 5, 7]),
        StructureBuilder::new(25, 0x71).bytes(&[0x12, 0x24, 0x18, 0x00, 0x00]),
        StructureBuilder::new(131, 0x72).bytes(&[1, 2, 3]),
    ]);
    let others = report["inventory"]["platform"]["other_structures"].as_array().unwrap();
    let value = |number: u64, name: &str| {
        let one = others.iter().find(|one| one["number"] == number).unwrap();
        let fields = one["fields"].as_array().unwrap();
        fields.iter().find(|field| field["name"] == name).unwrap()["value"].clone()
    };
    assert_eq!((value(7, "level"), value(7, "enabled")), (json!("2"), json!("no")));
    assert_eq!(value(7, "installed"), "524288 bytes");
    assert_eq!(value(7, "associativity"), "8-way Set-Associative");
    assert_eq!((value(25, "next month"), value(25, "next day")), (json!("18"), json!("36")));
    let makers = others.iter().find(|one| one["number"] == 131).unwrap();
    assert_eq!(makers["fields"], Value::Null, "the standard does not define a maker's own");
}

#[test]
fn a_firmware_rom_of_ffh_units_in_an_old_table_has_16_mib() {
    let old =
        StructureBuilder::new(0, 0).text("HARBOUR").text("1.0").word(0xE000).text("").byte(0xFF);
    let report = with_table([old.qword(0).bytes(&[0, 0])]);
    assert_eq!(report["inventory"]["firmware"]["rom_size_bytes"], 16 << 20);
}
