//! Drives by every way that they hang on a machine, by odd names, and while they go.

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
use support::{demo_with, json as of_report, look, recorded};
use tectum_demo::{Machine, Shipped, Tree};
use tectum_report::{
    compare::{Change, Scope, What, compare},
    report::Report,
};

fn with(change: impl FnOnce(&mut Tree)) -> Value {
    of_report(&look(demo_with("gannet-before", change).path()))
}

fn named<'a>(all: &'a Value, name: &str) -> &'a Value {
    let all = all.as_array().unwrap();
    all.iter().find(|one| one["name"] == name).unwrap_or_else(|| panic!("no {name}"))
}

fn disk<'a>(report: &'a Value, name: &str) -> &'a Value {
    named(&report["inventory"]["storage"]["disks"], name)
}

/// Puts a block device with as many sectors as given.
fn block(tree: &mut Tree, name: &str, device: &str, sectors: u64) -> String {
    let folder = format!("{device}/block/{name}");
    tree.link(format!("sys/block/{name}"), &format!("/{folder}"));
    tree.link(format!("{folder}/device"), &format!("/{device}"));
    tree.line(format!("{folder}/size"), sectors);
    tree.line(format!("{folder}/dev"), "250:0");
    folder
}

const HOST: &str = "sys/devices/pci0000:00/0000:00:05.0/host9";

/// A serial-attached drive behind an expander, in a bay of an enclosure.
fn serial_attached(tree: &mut Tree, bay: u32) {
    let port = format!("{HOST}/port-9:0/expander-9:0/port-9:0:{bay}");
    let end = format!("end_device-9:0:{bay}");
    let device = format!("{port}/{end}/target9:0:{bay}/9:0:{bay}:0");
    block(tree, "sdx", &device, 8_000_000);
    tree.line(format!("{device}/type"), 0);
    tree.line(format!("{device}/vendor"), "SELKIE");
    tree.line(format!("{device}/model"), "S12 Nearline");
    let mut page = vec![0, 0x83, 0, 12, 1, 3, 0, 8];
    page.extend([0x50, 0x00, 0xA1, 0xB2, 0xC3, 0xD4, 0xE5, 0xF6]);
    tree.file(format!("{device}/vpd_pg83"), page);
    tree.file(format!("{device}/vpd_pgb2"), [0, 0xB2, 0, 4, 0, 0, 2, 0]);
    tree.folder(format!("{port}/phy-9:0:{bay}"));
    tree.line(format!("sys/class/sas_phy/phy-9:0:{bay}/negotiated_linkrate"), "6.0 Gbit");
    tree.line(format!("sys/class/sas_phy/phy-9:0:{bay}/maximum_linkrate"), "12.0 Gbit");
    tree.line(format!("sys/class/sas_device/{end}/bay_identifier"), bay);
    tree.line(format!("sys/class/sas_device/{end}/enclosure_identifier"), "0x500a1b2c3d4e5f00");
}

#[test]
fn a_serial_attached_drive_tells_its_link_its_bay_and_who_it_is() {
    let report = with(|tree| serial_attached(tree, 7));
    let drive = disk(&report, "sdx");
    assert_eq!(drive["kind"], "scsi");
    assert_eq!(drive["scsi_address"], "9:0:7:0");
    assert_eq!(
        (&drive["link_speed_mbps"], &drive["max_link_speed_mbps"], &drive["link_lanes"]),
        (&json!(6000), &json!(12_000), &json!(1))
    );
    assert_eq!((&drive["bay"], &drive["enclosure"]), (&json!("7"), &json!("0x500a1b2c3d4e5f00")));
    assert_eq!(drive["wwn"], "naa.5000a1b2c3d4e5f6", "from the page, where the kernel has no wwid");
    assert_eq!(drive["provisioning"], "thin");
}

