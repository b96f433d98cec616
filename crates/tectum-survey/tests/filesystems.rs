//! From the disk to the mount point: what is made of disks, what is mounted, how full it is, what is
//! declared.

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
use support::{changed, json as of_report, look, recorded, truth};
use tectum_demo::Tree;

fn list(value: &Value) -> &Vec<Value> {
    value.as_array().unwrap()
}

fn named<'a>(all: &'a Value, field: &str, value: &str) -> &'a Value {
    list(all).iter().find(|one| one[field] == value).unwrap_or_else(|| panic!("no {value}"))
}

#[rstest]
#[case("rack-2s")]
#[case("arm-server")]
fn what_is_made_of_disks_is_as_it_was_built(#[case] name: &str) {
    let report = of_report(&look(recorded(name).path()));
    let (volumes, stacks) = (&report["inventory"]["storage"]["volumes"], &truth(name)["stacks"]);
    let mut expected = 0;
    for raid in list(&stacks["md"]) {
        let volume = named(volumes, "name", raid["kernel_name"].as_str().unwrap());
        assert_eq!((&volume["kind"], &volume["title"]), (&json!("raid"), &raid["name"]));
        assert_eq!(volume["level"], format!("raid{}", raid["level"]));
        assert_eq!(volume["size_bytes"], raid["size_bytes"]);
        assert_eq!(volume["backing_devices"], raid["member_devices"]);
        let digits = |text: &Value| text.as_str().unwrap().replace([':', '-'], "");
        assert_eq!(digits(&volume["uuid"]), digits(&raid["uuid"]));
        assert_eq!(volume["missing_members"], 0);
        expected += 1;
    }
    for group in list(&stacks["lvm"]) {
        for logical in list(&group["lvs"]) {
            let volume = named(volumes, "name", logical["kernel_name"].as_str().unwrap());
            assert_eq!(volume["kind"], "logical-volume");
            assert_eq!(volume["title"], logical["dm_name"]);
            assert_eq!(volume["size_bytes"], logical["size_bytes"]);
            assert_eq!(volume["backing_devices"], group["pv_devices"]);
            expected += 1;
        }
    }
    for vault in list(&stacks["luks"]) {
        let volume = named(volumes, "name", vault["kernel_name"].as_str().unwrap());
        assert_eq!((&volume["kind"], &volume["title"]), (&json!("encrypted"), &vault["name"]));
        assert_eq!(volume["size_bytes"], vault["size_bytes"]);
        assert_eq!(volume["backing_devices"], json!([vault["backing_device"]]));
        expected += 1;
    }
    assert_eq!(list(volumes).len(), expected);
    for filesystem in list(&stacks["filesystems"]) {
        let volume = named(volumes, "name", filesystem["kernel_name"].as_str().unwrap());
        assert_eq!(volume["filesystem"], filesystem["type"]);
        assert_eq!(volume["filesystem_uuid"], filesystem["uuid"]);
        let mounted: Vec<&Value> =
            Some(&filesystem["mount"]).filter(|at| at.is_string()).into_iter().collect();
        assert_eq!(volume["mount_points"], json!(mounted));
    }
}

#[test]
fn what_rests_on_disks_is_not_counted_as_disk() {
    let report = of_report(&look(recorded("rack-2s").path()));
    let disks = list(&report["inventory"]["storage"]["disks"]);
    assert!(disks.iter().all(|disk| !disk["name"].as_str().unwrap().starts_with(['d', 'm'])));
}

fn raid(tree: &mut Tree) {
    let md = "sys/devices/virtual/block/md7";
    tree.link("sys/block/md7", &format!("/{md}"));
    tree.line(format!("{md}/size"), 2048);
    tree.line(format!("{md}/dev"), "9:7");
    tree.line(format!("{md}/md/level"), "raid5");
    tree.line(format!("{md}/md/raid_disks"), 3);
    tree.line(format!("{md}/md/degraded"), 1);
    tree.line(format!("{md}/md/array_state"), "clean");
    tree.line(format!("{md}/md/sync_action"), "recover");
    tree.line(format!("{md}/md/sync_completed"), "512 / 2048");
    tree.line(format!("{md}/md/dev-sda1/slot"), 0);
    tree.line(format!("{md}/md/dev-sda1/state"), "in_sync");
    tree.line(format!("{md}/md/dev-cciss!c0d0/slot"), "none");
    tree.line(format!("{md}/md/dev-cciss!c0d0/state"), "faulty");
}

