//! Disks, their partitions, optical drives, and what is made of them.

mod activity;
mod address;
mod bay;
mod block_limits;
mod boot_area;
mod disk;
mod free_space;
mod holders;
mod identity;
mod link;
mod nvme;
mod optical;
mod partition;
mod queue;
mod raid;
mod spread;
mod total;
mod volume;

use super::{Found, Section};
use crate::{
    formats::number,
    readers::{
        block::{BlockDevice, Mounts},
        devices::{self, DevicePath},
        file::{File, hidden, list, listing_evidence},
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, saying},
    leaf::Bytes,
    model::{DiskKind, Storage, StorageReadings},
};

pub(super) const SECTION: Section = Section {
    name: "storage",
    summary: "disks with their partitions, optical drives, RAID, volumes, encryption, loops",
    reads: &[
        "/proc/self/mountinfo",
        "/proc/swaps",
        "/proc/sys/dev/cdrom/info",
        "/run/udev/data/b*",
        "/sys/block",
        "/sys/block/**",
        "/sys/bus/pci/devices/*/*_link_speed",
        "/sys/bus/pci/devices/*/*_link_width",
        "/sys/bus/pci/slots",
        "/sys/bus/pci/slots/*/address",
        "/sys/class",
        "/sys/class/ata_link/*/hw_sata_spd_limit",
        "/sys/class/ata_link/*/sata_spd",
        "/sys/class/ata_port/*/port_no",
        "/sys/class/nvme",
        "/sys/class/nvme/**",
        "/sys/class/sas_device/*/bay_identifier",
        "/sys/class/sas_device/*/enclosure_identifier",
        "/sys/class/sas_phy/*/*_linkrate",
        "/sys/devices/**/port-*",
        "/sys/devices/**/serial",
    ],
    survey,
};

/// `Documentation/ABI/stable/sysfs-block`.
const ROOT: &str = "/sys/block";

/// Sizes and starts in sysfs count sectors of 512 bytes whatever the disk's own sectors are.
const SECTOR: u64 = 512;

fn survey(lease: &Lease) -> Found {
    let storage = storage(lease);
    let readings = StorageReadings {
        volumes: volume::readings(lease, &storage),
        disks: activity::readings(lease, &storage),
    };
    Box::new(|observed| {
        observed.inventory.storage = Some(storage);
        observed.readings.storage = Some(readings);
    })
}

fn storage(lease: &Lease) -> Storage {
    let names = match list(lease, ROOT) {
        Ok(names) => names,
        Err(gap) => {
            return Storage {
                drives: Fact::gap(gap.clone()),
                total_bytes: Fact::gap(gap.clone()),
                disks: Parts::missing(gap.clone()),
                optical_drives: Parts::missing(gap.clone()),
                volumes: Parts::missing(gap.clone()),
                nvme_controllers: Parts::missing(gap),
            };
        }
    };
    let mounts = Mounts::read(lease);
    let slots = bay::Slots::read(lease);
    let origins = volume::origins(lease, &names);
    let mut disks = Vec::new();
    let mut drives = Vec::new();
    let mut volumes = Vec::new();
    let mut names: Vec<&str> = names.iter().filter_map(|name| name.to_str()).collect();
    names.sort_by_key(|name| natural(name));
    let mut unseen = None;
    for name in names {
        let folder = format!("{ROOT}/{name}");
        let path = DevicePath::follow(lease, &folder);
        unseen = unseen.or(hidden(&path).cloned());
        let Ok(path) = path else { continue };
        let mut device = BlockDevice::new(lease, name, folder, path);
        // Of what cannot say so nobody knows whether it is a drive by itself.
        let says = ["hidden", "device/type"].map(|name| device.file(name));
        if let Some(gap) = says.iter().find_map(File::hidden) {
            unseen = unseen.or(Some(gap.clone()));
            continue;
        }
        let role = kind(&device);
        if role == Role::Disk(DiskKind::Nvme) {
            nvme::take_path(&mut device);
        }
        match role {
            Role::Disk(kind) => disks.push(disk::disk(&device, kind, &mounts, &slots)),
            Role::Optical => drives.push(optical::optical(&device, &mounts)),
            Role::NoDrive => volumes.extend(volume::volume(&device, &mounts, &origins)),
        }
    }
    let rule = saying!("block-devices-stand-drive", "block devices that stand for a drive");
    // Of a disk that could not say its name to the world nobody knows whether it is another path to one.
    let nameless = disks.iter().filter_map(|disk| disk.wwn.missing());
    let nameless = nameless.into_iter().find(|gap| gap.why.hides_a_value()).cloned();
    total::find_paths(&mut disks, nameless.as_ref().or(unseen.as_ref()));
    spread::share_mounts(&mut disks, &mut volumes);
    let (count, total_bytes) = match nameless {
        Some(gap) => (Fact::gap(gap.clone()), Fact::gap(gap)),
        None => total::of(&disks),
    };
    let sizes = disks.iter().filter_map(|disk| disk.size_bytes.missing());
    let of_unknown_size = sizes.into_iter().find(|gap| gap.why.hides_a_value()).cloned();
    Storage {
        drives: count.in_part(unseen.clone()),
        total_bytes: total_bytes.map(Bytes).in_part(unseen.clone().or(of_unknown_size)),
        disks: Parts::known(disks, listing_evidence(ROOT, rule)).in_part(unseen.clone()),
        optical_drives: Parts::known(
            drives,
            listing_evidence(ROOT, saying!("scsi-devices-type-5", "SCSI devices of type 5")),
        )
        .in_part(unseen.clone()),
        volumes: Parts::known(
            volumes,
            listing_evidence(
                ROOT,
                saying!(
                    "block-devices-made-others-files",
                    "block devices made of others, of files or of memory",
                ),
            ),
        )
        .in_part(unseen),
        nvme_controllers: nvme::controllers(lease),
    }
}