#[test]
fn an_enclosure_names_the_bays_itself() {
    let report = with(|tree| {
        let device = format!("{HOST}/target9:0:1/9:0:1:0");
        block(tree, "sdx", &device, 4096);
        let slot = "sys/devices/pci0000:00/0000:00:05.0/enclosure/9:0:8:0/Bay 03";
        tree.line("sys/devices/pci0000:00/0000:00:05.0/enclosure/9:0:8:0/id", "0x5001122334455667");
        tree.line(format!("{slot}/status"), "OK");
        tree.link(format!("{device}/enclosure_device:Bay 03"), &format!("/{slot}"));
    });
    let drive = disk(&report, "sdx");
    assert_eq!(
        (&drive["bay"], &drive["enclosure"]),
        (&json!("Bay 03"), &json!("0x5001122334455667"))
    );
}

#[test]
fn areas_of_a_card_are_told_with_it_and_counted_nowhere_else() {
    let card = "sys/devices/platform/1c0f000.mmc/mmc_host/mmc1/mmc1:0001";
    let report = with(|tree| {
        block(tree, "mmcblk1", card, 61_071_360);
        for (area, sectors) in [("boot0", 8192), ("boot1", 8192), ("rpmb", 1024)] {
            let folder = format!("{card}/block/mmcblk1/mmcblk1{area}");
            tree.link(format!("sys/block/mmcblk1{area}"), &format!("/{folder}"));
            tree.line(format!("{folder}/size"), sectors);
            tree.line(format!("{folder}/ro"), 1);
            // What lies on an area is a partition of the area, not of the card.
            tree.line(format!("{folder}/mmcblk1{area}p1/partition"), 1);
        }
        tree.line(format!("{card}/manfid"), "0x000070");
        tree.line(format!("{card}/date"), "03/2024");
        tree.line(format!("{card}/serial"), "0x1a2b3c4d");
    });
    let disks = report["inventory"]["storage"]["disks"].as_array().unwrap();
    let cards: Vec<_> = disks.iter().filter(|disk| disk["kind"] == "mmc").collect();
    assert_eq!(cards.len(), 1);
    assert_eq!(
        (&cards[0]["maker_id"], &cards[0]["manufacture_date"]),
        (&json!("0x000070"), &json!("2024-03"))
    );
    assert_eq!(cards[0]["partitions"], json!([]));
    let names: Vec<_> =
        cards[0]["boot_areas"].as_array().unwrap().iter().map(|a| &a["name"]).collect();
    assert_eq!(json!(names), json!(["boot0", "boot1", "rpmb"]));
    assert_eq!(cards[0]["boot_areas"][0]["size_bytes"], 4 << 20);
}

#[test]
fn a_namespace_with_two_paths_is_one_drive_with_two_controllers() {
    let report = with(|tree| {
        let head = "sys/devices/virtual/nvme-subsystem/nvme-subsys7/nvme7n1";
        tree.link("sys/block/nvme7n1", &format!("/{head}"));
        tree.line(format!("{head}/size"), 4096);
        tree.line(format!("{head}/wwid"), "eui.0011223344556677");
        for (path, address) in [(7, "0000:81:00.0"), (8, "0000:c1:00.0")] {
            let controller = format!("sys/devices/pci0000:80/{address}/nvme/nvme{path}");
            tree.link(format!("sys/class/nvme/nvme{path}"), &format!("/{controller}"));
            tree.line(format!("{controller}/serial"), "SELKIE-TWO-PORTS");
            tree.line(format!("{controller}/cntlid"), path);
            let hidden = format!("{controller}/nvme7c{path}n1");
            tree.line(format!("{hidden}/size"), 4096);
            tree.line(format!("{hidden}/hidden"), 1);
            tree.link(format!("sys/block/nvme7c{path}n1"), &format!("/{hidden}"));
        }
    });
    let storage = &report["inventory"]["storage"];
    let found = storage["disks"].as_array().unwrap();
    let drives: Vec<_> = found.iter().filter(|d| d["wwn"] == "eui.0011223344556677").collect();
    assert_eq!(drives.len(), 1);
    assert_eq!(found.iter().filter(|d| d["name"].as_str().unwrap().contains('c')).count(), 0);
    let second = named(&storage["nvme_controllers"], "nvme8");
    assert_eq!(second["namespaces"], json!(["nvme7n1"]));
    assert_eq!(
        (&second["address"], &second["controller_id"]),
        (&json!("pci 0000:c1:00.0"), &json!(8))
    );
}