#[test]
fn a_raid_that_lacks_members_says_so() {
    let report = changed(raid);
    let volume = named(&report["inventory"]["storage"]["volumes"], "name", "md7");
    assert_eq!((&volume["expected_members"], &volume["missing_members"]), (&json!(3), &json!(1)));
    let members = list(&volume["members"]);
    assert_eq!(members[0]["name"], "cciss/c0d0", "a slash in a name stands as !");
    assert_eq!((&members[0]["role"], &members[0]["state"]), (&json!("none"), &json!("faulty")));
    let now = &report["readings"]["storage"]["volumes"][0];
    assert_eq!(
        (&now["action"], &now["progress_percent_hundredths"]),
        (&json!("recover"), &json!(2500))
    );
}

#[rstest]
#[case("LVM-abc", "nest-cold--store", "logical-volume", Some("abc"))]
#[case("CRYPT-LUKS2-77-vault", "vault", "encrypted", Some("77-vault"))]
#[case("mpath-3600", "mpatha", "multipath", Some("3600"))]
#[case("part1-mpath-3600", "mpatha1", "partition-mapping", Some("mpath-3600"))]
#[case("", "made-by-hand", "mapped", None)]
fn device_mapper_names(
    #[case] id: &str,
    #[case] name: &str,
    #[case] kind: &str,
    #[case] uuid: Option<&str>,
) {
    let report = changed(|tree| {
        let dm = "sys/devices/virtual/block/dm-3";
        tree.link("sys/block/dm-3", &format!("/{dm}"));
        tree.line(format!("{dm}/size"), 2048);
        tree.line(format!("{dm}/dm/name"), name);
        tree.line(format!("{dm}/dm/uuid"), id);
    });
    let volume = named(&report["inventory"]["storage"]["volumes"], "name", "dm-3");
    assert_eq!((&volume["kind"], volume["uuid"].as_str()), (&json!(kind), uuid));
}

#[test]
fn loops_without_a_file_are_not_there() {
    let report = changed(|tree| {
        for (name, size) in [("loop0", 0), ("loop1", 2048)] {
            let device = format!("sys/devices/virtual/block/{name}");
            tree.link(format!("sys/block/{name}"), &format!("/{device}"));
            tree.line(format!("{device}/size"), size);
            tree.line(format!("{device}/loop/backing_file"), "/srv/images/tide chart.img");
        }
    });
    let volumes = list(&report["inventory"]["storage"]["volumes"]);
    assert_eq!(volumes.len(), 1);
    assert_eq!(volumes[0]["title"], "/srv/images/tide chart.img");
}

const MOUNTS: &str = "21 1 8:1 / / rw - ext4 /dev/a rw\n\
22 21 0:21 / /proc rw - proc proc rw\n\
23 21 0:30 /@home /home rw,nodev - btrfs /dev/b rw,subvol=/@home\n\
24 21 0:31 /@var /var rw - btrfs /dev/b rw,subvol=/@var\n\
25 21 0:40 / /tmp rw - tmpfs tmpfs rw\n\
26 21 0:41 / /net ro - nfs4 tide:/x rw,addr=192.0.2.7\n\
27 21 0:42 / /share rw - cifs //tide/y rw,username=a,password=hush\n\
28 21 0:43 / /merged rw - overlay overlay rw,lowerdir=/a\n\
29 21 8:1 /srv /exports/a\\040b rw - ext4 /dev/a rw\n\
30 21 8:9 / /new\\012line rw - xfs /dev/c rw\n";

