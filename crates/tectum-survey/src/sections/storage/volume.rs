//! What is made of disks, partitions, files or memory (`Documentation/admin-guide/md.rst`,
//! `Documentation/admin-guide/device-mapper`, `Documentation/ABI/testing/sysfs-block-dm`).

use std::{collections::BTreeSet, ffi::OsString};

use super::{
    partition::{Content, partitions},
    raid::members,
    sectors,
};
use crate::{
    formats::number,
    readers::{
        block::{BlockDevice, Mounts, UdevRecord},
        devices::is_numbered,
        file::{File, list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, saying},
    leaf::{DeviceName, Label, PathName, PercentHundredths, Term, Uuid, volume_part},
    model::{Storage, Volume, VolumeKind, VolumeReadings},
};

/// Ids of logical volumes that snapshots were made of, or rather the snapshots' own: the kernel lists
/// what a snapshot keeps as a device with the snapshot's id and `-cow` behind it.
pub(super) fn origins(lease: &Lease, names: &[OsString]) -> BTreeSet<String> {
    let mapped = names.iter().filter_map(|name| name.to_str()).filter(|n| is_numbered(n, "dm-"));
    mapped
        .filter_map(|name| {
            let id = File::read(lease, format!("{}/{name}/dm/uuid", super::ROOT));
            id.text().trim().strip_suffix("-cow").map(str::to_owned)
        })
        .collect()
}

/// What device-mapper made, by the id that it keeps: the letters before the first hyphen say who
/// made the device, and for logical volumes those behind the second what layer it is.
fn mapped(id: &str, name: &str, snapshots: &BTreeSet<String>) -> VolumeKind {
    let mut words = id.splitn(3, '-');
    let (maker, second, layer) = (words.next().unwrap_or_default(), words.next(), words.next());
    match (maker, second, layer) {
        ("LVM", _, None) if snapshots.contains(id) => VolumeKind::Snapshot,
        // What a mirror or a RAID consists of has an id like any volume's.
        ("LVM", _, None) if volume_part(name).is_some() => VolumeKind::Component,
        ("LVM", _, None) => VolumeKind::Logical,
        ("LVM", _, Some("pool" | "tpool")) => VolumeKind::ThinPool,
        ("LVM", _, Some(_)) => VolumeKind::Component,
        ("CRYPT", Some("INTEGRITY"), _) => VolumeKind::Integrity,
        ("CRYPT", Some("VERITY"), _) => VolumeKind::Verity,
        ("CRYPT", ..) => VolumeKind::Encrypted,
        ("mpath", ..) => VolumeKind::Multipath,
        (part, ..) if part.starts_with("part") => VolumeKind::Partition,
        _ => VolumeKind::Mapped,
    }
}

/// What a device is, by its name; nothing for what is empty.
fn kind(device: &BlockDevice<'_>, snapshots: &BTreeSet<String>) -> Option<VolumeKind> {
    let name = device.name.as_str();
    if name.starts_with("md") {
        return Some(VolumeKind::Raid);
    }
    if is_numbered(name, "dm-") {
        let (id, called) = (device.file("dm/uuid"), device.file("dm/name"));
        return Some(mapped(id.text().trim(), called.text().trim(), snapshots));
    }
    let used = || number::decimal(&device.file("size").text()).is_some_and(|size| size > 0);
    if is_numbered(name, "loop") && used() {
        return Some(VolumeKind::Loop);
    }
    if is_numbered(name, "zram") && used() {
        return Some(VolumeKind::Zram);
    }
    if is_numbered(name, "bcache") {
        return Some(VolumeKind::Bcache);
    }
    if is_numbered(name, "ram") && used() {
        return Some(VolumeKind::RamDisk);
    }
    // Who made these chose the names (`drivers/block/drbd/drbd_main.c`; OpenZFS, zvol_os.c), and no other driver does.
    if is_numbered(name, "drbd") && used() {
        return Some(VolumeKind::Replicated);
    }
    if is_numbered(name, "zd") && used() {
        return Some(VolumeKind::ZfsVolume);
    }
    // Whatever else has a size is told, so that nothing that the kernel knows is missing; loops and
    // the like that are set up for nothing have none. A hidden path is told with its controller.
    let hidden = number::flag(&device.file("hidden").text()) == Some(true);
    (used() && !hidden && !super::boot_area::is_boot_area(name)).then_some(VolumeKind::Other)
}

pub(super) fn volume(
    device: &BlockDevice<'_>,
    mounts: &Mounts,
    snapshots: &BTreeSet<String>,
) -> Option<Volume> {
    let kind = kind(device, snapshots)?;
    let number = device.file("dev");
    let record = UdevRecord::of(device.lease, &number);
    let number = number.text();
    let content = Content::read(&record, mounts, &number, &device.name);
    let is_raid = kind == VolumeKind::Raid;
    let of_raid = || Fact::not_applicable(sayings::ONLY_RAID_MEMBERS);
    let raid_count = |name: &str| match is_raid {
        true => device.file(&format!("md/{name}")).fact(sayings::DECIMAL_NUMBER, number::decimal),
        false => of_raid(),
    };
    let by_group = matches!(
        kind,
        VolumeKind::Logical | VolumeKind::Snapshot | VolumeKind::ThinPool | VolumeKind::Component
    );
    let not_seen = hidden_kind(device);
    let of_group = |key: &str| match by_group {
        true => record.property(key, sayings::AS_UDEV_RECORDED, |name| Some(Label::from(name))),
        false => Fact::not_applicable(saying!(
            "only-logical-volume-belongs-group",
            "only a logical volume belongs to a group",
        )),
    };
    let of_group = |key: &str| not_seen.clone().map_or_else(|| of_group(key), Fact::gap);
    Some(Volume {
        name: device.kernel_name().map(|text| DeviceName(text.0)),
        // What device-mapper made says so itself, if it can be read.
        kind: match &not_seen {
            Some(gap) => Fact::gap(gap.clone()),
            None => Fact::known(kind, kind_evidence(device, kind)),
        },
        title: title(device, kind, &record),
        uuid: uuid(device, kind),
        size_bytes: sectors(&device.file("size")),
        level: match is_raid {
            true => device.file("md/level").text_fact(),
            false => Fact::not_applicable(saying!("only-raid-level", "only a RAID has a level")),
        },
        expected_members: raid_count("raid_disks"),
        missing_members: raid_count("degraded"),
        members: members(device, is_raid),
        backing_devices: backing_devices(device)
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
        group: of_group("DM_VG_NAME"),
        volume: of_group("DM_LV_NAME"),
        format: match &not_seen {
            Some(gap) => Fact::gap(gap.clone()),
            None => form(device, kind),
        },
        read_only: device.file("ro").fact(sayings::ONE_IS_YES, number::flag),
        partitions: partitions(device, mounts),
        filesystem: content.filesystem,
        filesystem_label: content.label,
        filesystem_uuid: content.uuid,
        mount_points: content
            .mount_points
            .map(|all| all.into_iter().map(|text| PathName(text.0)).collect()),
        swapped_to: content.swapped_to,
    })
}

fn hidden_kind(device: &BlockDevice<'_>) -> Option<Gap> {
    let said = ["dm/uuid", "dm/name"].map(|name| device.file(name));
    said.iter().find_map(|file| file.hidden().cloned())
}

/// `CRYPT-LUKS2-…`: the second word is the form.
fn form(device: &BlockDevice<'_>, kind: VolumeKind) -> Fact<Term> {
    match kind {
        VolumeKind::Encrypted | VolumeKind::Integrity | VolumeKind::Verity => device
            .file("dm/uuid")
            .fact(saying!("between-first-two-hyphens", "between the first two hyphens"), |id| {
                id.split('-').nth(1).map(Term::from)
            }),
        _ => Fact::not_applicable(saying!(
            "neither-encrypted-nor-verified",
            "it is neither encrypted nor verified",
        )),
    }
}

fn kind_evidence(device: &BlockDevice<'_>, kind: VolumeKind) -> Evidence {
    let id = device.file("dm/uuid");
    let says_layer = id.text().trim().splitn(3, '-').count() == 3;
    if kind == VolumeKind::Component && !says_layer {
        return device.file("dm/name").evidence(saying!(
            "name-lvm-keeps-parts",
            "a name that LVM keeps for what volumes consist of",
        ));
    }
    match id.bytes() {
        Ok(_) => id.evidence(saying!(
            "letters-before-first-hyphen-who",
            "the letters before the first hyphen say who made it",
        )),
        Err(_) => device
            .on_the_way(saying!("kernel-name-such-devices", "the kernel's name for such devices",)),
    }
}

fn title(device: &BlockDevice<'_>, kind: VolumeKind, record: &UdevRecord) -> Fact<Label> {
    match kind {
        VolumeKind::Raid => record
            .property("MD_DEVNAME", sayings::AS_UDEV_RECORDED, |name| Some(Label::from(name)))
            .or_known(|| {
                record
                    .property("MD_NAME", sayings::AS_UDEV_RECORDED, |name| Some(Label::from(name)))
            }),
        VolumeKind::Loop => device.file("loop/backing_file").text_fact(),
        VolumeKind::Zram | VolumeKind::Bcache | VolumeKind::RamDisk | VolumeKind::Other => {
            Fact::not_applicable(saying!("no-name-own", "it has no name of its own"))
        }
        _ => device.file("dm/name").text_fact(),
    }
}

fn uuid(device: &BlockDevice<'_>, kind: VolumeKind) -> Fact<Uuid> {
    match kind {
        VolumeKind::Raid => device.file("md/uuid").text_fact(),
        VolumeKind::Loop | VolumeKind::Zram | VolumeKind::RamDisk | VolumeKind::Other => {
            Fact::not_applicable(saying!("no-id-own", "it has no id of its own"))
        }
        VolumeKind::Bcache => device.file("bcache/backing_dev_uuid").text_fact(),
        VolumeKind::Encrypted | VolumeKind::Integrity | VolumeKind::Verity => device
            .file("dm/uuid")
            .fact(saying!("behind-second-hyphen", "behind the second hyphen"), |id| {
                Some(Uuid(id.splitn(3, '-').nth(2)?.to_owned()))
            }),
        _ => device.file("dm/uuid").fact(
            saying!("behind-first-hyphen", "behind the first hyphen"),
            |id| {
                let (_maker, id) = id.split_once('-')?;
                Some(Uuid(id.to_owned()))
            },
        ),
    }
}

fn backing_devices(device: &BlockDevice<'_>) -> Fact<Vec<Term>> {
    let folder = format!("{}/slaves", device.folder);
    match list(device.lease, &folder) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let names: BTreeSet<String> = names
                .iter()
                .filter_map(|name| name.to_str())
                .map(|n| n.replace('!', "/"))
                .collect();
            let raw = names.iter().cloned().collect::<Vec<_>>().join(" ");
            let names: Vec<Term> = names.into_iter().map(Term).collect();
            Fact::known(names, listing_evidence(&folder, sayings::NAMES_FOLDER).raw(&raw))
        }
    }
}