#[test]
fn a_slash_in_a_name_and_partitions_of_it() {
    let report = with(|tree| {
        let folder =
            block(tree, "cciss!c0d0", "sys/devices/pci0000:00/0000:00:06.0/cciss0/c0d0", 9000);
        tree.line(format!("{folder}/cciss!c0d0p1/partition"), 1);
        tree.line(format!("{folder}/cciss!c0d0p1/start"), 2048);
        tree.line(format!("{folder}/cciss!c0d0p1/size"), 4096);
    });
    let drive = disk(&report, "cciss/c0d0");
    assert_eq!(drive["size_bytes"], 9000 * 512);
    assert_eq!(drive["partitions"][0]["start_bytes"], 1 << 20);
    assert_eq!(drive["partitions"][0]["name"], "cciss/c0d0p1");
}

#[test]
fn partitions_of_a_raid_and_what_holds_them() {
    let report = with(|tree| {
        let md = "sys/devices/virtual/block/md127";
        tree.link("sys/block/md127", &format!("/{md}"));
        tree.line(format!("{md}/size"), 8192);
        tree.line(format!("{md}/md/level"), "raid1");
        tree.line(format!("{md}/md127p1/partition"), 1);
        tree.line(format!("{md}/md127p1/size"), 4096);
        tree.folder(format!("{md}/md127p1/holders/dm-4"));
        tree.folder(format!("{md}/md127p1/holders/dm-10"));
    });
    let raid = named(&report["inventory"]["storage"]["volumes"], "md127");
    assert_eq!(raid["partitions"][0]["name"], "md127p1");
    assert_eq!(raid["partitions"][0]["holders"], json!(["dm-10", "dm-4"]));
}

#[rstest]
#[case("LVM-abcdef", "logical-volume", None)]
#[case("LVM-abcdef-tpool", "thin-pool", None)]
#[case("LVM-abcdef-tdata", "volume-component", None)]
#[case("LVM-snapped", "snapshot", None)]
#[case("LVM-snapped-cow", "volume-component", None)]
#[case("CRYPT-LUKS2-0011-vault", "encrypted", Some("LUKS2"))]
#[case("CRYPT-INTEGRITY-sums", "integrity", Some("INTEGRITY"))]
#[case("CRYPT-VERITY-0011-root", "verity", Some("VERITY"))]
#[case("", "mapped", None)]
fn what_device_mapper_made_is_told_apart(
    #[case] id: &str,
    #[case] kind: &str,
    #[case] form: Option<&str>,
) {
    let report = with(|tree| {
        for (name, id) in [("dm-30", id), ("dm-31", "LVM-snapped-cow")] {
            let dm = format!("sys/devices/virtual/block/{name}");
            tree.link(format!("sys/block/{name}"), &format!("/{dm}"));
            tree.line(format!("{dm}/size"), 2048);
            tree.line(format!("{dm}/dm/uuid"), id);
        }
    });
    let volume = named(&report["inventory"]["storage"]["volumes"], "dm-30");
    assert_eq!((&volume["kind"], volume["format"].as_str()), (&json!(kind), form));
}

/// LVM gives what a mirror or a RAID consists of an id like any volume's, and only the name tells.
#[rstest]
#[case("vg--a-mir_rimage_0", "volume-component")]
#[case("vg--a-mir_rmeta_1", "volume-component")]
#[case("vg-old_mlog", "volume-component")]
#[case("vg-mirror", "logical-volume")]
#[case("vg_rimage_0-home", "logical-volume")]
#[case("vg--_rimage-home", "logical-volume")]
#[case("rimage", "logical-volume")]
fn a_part_of_a_volume_is_told_by_its_name(#[case] name: &str, #[case] kind: &str) {
    let report = with(|tree| {
        let dm = "sys/devices/virtual/block/dm-30";
        tree.link("sys/block/dm-30", &format!("/{dm}"));
        tree.line(format!("{dm}/size"), 2048);
        tree.line(format!("{dm}/dm/uuid"), "LVM-abcdef");
        tree.line(format!("{dm}/dm/name"), name);
    });
    let volume = named(&report["inventory"]["storage"]["volumes"], "dm-30");
    assert_eq!(volume["kind"], kind);
}