#[test]
fn swap_is_recognised_by_whatever_it_is_declared_by() {
    let report = of_report(&look(recorded("rack-2s").path()));
    let declared = list(&report["inventory"]["filesystems"]["fstab_entries"]);
    let swap = declared.iter().find(|one| one["filesystem"] == "swap").unwrap();
    assert_eq!((&swap["state"], swap["uuid"].is_string()), (&json!("mounted"), true));
    let report = changed(|tree| {
        tree.file("proc/swaps", "Filename Type\n/dev/dm-1 partition 1024 0 3\n");
        tree.line("sys/class/block/dm-1/dev", "253:1");
        tree.line("sys/class/block/dm-1/dm/name", "reef-swap");
        tree.file("etc/fstab", "/dev/mapper/reef-swap none swap sw 0 0\n");
    });
    assert_eq!(report["inventory"]["filesystems"]["fstab_entries"][0]["state"], "mounted");
}

#[test]
fn mounts_are_sorted_by_where_they_lie() {
    let report = changed(|tree| tree.file("proc/self/mountinfo", MOUNTS));
    let mounts = &report["inventory"]["filesystems"]["mounts"];
    let classes: Vec<(&str, &str)> = list(mounts)
        .iter()
        .map(|one| (one["mount_point"].as_str().unwrap(), one["class"].as_str().unwrap()))
        .collect();
    assert_eq!(
        classes,
        [
            ("/", "local"),
            ("/home", "local"),
            ("/var", "local"),
            ("/net", "network"),
            ("/share", "network"),
            ("/merged", "layered"),
            ("/exports/a b", "local"),
            ("/new\nline", "local"),
        ]
    );
    let of = |point: &str| named(mounts, "mount_point", point);
    assert_eq!((&of("/net")["read_only"], &of("/")["read_only"]), (&json!(true), &json!(false)));
    assert_eq!(of("/exports/a b")["root"], "/srv", "a folder that is mounted elsewhere too");
    assert!(!of("/share").to_string().contains("hush"));
    assert!(!report.to_string().contains("hush"), "no password stands anywhere in the report");
    let usage = list(&report["readings"]["filesystems"]["usage"]);
    assert!(usage.iter().any(|one| {
        one["class"] == "memory" && one["source"] == "tmpfs" && one["filesystem"] == "tmpfs"
    }));
    let net = of("/net");
    assert_eq!(net["options"], json!(["ro"]), "the mount's own");
    assert!(net["superblock_options"].as_array().unwrap().contains(&json!("rw")), "{net}");
    assert_eq!(of("/exports/a b")["first_mounted_at"], "/");
    assert_eq!(of("/var")["first_mounted_at"], "/home", "a subvolume of the same device");
    assert_eq!(of("/home")["first_mounted_at"], Value::Null);
}

#[test]
fn what_fstab_declares_beside_what_is_mounted() {
    let report = changed(|tree| {
        tree.file("proc/self/mountinfo", MOUNTS);
        tree.file("proc/swaps", "Filename Type Size Used Priority\n/dev/s partition 1024 12 -2\n");
        tree.file(
            "etc/fstab",
            "/dev/a / ext4 defaults 0 1\n/dev/x /gone xfs rw 0 2\n/dev/y /later xfs noauto 0 0\n\
             /dev/s none swap sw 0 0\n/dev/t none swap sw 0 0\n\
             //tide/y /share cifs username=a,password=hush 0 0\n",
        );
    });
    let filesystems = &report["inventory"]["filesystems"];
    let state = |source: &str| &named(&filesystems["fstab_entries"], "source", source)["state"];
    assert_eq!(list(&filesystems["fstab_entries"])[5]["other_source"], "//tide/y");
    assert_eq!(state("/dev/a"), "mounted");
    assert_eq!(state("/dev/x"), "not-mounted");
    assert_eq!(state("/dev/y"), "not-mounted-on-request-only");
    assert_eq!((state("/dev/s"), state("/dev/t")), (&json!("mounted"), &json!("not-mounted")));
    assert!(!report.to_string().contains("hush"));
    assert_eq!(named(&filesystems["mounts"], "mount_point", "/")["in_fstab"], true);
    assert_eq!(named(&filesystems["mounts"], "mount_point", "/home")["in_fstab"], false);
    let swap = &filesystems["swap_spaces"][0];
    assert_eq!((&swap["size_bytes"], &swap["priority"]), (&json!(1 << 20), &json!(-2)));
    assert_eq!(report["readings"]["filesystems"]["swap"][0]["used_bytes"], 12288);
}