pub(super) fn readings(lease: &Lease, storage: &Storage) -> Parts<VolumeReadings> {
    if let Some(gap) = storage.volumes.gap() {
        return Parts::missing(gap.clone());
    }
    let parts = storage.volumes.iter().filter_map(|volume| {
        let name = volume.name.value()?.replace('/', "!");
        if volume.kind.value() == Some(&VolumeKind::Bcache) {
            let of_raid = || saying!("only-raid-acts", "only a RAID does such things");
            return Some(VolumeReadings {
                name: volume.name.clone(),
                state: File::read(lease, format!("/sys/block/{name}/bcache/state")).text_fact(),
                action: Fact::not_applicable(of_raid()),
                progress_percent_hundredths: Fact::not_applicable(of_raid()),
            });
        }
        if volume.kind.value() != Some(&VolumeKind::Raid) {
            return None;
        }
        let file = |attribute: &str| File::read(lease, format!("/sys/block/{name}/md/{attribute}"));
        Some(VolumeReadings {
            name: volume.name.clone(),
            state: file("array_state").text_fact(),
            action: file("sync_action").text_fact(),
            progress_percent_hundredths: match file("sync_completed").text().trim() {
                "none" => Fact::not_applicable(saying!(
                    "nothing-being-done",
                    "nothing is being done to it",
                )),
                _ => file("sync_completed")
                    .fact(
                        saying!("sectors-done-all-them", "sectors done, of all of them"),
                        |text| {
                            let (done, all) = text.split_once('/')?;
                            let (done, all) = (number::decimal(done)?, number::decimal(all)?);
                            done.checked_mul(10_000)?.checked_div(all)
                        },
                    )
                    .map(PercentHundredths),
            },
        })
    });
    Parts::known(
        parts.collect(),
        listing_evidence(super::ROOT, saying!("every-raid-cache", "every RAID and cache")),
    )
    .in_part(storage.volumes.hidden().cloned())
}