#[test]
fn a_drive_with_two_paths_counts_once() {
    let report = with(|tree| {
        for (name, host) in [("sdx", 9), ("sdy", 10)] {
            let device = format!(
                "sys/devices/pci0000:00/0000:00:05.0/host{host}/target{host}:0:0/{host}:0:0:0"
            );
            let folder = block(tree, name, &device, 4096);
            tree.line(format!("{device}/wwid"), "naa.5000a1b2c3d4e5f6");
            tree.folder(format!("{folder}/holders/dm-9"));
        }
    });
    let storage = &report["inventory"]["storage"];
    assert_eq!(
        (&disk(&report, "sdx")["multipath_of"], &disk(&report, "sdy")["multipath_of"]),
        (&Value::Null, &json!("sdx"))
    );
    let disks = storage["disks"].as_array().unwrap();
    assert_eq!(storage["drives"], disks.len() - 1);
    let sum: u64 = disks.iter().map(|disk| disk["size_bytes"].as_u64().unwrap()).sum();
    assert_eq!(storage["total_bytes"], sum - 4096 * 512);
}

#[test]
fn nothing_that_has_a_size_is_left_out() {
    let report = with(|tree| {
        for (name, sectors) in [("ram0", 128), ("ram1", 0), ("zd16", 2048), ("nbd3", 0)] {
            let folder = format!("sys/devices/virtual/block/{name}");
            tree.link(format!("sys/block/{name}"), &format!("/{folder}"));
            tree.line(format!("{folder}/size"), sectors);
        }
    });
    let volumes = &report["inventory"]["storage"]["volumes"];
    let told: Vec<_> =
        volumes.as_array().unwrap().iter().map(|it| (&it["name"], &it["kind"])).collect();
    assert_eq!(json!(told), json!([["ram0", "ram-disk"], ["zd16", "zfs-volume"]]));
}

#[test]
fn a_device_that_goes_while_it_is_read_costs_nothing_else() {
    let report = with(|tree| {
        // Gone altogether: the link leads nowhere.
        tree.link("sys/block/sdy", "/sys/devices/pci0000:00/0000:00:07.0/gone/block/sdy");
        // Half gone: the folder is there still and nothing in it.
        tree.folder("sys/devices/pci0000:00/0000:00:07.0/host8/target8:0:0/8:0:0:0/block/sdz");
        tree.link(
            "sys/block/sdz",
            "/sys/devices/pci0000:00/0000:00:07.0/host8/target8:0:0/8:0:0:0/block/sdz",
        );
    });
    let half = disk(&report, "sdz");
    assert!(half["size_bytes"].is_null() && half["serial"].is_null());
    let disks = report["inventory"]["storage"]["disks"].as_array().unwrap();
    let at = disks.iter().position(|disk| disk["name"] == "sdz").unwrap();
    let at = format!("/inventory/storage/disks/{at}/size_bytes");
    let gaps = report["gaps"].as_array().unwrap();
    let gap = gaps.iter().find(|gap| gap["at"] == json!(at)).unwrap();
    assert_eq!(gap["why"], "not-provided");
    assert!(disks.iter().all(|disk| disk["name"] != "sdy"));
    assert!(disk(&report, "sda")["size_bytes"].is_u64(), "the others are whole");
}

fn machine(change: impl FnOnce(&mut Machine)) -> Report {
    let mut machine = Shipped::named("gannet-before").unwrap().machine().unwrap();
    change(&mut machine);
    let folder = tempfile::tempdir().unwrap();
    Tree::of(&machine).write(folder.path()).unwrap();
    look(folder.path())
}

fn of_disks(before: &Report, after: &Report) -> Vec<Change> {
    let all = compare(before, after, Scope::Inventory).changes;
    all.into_iter().filter(|change| change.part == "disk").collect()
}

#[test]
fn a_disk_behind_another_controller_and_under_another_name_is_itself() {
    let before = machine(|_| {});
    let after = machine(|machine| {
        let disk = machine.disks.iter_mut().find(|disk| disk.name == "sda").unwrap();
        disk.controller = "0000:00:18.0".into();
        disk.name = "sdq".into();
    });
    let changes = of_disks(&before, &after);
    assert_eq!(changes.len(), 1, "{changes:#?}");
    assert_eq!(changes[0].what, What::Moved);
    assert_eq!(
        changes[0].before.as_ref().unwrap().identity,
        changes[0].after.as_ref().unwrap().identity
    );
}