/// What is not known to be mounted is not told to be missing: without the table of mounts, and where nobody
/// recorded what a swap device can be called.
#[rstest]
#[case::mounts_unknown("proc/self/mountinfo", "/dev/a / ext4 defaults 0 1\n", None)]
#[case::swaps_unknown("proc/swaps", "/dev/t none swap sw 0 0\n", None)]
#[case::no_record("run/udev/data/b8:5", "UUID=0a-1b none swap sw 0 0\n", None)]
#[case::no_record_by_link("run/udev/data/b8:5", "/dev/disk/by-uuid/0a-1b none swap sw 0 0\n", None)]
#[case::no_record_by_path("run/udev/data/b8:5", "/dev/t none swap sw 0 0\n", Some("not-mounted"))]
#[case::no_record_later("run/udev/data/b8:5", "LABEL=x none swap noauto 0 0\n", None)]
#[case::later("run/nothing", "LABEL=x none swap noauto 0 0\n", Some("not-mounted-on-request-only"))]
#[case::by_id("run/nothing", "UUID=0A-1B none swap sw 0 0\n", Some("mounted"))]
#[case::by_link("run/nothing", "/dev/disk/by-uuid/0a-1b none swap sw 0 0\n", Some("mounted"))]
#[case::by_another_link("run/nothing", "/dev/disk/by-id/x none swap sw 0 0\n", None)]
#[case::by_group("run/nothing", "/dev/reef/swap none swap sw 0 0\n", Some("mounted"))]
#[case::of_no_label("run/nothing", "LABEL=other none swap sw 0 0\n", Some("not-mounted"))]
#[case::slashes("run/nothing", "/dev/a //home/ ext4 defaults 0 1\n", Some("mounted"))]
fn what_is_declared_is_missing_only_where_that_is_known(
    #[case] without: &str,
    #[case] declared: &str,
    #[case] state: Option<&str>,
) {
    let report = changed(|tree| {
        tree.file("proc/self/mountinfo", MOUNTS);
        tree.file("proc/swaps", "Filename Type Size Used Priority\n/dev/s5 partition 1024 12 -2\n");
        tree.line("sys/class/block/s5/dev", "8:5");
        tree.file(
            "run/udev/data/b8:5",
            "E:ID_FS_TYPE=swap\nE:ID_FS_UUID=0a-1b\nE:DM_VG_NAME=reef\nE:DM_LV_NAME=swap\n",
        );
        tree.file("etc/fstab", declared);
        tree.remove(without);
    });
    let entry = &report["inventory"]["filesystems"]["fstab_entries"][0];
    assert_eq!(entry["state"].as_str(), state, "{entry}");
}

/// A folder that is declared with a slash too many is declared.
#[test]
fn a_mount_point_is_declared_however_its_slashes_are_written() {
    let report = changed(|tree| {
        tree.file("proc/self/mountinfo", MOUNTS);
        tree.file("etc/fstab", "/dev/a //home/ ext4 defaults 0 1\n");
    });
    let mounts = &report["inventory"]["filesystems"]["mounts"];
    assert_eq!(named(mounts, "mount_point", "/home")["in_fstab"], true);
    assert_eq!(named(mounts, "mount_point", "/var")["in_fstab"], false);
}

/// The kernel of the machine that the test runs on is asked beside the survey.
#[test]
fn this_machines_root_is_as_large_as_its_kernel_says() {
    let report = of_report(&look_live());
    let root = list(&report["readings"]["filesystems"]["usage"])
        .iter()
        .rev()
        .find(|one| one["mount_point"] == "/")
        .cloned();
    // A root that the kernel makes up is not among them.
    let Some(root) = root else { return };
    let answer = rustix::fs::statvfs("/").unwrap();
    assert_eq!(root["size_bytes"], answer.f_blocks * answer.f_frsize);
    let share = root["used_percent_hundredths"].as_u64().unwrap();
    assert!(share <= 10_000);
    let total = report["readings"]["filesystems"]["total_bytes"].as_u64();
    assert!(total.is_none_or(|total| total > 0));
}