/// A name with its numbers as numbers, so that `sdb` comes before `sdaa` and `nvme2` before
/// `nvme10`.
fn natural(name: &str) -> (String, usize, Vec<u64>, String) {
    let numbers = name
        .split(|c: char| !c.is_ascii_digit())
        .filter_map(|digits| digits.parse().ok())
        .collect();
    let letters: String = name.chars().filter(|c| !c.is_ascii_digit()).collect();
    let stem = name.get(..2).unwrap_or(name).to_owned();
    (stem, letters.len(), numbers, name.to_owned())
}

/// What a block device is to the inventory.
#[derive(PartialEq, Eq)]
enum Role {
    Disk(DiskKind),
    Optical,
    /// Something made of other devices or of memory.
    NoDrive,
}

/// `dasda`, `dasdaa`: letters behind a name (`drivers/s390/block/dasd_genhd.c`).
fn is_lettered(name: &str, begin: &str) -> bool {
    let letters = name.strip_prefix(begin).unwrap_or_default();
    !letters.is_empty() && letters.bytes().all(|letter| letter.is_ascii_lowercase())
}

fn kind(device: &BlockDevice<'_>) -> Role {
    let path = &device.path;
    let under = |test: &dyn Fn(&str) -> bool| path.last(test).is_some();
    // Controllers over a network and subsystems of several paths hang on nothing themselves.
    let is_nvme = under(&|part| devices::is_numbered(part, "nvme") || part == "nvme-subsystem");
    if under(&|part| part == "virtual") && !is_nvme {
        let used = number::decimal(&device.file("size").text()).is_some_and(|size| size > 0);
        return match devices::is_numbered(&device.name, "nbd") && used {
            true => Role::Disk(DiskKind::Network),
            false => Role::NoDrive,
        };
    }
    // An area of a card is told with its card; one of several paths to a namespace that stands in the list by itself.
    if boot_area::is_boot_area(&device.name)
        || number::flag(&device.file("hidden").text()) == Some(true)
    {
        return Role::NoDrive;
    }
    if number::decimal(&device.file("device/type").text()) == Some(5) {
        return Role::Optical;
    }
    let parent = path.parts.iter().rev().nth(2).map_or("", String::as_str);
    Role::Disk(if is_nvme {
        DiskKind::Nvme
    } else if under(&devices::is_usb_device) {
        DiskKind::Usb
    } else if devices::is_numbered(parent, "virtio") {
        DiskKind::Virtio
    } else if under(&|part| devices::is_numbered(part, "mmc")) {
        DiskKind::Mmc
    } else if under(&|part| devices::is_numbered(part, "ata")) {
        DiskKind::Ata
    } else if under(&|part| devices::is_numbered(part, "host")) {
        DiskKind::Scsi
    } else if under(&|part| part.starts_with("vbd-")) {
        DiskKind::Xen
    } else if under(&|part| devices::is_numbered(part, "ndbus")) {
        DiskKind::PersistentMemory
    } else if devices::is_numbered(&device.name, "fd") {
        DiskKind::Floppy
    } else if is_lettered(&device.name, "dasd") {
        DiskKind::Dasd
    } else if devices::is_numbered(&device.name, "rbd") {
        DiskKind::Network
    } else {
        DiskKind::Other
    })
}

fn sectors(file: &File) -> Fact<Bytes> {
    file.fact(
        saying!(
            "sectors-512-bytes-whatever-disk",
            "sectors of 512 bytes, whatever the disk's own are",
        ),
        |text| number::decimal(text)?.checked_mul(SECTOR).map(Bytes),
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_sorted_as_people_count() {
        let mut names = ["sdaa", "nvme10n1", "sdb", "sda", "nvme2n1", "vda", "mmcblk0"];
        names.sort_by_key(|name| natural(name));
        assert_eq!(names, ["mmcblk0", "nvme2n1", "nvme10n1", "sda", "sdb", "sdaa", "vda"]);
    }
}