#[test]
fn a_disk_in_another_bay_is_moved_whatever_else_is_there() {
    let look_with =
        |bay| look(demo_with("gannet-before", |tree| serial_attached(tree, bay)).path());
    let changes = of_disks(&look_with(2), &look_with(11));
    assert_eq!(changes.len(), 1, "{changes:#?}");
    assert_eq!(changes[0].what, What::Moved);
}

#[test]
fn a_new_name_alone_is_no_change() {
    let before = machine(|_| {});
    let after = machine(|machine| {
        for disk in &mut machine.disks {
            disk.name = match disk.name.as_str() {
                "sda" => "sdb".into(),
                "sdb" => "sda".into(),
                other => other.to_owned(),
            };
        }
    });
    assert_eq!(of_disks(&before, &after), []);
}

#[test]
fn two_disks_with_one_filler_serial_are_two() {
    let fill = |machine: &mut Machine| {
        for disk in machine.disks.iter_mut().filter(|disk| disk.name.starts_with("sd")) {
            disk.serial = "0123456789".into();
            disk.model = "USB DISK".into();
            disk.wwn = String::new();
        }
    };
    let before = machine(fill);
    let after = machine(|machine| {
        fill(machine);
        let gone = machine.disks.iter().position(|disk| disk.name == "sdb").unwrap();
        machine.disks.remove(gone);
    });
    let changes = of_disks(&before, &after);
    assert_eq!(
        changes.iter().filter(|change| change.what == What::Removed).count(),
        1,
        "{changes:#?}"
    );
    assert_eq!(changes.len(), 1);
}

#[test]
fn namespaces_with_several_paths_sit_where_their_controller_does() {
    let report = of_report(&look(recorded("big-iron").path()));
    let storage = &report["inventory"]["storage"];
    for (name, namespace) in [("nvme0n1", 1), ("nvme0n2", 2), ("nvme0n3", 5), ("nvme0n4", 9)] {
        let disk = disk(&report, name);
        assert_eq!(disk["address"], format!("pci 0000:01:00.0 namespace {namespace}"));
        assert_eq!((&disk["bus"], &disk["controller"]), (&json!("pci"), &json!("0000:01:00.0")));
        assert_eq!((&disk["bay"], &disk["link_lanes"]), (&json!("0"), &json!(1)));
        let readings = named(&report["readings"]["storage"]["disks"], name);
        assert!(readings["temperature_millicelsius"].is_i64(), "{readings}");
    }
    let controller = named(&storage["nvme_controllers"], "nvme0");
    assert_eq!(controller["namespaces"], json!(["nvme0n1", "nvme0n2", "nvme0n3", "nvme0n4"]));
    let disks = storage["disks"].as_array().unwrap().len();
    assert_eq!(storage["drives"], disks - 3, "four namespaces are one drive");
}

#[rstest]
#[case("s390", "vda", "channel", "ccw 0.0.0001")]
#[case("ppc", "sda", "vio", "vio 71000002 target 0:0:0")]
#[case("arm-board", "vda", "platform", "platform 1c130600.virtio_mmio")]
#[case("arm-board", "mmcblk0", "platform", "platform 1c050000.mmc")]
fn a_disk_on_no_pci_bus_has_the_place_of_its_own_bus(
    #[case] machine: &str,
    #[case] name: &str,
    #[case] bus: &str,
    #[case] address: &str,
) {
    let report = of_report(&look(recorded(machine).path()));
    let disk = disk(&report, name);
    assert_eq!((&disk["bus"], &disk["address"]), (&json!(bus), &json!(address)));
}

#[rstest]
#[case("s390", "enc2", "ccw 0.0.0002")]
#[case("ppc", "ibmveth3", "vio 71000003")]
#[case("arm-board", "eth0", "platform 1a000000.ethernet")]
fn a_port_on_no_pci_bus_has_the_place_of_its_own_bus(
    #[case] machine: &str,
    #[case] name: &str,
    #[case] parent: &str,
) {
    let report = of_report(&look(recorded(machine).path()));
    let port = named(&report["inventory"]["network"]["interfaces"], name);
    assert_eq!(port["parent"], parent);
}