fn look_live() -> tectum_report::report::Report {
    use tectum_survey::{
        source::{Door, Tree},
        survey::{Plan, survey},
    };
    let door = Door::new(Tree::live().unwrap());
    support::report(survey(&door, &Plan::default(), &mut |_| {}))
}

#[test]
fn partitions_are_as_they_were_made() {
    let report = of_report(&look(recorded("rack-2s").path()));
    let disks = &report["inventory"]["storage"]["disks"];
    let all: Vec<&Value> = list(disks).iter().flat_map(|disk| list(&disk["partitions"])).collect();
    for made in list(&truth("rack-2s")["partitions"]) {
        let found = all.iter().find(|one| one["name"] == made["name_in_kernel"]).unwrap();
        if let Some(kind) = made["type"].as_str().filter(|kind| kind.len() == 36) {
            assert_eq!(found["type_id"], kind.to_ascii_lowercase());
        }
        let sector = made["sector_size"].as_u64().unwrap();
        let start = made["start_sector"].as_u64().unwrap() * sector;
        assert_eq!(found["start_bytes"], start);
        assert_eq!(found["aligned"], start.is_multiple_of(1 << 20));
    }
    let free = list(&named(disks, "name", "sda")["free_spaces"]);
    let told: Vec<(u64, u64)> = free
        .iter()
        .map(|one| (one["start_bytes"].as_u64().unwrap(), one["size_bytes"].as_u64().unwrap()))
        .collect();
    let parts = list(&named(disks, "name", "sda")["partitions"]);
    let end =
        |part: &Value| part["start_bytes"].as_u64().unwrap() + part["size_bytes"].as_u64().unwrap();
    assert_eq!(
        told[0],
        (end(&parts[0]), parts[1]["start_bytes"].as_u64().unwrap() - end(&parts[0]))
    );
    assert_eq!(told[1], (end(&parts[1]), (3 << 30) - end(&parts[1])));
    let nvme = named(disks, "name", "nvme0n1");
    assert_eq!((&nvme["transport"], &nvme["write_cache"]), (&json!("pcie"), &json!("write back")));
    let sata = named(disks, "name", "sda");
    assert_eq!((&sata["scheduler"], &sata["queue_depth"]), (&json!("mq-deadline"), &json!(32)));
    assert_eq!((&nvme["link_speed_mts"], &nvme["link_lanes"]), (&json!(2500), &json!(1)));
    assert_eq!(sata["link_speed_mbps"], 1500);
    assert!(sata["max_link_speed_mbps"].is_null(), "the kernel writes <unknown>");
    assert_eq!(sata["rotation_rpm"], 0, "nothing turns");
    assert_eq!(named(disks, "name", "sdc")["rotation_rpm"], 10_000);
    let readings = &report["readings"]["storage"]["disks"];
    let now = named(readings, "name", "sda");
    assert_eq!((&now["reads"], &now["read_bytes"]), (&json!(676), &json!(36739 * 512)));
    assert_eq!((&now["errors"], &now["state"]), (&json!(3), &json!("running")));
    let drive = &report["inventory"]["storage"]["optical_drives"][0];
    assert_eq!(drive["speed"], 4);
    let can: Vec<&str> =
        list(&drive["capabilities"]).iter().map(|what| what.as_str().unwrap()).collect();
    assert!(can.contains(&"read DVD") && !can.contains(&"write CD-R"), "{can:?}");
}