#[test]
fn an_extended_partition_has_the_size_that_its_table_gives() {
    let report = of_report(&look(recorded("cloud-small").path()));
    let disk = disk(&report, "vda");
    let extended = named(&disk["partitions"], "vda3");
    assert_eq!(extended["type_name"], "extended");
    assert_eq!(extended["size_bytes"], 1_447_936 * 512);
    for partition in disk["partitions"].as_array().unwrap() {
        assert_eq!(partition["overlaps"], Value::Null, "logical ones lie in it");
    }
    let free: u64 = disk["free_spaces"]
        .as_array()
        .unwrap()
        .iter()
        .map(|space| space["size_bytes"].as_u64().unwrap())
        .sum();
    assert!(free <= disk["unpartitioned_bytes"].as_u64().unwrap());
}

#[test]
fn the_partition_table_says_what_a_partition_is_for() {
    let report = of_report(&look(recorded("rack-2s").path()));
    let disks = report["inventory"]["storage"]["disks"].as_array().unwrap();
    let all: Vec<&Value> =
        disks.iter().flat_map(|disk| disk["partitions"].as_array().unwrap()).collect();
    let words: std::collections::BTreeSet<&str> =
        all.iter().filter_map(|one| one["type_name"].as_str()).collect();
    for expected in ["EFI system", "Linux RAID", "Linux LUKS"] {
        assert!(words.contains(expected), "{expected}: {words:?}");
    }
}

#[test]
fn a_partition_that_begins_in_another_is_told() {
    let report = with(|tree| {
        let folder = block(tree, "sdy", "sys/devices/pci0000:00/0000:00:05.0/virtio9", 1 << 21);
        for (number, start, size) in [(1, 2048, 409_600), (2, 204_800, 409_600), (3, 819_200, 2048)]
        {
            let partition = format!("{folder}/sdy{number}");
            tree.line(format!("{partition}/partition"), number);
            tree.line(format!("{partition}/start"), start);
            tree.line(format!("{partition}/size"), size);
            tree.line(format!("{partition}/dev"), format!("250:{number}"));
        }
    });
    let partitions = &disk(&report, "sdy")["partitions"];
    assert_eq!(named(partitions, "sdy2")["overlaps"], "sdy1");
    assert_eq!(named(partitions, "sdy1")["overlaps"], Value::Null);
    assert_eq!(named(partitions, "sdy3")["overlaps"], Value::Null);
}

#[rstest]
#[case(8, Value::Null)]
#[case(2880, json!(1_474_560))]
fn a_floppy_drive_has_a_size_once_a_disk_was_read(#[case] sectors: u64, #[case] expected: Value) {
    let folder = demo_with("gannet-before", |_| {});
    let before = of_report(&look(folder.path()))["inventory"]["storage"]["drives"].clone();
    let report = with(|tree| {
        block(tree, "fd0", "sys/devices/platform/floppy.0", sectors);
    });
    assert_eq!(disk(&report, "fd0")["size_bytes"], expected);
    assert_eq!(report["inventory"]["storage"]["drives"], before, "it is no disk drive");
}

#[test]
fn the_disc_in_an_optical_drive_is_told_and_nothing_always_disagrees() {
    let folder = recorded("rack-2s");
    let report = look(folder.path());
    let told = of_report(&report);
    let drive = named(&told["inventory"]["storage"]["optical_drives"], "sr0");
    assert_eq!(
        (&drive["disc_filesystem"], &drive["disc_label"]),
        (&json!("iso9660"), &json!("NESTDISC"))
    );
    assert_eq!(drive["disc_mount_points"], json!(["/media/cdrom"]));
    assert!(drive["disc_size_bytes"].as_u64().unwrap() > 0);
    assert_eq!((&drive["model"], &drive["vendor"]), (&json!("FJELL DVD-ROM"), &Value::Null));
    let differ = told["notes"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|note| note.to_string().contains("optical_drives"));
    assert_eq!(differ.count(), 0);
}