#[test]
fn what_no_partition_takes_counts_overlaps_once() {
    let report = changed(|tree| {
        let disk = "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1";
        tree.line(format!("{disk}/size"), 4000);
        for (number, start, size) in [(1, 0, 1000), (2, 500, 1000), (3, 3000, 500)] {
            tree.line(format!("{disk}/nvme0n1p{number}/start"), start);
            tree.line(format!("{disk}/nvme0n1p{number}/size"), size);
        }
    });
    let disk = named(&report["inventory"]["storage"]["disks"], "name", "nvme0n1");
    assert_eq!(disk["unpartitioned_bytes"], 2000 * 512);
    let report = changed(|tree| {
        let disk = "sys/devices/pci0000:00/0000:41:00.0/nvme/nvme0/nvme0n1";
        tree.line(format!("{disk}/size"), 40);
    });
    let disk = named(&report["inventory"]["storage"]["disks"], "name", "nvme0n1");
    assert!(disk["unpartitioned_bytes"].is_null(), "partitions that reach beyond the disk");
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
#[case("arm-board")]
fn how_full_a_recorded_machine_was(#[case] name: &str) {
    let folder = recorded(name);
    let text = std::fs::read(folder.path().join("statvfs.json")).unwrap();
    let answers: Vec<Value> = serde_json::from_slice(&text).unwrap();
    let report = of_report(&look(folder.path()));
    let usage = list(&report["readings"]["filesystems"]["usage"]);
    assert!(!usage.is_empty());
    let mut local = 0;
    for one in usage {
        let asked = answers.iter().rfind(|it| it["mount_point"] == one["mount_point"]).unwrap();
        let bytes =
            |member: &str| asked[member].as_u64().unwrap() * asked["f_frsize"].as_u64().unwrap();
        assert_eq!(one["size_bytes"], bytes("f_blocks"));
        assert_eq!(one["available_bytes"], bytes("f_bavail"));
        assert_eq!(one["inodes"], asked["f_files"]);
        if one["class"] == "local" {
            local += bytes("f_blocks");
        }
    }
    // Each is on a device of its own in these machines.
    assert_eq!(report["readings"]["filesystems"]["total_bytes"], local);
    let pseudo_mounts = list(&report["readings"]["filesystems"]["pseudo_mounts"]);
    assert!(
        pseudo_mounts
            .iter()
            .any(|one| one["filesystem"] == "proc" && one["mount_point"] == "/proc")
    );
}

/// One mount of which nobody says how full it is hides no other; that it is not counted is said.
#[test]
fn what_one_mount_does_not_say_leaves_the_others_counted() {
    let folder = support::recorded_to_change("rack-2s");
    let path = folder.path().join("statvfs.json");
    let mut answers: Vec<Value> = serde_json::from_slice(&std::fs::read(&path).unwrap()).unwrap();
    let whole = of_report(&look(folder.path()));
    let total = |report: &Value| report["readings"]["filesystems"]["total_bytes"].as_u64();
    let local = list(&whole["readings"]["filesystems"]["usage"]);
    let one = local.iter().rfind(|one| one["class"] == "local").unwrap();
    answers.retain(|answer| answer["mount_point"] != one["mount_point"]);
    std::fs::write(&path, serde_json::to_vec(&answers).unwrap()).unwrap();
    let report = of_report(&look(folder.path()));
    let left = total(&whole).unwrap() - one["size_bytes"].as_u64().unwrap();
    assert_eq!(total(&report), Some(left));
    let gaps = list(&report["gaps"]);
    let hidden = gaps.iter().find(|gap| gap["at"] == "/readings/filesystems/total_bytes");
    assert!(hidden.is_some(), "that one is not counted is said");
}

#[test]
fn errors_on_each_device_of_a_filesystem_are_told() {
    let uuid = "0c5d1e2f-4a3b-4c5d-8e9f-001122334455";
    let report = changed(|tree| {
        let member = |number| format!("sys/fs/btrfs/{uuid}/devinfo/{number}");
        let counts = "write_errs 2\nread_errs 0\nflush_errs 0\ncorruption_errs 7\n";
        tree.file(format!("{}/error_stats", member(2)), counts);
        tree.line(format!("{}/missing", member(2)), 0);
        tree.line(format!("{}/missing", member(10)), 1);
        tree.folder("sys/fs/btrfs/features");
    });
    let members = list(&report["readings"]["filesystems"]["member_errors"]);
    assert_eq!(members.len(), 2);
    let second = &members[0];
    assert_eq!((&second["filesystem_uuid"], &second["number"]), (&json!(uuid), &json!(2)));
    assert_eq!((&second["write_errors"], &second["corruption_errors"]), (&json!(2), &json!(7)));
    assert!(second["generation_errors"].is_null(), "what is not told is not 0");
    assert_eq!((&members[1]["missing"], &members[1]["number"]), (&json!(true), &json!(10)));
}

#[test]
fn errors_that_a_filesystem_recorded_are_told() {
    let report = changed(|tree| {
        for (name, count, time, function) in
            [("sda1", 3, 1_780_000_000, "ext4_lookup"), ("sdb1", 0, 0, "")]
        {
            let folder = format!("sys/fs/ext4/{name}");
            tree.line(format!("{folder}/errors_count"), count);
            tree.line(format!("{folder}/first_error_time"), time);
            tree.line(format!("{folder}/first_error_func"), function);
            tree.line(format!("{folder}/last_error_time"), time);
            tree.line(format!("{folder}/last_error_func"), function);
        }
        tree.folder("sys/fs/ext4/features");
    });
    let errors = &report["readings"]["filesystems"]["errors"];
    assert_eq!(list(errors).len(), 2);
    let bad = named(errors, "device", "sda1");
    assert_eq!((&bad["errors"], &bad["first_function"]), (&json!(3), &json!("ext4_lookup")));
    assert_eq!(bad["first_at"], "2026-05-28T20:26:40Z");
    let good = named(errors, "device", "sdb1");
    assert_eq!((&good["errors"], &good["first_at"]), (&json!(0), &Value::Null));
}

/// A mounted filesystem keeps the number of a device that the kernel let go of.
#[rstest]
#[case(&[], &["8:3"], None)]
#[case(&["8:3"], &["8:3"], Some(vec![]))]
#[case(&["8:1"], &["8:3"], Some(vec![("8:3", "/srv/pulled")]))]
#[case(&["8:1"], &["8:3", "8:3"], Some(vec![("8:3", "/srv/pulled")]))]
#[case(&["8:1"], &["0:44"], Some(vec![]))]
fn a_mount_whose_device_is_gone_is_told(
    #[case] listed: &[&str],
    #[case] mounted: &[&str],
    #[case] gone: Option<Vec<(&str, &str)>>,
) {
    let report = changed(|tree: &mut Tree| {
        let mut lines = String::new();
        for (at, number) in mounted.iter().enumerate() {
            let again = if at > 0 { "-again" } else { "" };
            lines +=
                &format!("{} 1 {number} / /srv/pulled{again} rw - ext4 /dev/sdq1 rw\n", 60 + at);
        }
        tree.file("proc/self/mountinfo", lines);
        for number in listed {
            tree.link(format!("sys/dev/block/{number}"), "/sys/devices/virtual/block/any");
        }
    });
    let told = &report["readings"]["filesystems"]["gone_devices"];
    let told = told.as_array().map(|all| {
        all.iter()
            .map(|one| (one["number"].as_str().unwrap(), one["mount_point"].as_str().unwrap()))
            .collect::<Vec<_>>()
    });
    assert_eq!(told, gone);
}

/// On a machine that is whole, every mounted device is there; and one that is taken away is missed.
#[test]
fn a_recorded_machine_misses_the_device_that_is_taken_away() {
    let machine = support::recorded_to_change("rack-2s");
    let gone = |machine: &std::path::Path| {
        let report = of_report(&look(machine));
        let told = list(&report["readings"]["filesystems"]["gone_devices"]).iter();
        told.map(|one| one["source"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(gone(machine.path()), [""; 0]);
    let mounts = of_report(&look(machine.path()));
    let mounts = &mounts["inventory"]["filesystems"]["mounts"];
    let first = list(mounts).iter().find(|one| one["class"] == "local").unwrap();
    let number = first["device"].as_str().unwrap();
    std::fs::remove_file(machine.path().join("sys/dev/block").join(number)).unwrap();
    assert_eq!(gone(machine.path()), [first["source"].as_str().unwrap()]);
}