#[test]
fn a_drive_without_a_disc_has_no_size_of_one() {
    let report = with(|tree| {
        let device = "sys/devices/pci0000:00/0000:00:05.0/host9/target9:0:0/9:0:0:0";
        block(tree, "sr7", device, 0x1f_ffff);
        tree.line(format!("{device}/type"), 5);
    });
    let drive = named(&report["inventory"]["storage"]["optical_drives"], "sr7");
    assert_eq!(drive["disc_size_bytes"], Value::Null);
}

#[test]
fn all_devices_of_a_btrfs_hold_it_and_are_mounted() {
    let report = of_report(&look(recorded("big-iron").path()));
    for name in ["sdh", "sdi"] {
        let disk = disk(&report, name);
        assert_eq!(disk["filesystem"], "btrfs");
        assert_eq!(disk["mount_points"], json!(["/srv/twin"]), "{name}");
    }
}

#[test]
fn a_text_of_the_makers_is_no_world_wide_name() {
    let report = of_report(&look(recorded("arm-board").path()));
    let card = disk(&report, "mmcblk0");
    assert_eq!(card["wwn"], Value::Null);
    assert_eq!(card["text_id"].as_str().unwrap().len(), 32, "its CID register");
}

#[test]
fn a_partition_that_is_swapped_to_is_told_without_the_section_of_filesystems() {
    let report = of_report(&look(recorded("rack-2s").path()));
    let partitions = &disk(&report, "sdb")["partitions"];
    assert_eq!(named(partitions, "sdb3")["swapped_to"], true);
    assert_eq!(named(partitions, "sdb2")["swapped_to"], false);
}

/// A volume of channel-attached storage, as `drivers/s390/block/dasd_devmap.c` lists it; an image of a storage cluster,
/// as `drivers/block/rbd.c` does.
#[test]
fn disks_of_other_buses_are_what_their_drivers_say() {
    let report = with(|tree| {
        let device = "sys/devices/css0/0.0.0009/0.0.0150";
        block(tree, "dasdaa", device, 4096);
        tree.line(format!("{device}/vendor"), "SKY");
        tree.line(format!("{device}/devtype"), "3390/0c");
        tree.line(format!("{device}/uid"), "SKY.750000000DK731.0150.00");
        block(tree, "rbd1", "sys/devices/rbd/1", 2048);
    });
    let volume = disk(&report, "dasdaa");
    assert_eq!((&volume["kind"], &volume["bus"]), (&json!("dasd"), &json!("channel")));
    assert_eq!((&volume["vendor"], &volume["model"]), (&json!("SKY"), &json!("3390/0c")));
    assert_eq!(
        (&volume["text_id"], &volume["wwn"]),
        (&json!("SKY.750000000DK731.0150.00"), &Value::Null)
    );
    assert_eq!(volume["address"], "ccw 0.0.0150");
    assert_eq!(disk(&report, "rbd1")["kind"], "network");
}

/// Namespaces of one serial number are one drive, wherever the controllers are.
#[rstest]
#[case(["FAR1", "FAR1"], 1)]
#[case(["FAR1", "FAR2"], 2)]
fn what_a_target_is_divided_into_is_one_drive(#[case] serials: [&str; 2], #[case] more: u64) {
    let before = with(|_| {})["inventory"]["storage"]["drives"].as_u64().unwrap();
    let report = with(|tree| {
        for (number, serial) in (8..).zip(serials) {
            let controller = format!("sys/devices/virtual/nvme-fabrics/ctl/nvme{number}");
            let folder = format!("{controller}/nvme{number}n1");
            tree.link(format!("sys/block/nvme{number}n1"), &format!("/{folder}"));
            tree.link(format!("{folder}/device"), &format!("/{controller}"));
            tree.line(format!("{folder}/size"), 2048);
            tree.line(format!("{controller}/serial"), serial);
            tree.line(format!("{controller}/transport"), "tcp");
        }
    });
    let storage = &report["inventory"]["storage"];
    assert_eq!(storage["drives"], before + more);
    assert_eq!(disk(&report, "nvme8n1")["transport"], "tcp");
}
