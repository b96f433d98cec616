//! Disks and their partitions: the block devices, the controllers that they hang on, the udev database.

use crate::{
    Disk, DiskKind, Machine, Partition, Tree,
    content::{Held, Mounted},
    devices,
};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    tree.folder("sys/block");
    for (number, disk) in (0u32..).zip(&machine.disks) {
        put_disk(machine, number, disk, tree);
    }
}

/// The device number of a disk (partition 0) or of one of its partitions.
fn device_number(disk: u32, partition: u32) -> (u32, u32) {
    (240 + disk / 64, (disk % 64) * 16 + partition)
}

/// A partition's name: a `p` stands between where the disk's name ends in a digit.
fn partition_name(disk: &str, number: u32) -> String {
    let between = if disk.ends_with(|last: char| last.is_ascii_digit()) { "p" } else { "" };
    format!("{disk}{between}{number}")
}

/// Partitions by their numbers.
fn numbered(disk: &Disk) -> impl Iterator<Item = (u32, &Partition)> {
    (1u32..).zip(&disk.partitions).map(|(at, part)| (part.number.unwrap_or(at), part))
}

/// What is mounted from disks and from their partitions.
pub(crate) fn mounted(machine: &Machine) -> Vec<Mounted<'_>> {
    let mut all = Vec::new();
    for (number, disk) in (0u32..).zip(&machine.disks) {
        if let Some(content) = &disk.content {
            all.push(Mounted {
                number: device_number(number, 0),
                device: format!("/dev/{}", disk.name),
                point: &content.mount,
                filesystem: &content.filesystem,
                bytes: disk.bytes,
                used: content.used,
            });
        }
        for (index, partition) in numbered(disk) {
            all.push(Mounted {
                number: device_number(number, index),
                device: format!("/dev/{}", partition_name(&disk.name, index)),
                point: &partition.mount,
                filesystem: &partition.filesystem,
                bytes: partition.mib << 20,
                used: partition.used,
            });
        }
    }
    all.retain(|mount| !mount.point.is_empty());
    all
}

/// The block device of a disk or of a partition, by its kernel name.
pub(crate) fn folder_of(machine: &Machine, name: &str) -> Option<String> {
    let disks = (0u32..).zip(&machine.disks);
    disks.into_iter().find_map(|(number, disk)| {
        let (_device, block) = folders(machine, number, disk);
        if disk.name == name {
            return Some(block);
        }
        let mut parts = numbered(disk).map(|(index, _)| partition_name(&disk.name, index));
        parts.find(|part| part == name).map(|part| format!("{block}/{part}"))
    })
}

/// The number of the SCSI host that a controller is.
fn host(machine: &Machine, disk: &Disk) -> usize {
    let mut controllers: Vec<&str> = Vec::new();
    for other in machine.disks.iter().filter(|other| other.kind == DiskKind::Sas) {
        if !controllers.contains(&other.controller.as_str()) {
            controllers.push(&other.controller);
        }
    }
    32 + controllers.iter().position(|own| *own == disk.controller).unwrap_or(0)
}

/// The folders of a disk's device and of its block device.
fn folders(machine: &Machine, number: u32, disk: &Disk) -> (String, String) {
    let controller = devices::folder(machine, &disk.controller);
    let name = &disk.name;
    match disk.kind {
        DiskKind::Nvme => {
            let drive = name.rsplit_once('n').map_or("nvme0", |(drive, _)| drive);
            let device = format!("{controller}/nvme/{drive}");
            (device.clone(), format!("{device}/{name}"))
        }
        DiskKind::Sata => {
            let device = format!(
                "{controller}/ata{}/host{number}/target{number}:0:0/{number}:0:0:0",
                number + 1
            );
            (device.clone(), format!("{device}/block/{name}"))
        }
        DiskKind::Sas => {
            let (host, port) = (host(machine, disk), disk.port);
            let device = format!(
                "{controller}/host{host}/port-{host}:{port}/end_device-{host}:{port}/target{host}:0:{port}/\
                 {host}:0:{port}:0"
            );
            (device.clone(), format!("{device}/block/{name}"))
        }
        DiskKind::Mmc => {
            let device = format!("{controller}/mmc_host/mmc{number}/mmc{number}:0001");
            (device.clone(), format!("{device}/block/{name}"))
        }
        DiskKind::Floppy => (controller.clone(), format!("{controller}/block/{name}")),
    }
}

fn put_disk(machine: &Machine, number: u32, disk: &Disk, tree: &mut Tree) {
    let (device, block) = folders(machine, number, disk);
    tree.link(format!("sys/block/{}", disk.name), &format!("/{block}"));
    tree.link(format!("{block}/device"), &format!("/{device}"));
    match disk.kind {
        DiskKind::Nvme => {
            tree.line(format!("{device}/model"), format!("{:<40}", disk.model));
            tree.line(format!("{device}/serial"), format!("{:<20}", disk.serial));
            tree.line(format!("{device}/firmware_rev"), &disk.firmware);
            tree.line(format!("{block}/wwid"), &disk.wwn);
            tree.line(format!("{block}/nsid"), 1);
        }
        DiskKind::Sata => {
            let ata = number + 1;
            let controller = devices::folder(machine, &disk.controller);
            let port = format!("{controller}/ata{ata}/ata_port/ata{ata}");
            tree.line(format!("{port}/port_no"), disk.port);
            tree.link(format!("sys/class/ata_port/ata{ata}"), &format!("/{port}"));
            scsi(&device, "ATA", disk, tree);
            tree.file(format!("{device}/vpd_pg89"), ata_page(disk));
        }
        DiskKind::Sas => {
            scsi(&device, &disk.vendor, disk, tree);
            tree.file(format!("{device}/vpd_pgb1"), characteristics_page(disk));
            serial_attached(machine, disk, &device, tree);
        }
        DiskKind::Mmc => {
            for (name, value) in
                [("name", &disk.model), ("serial", &disk.serial), ("fwrev", &disk.firmware)]
            {
                tree.line(format!("{device}/{name}"), value);
            }
            tree.line(format!("{device}/type"), "SD");
            tree.line(format!("{device}/cid"), &disk.wwn);
        }
        DiskKind::Floppy => {}
    }
    let (major, minor) = device_number(number, 0);
    tree.line(format!("{block}/dev"), format!("{major}:{minor}"));
    tree.line(format!("{block}/size"), disk.bytes / 512);
    tree.line(format!("{block}/ro"), 0);
    tree.line(format!("{block}/removable"), u8::from(disk.kind == DiskKind::Floppy));
    tree.line(format!("{block}/hidden"), 0);
    tree.line(format!("{block}/queue/rotational"), u8::from(disk.rotational));
    tree.line(format!("{block}/queue/logical_block_size"), 512);
    let physical = if matches!(disk.kind, DiskKind::Mmc | DiskKind::Floppy) { 512 } else { 4096 };
    tree.line(format!("{block}/queue/physical_block_size"), physical);
    let table = match disk.partitions.is_empty() {
        true => String::new(),
        false => format!("E:ID_PART_TABLE_TYPE={}\n", disk.table),
    };
    let held =
        disk.content.as_ref().map_or(String::new(), |content| Held::of(content).properties());
    tree.file(format!("run/udev/data/b{major}:{minor}"), format!("E:ID_TYPE=disk\n{table}{held}"));
    for (index, partition) in numbered(disk) {
        put_partition(number, index, disk, partition, &block, tree);
    }
}

fn put_partition(
    number: u32,
    index: u32,
    disk: &Disk,
    partition: &Partition,
    block: &str,
    tree: &mut Tree,
) {
    let name = partition_name(&disk.name, index);
    let (major, minor) = device_number(number, index);
    let folder = format!("{block}/{name}");
    tree.line(format!("{folder}/partition"), index);
    tree.line(format!("{folder}/start"), partition.start_mib * 2048);
    tree.line(format!("{folder}/size"), partition.mib * 2048);
    tree.line(format!("{folder}/dev"), format!("{major}:{minor}"));
    let called = match partition.name.as_str() {
        "" => String::new(),
        name => format!("PARTNAME={name}\n"),
    };
    tree.file(format!("{folder}/uevent"), format!("DEVNAME={name}\nPARTN={index}\n{called}"));
    // The types of the UEFI Specification and the Discoverable Partitions Specification.
    let kind = match (partition.kind.as_str(), partition.filesystem.as_str()) {
        ("", "vfat") => "c12a7328-f81f-11d2-ba4b-00a0c93ec93b",
        ("", _) if partition.mount == "/" => "4f68bce3-e8cd-4db1-96e7-fbcaf984b709",
        ("", _) if partition.mount.starts_with("/srv/") => "3b8f8425-20e0-4f3b-907f-1a25a76f98e8",
        ("", _) => "0fc63daf-8483-4772-8e79-3d69d8477de4",
        (kind, _) => kind,
    };
    let held = Held {
        filesystem: &partition.filesystem,
        uuid: &partition.filesystem_uuid,
        label: &partition.label,
    };
    tree.file(
        format!("run/udev/data/b{major}:{minor}"),
        format!(
            "{}E:ID_PART_ENTRY_SCHEME={}\nE:ID_PART_ENTRY_TYPE={kind}\nE:ID_PART_ENTRY_UUID={}\n",
            held.properties(),
            disk.table,
            partition.uuid
        ),
    );
}

fn scsi(device: &str, vendor: &str, disk: &Disk, tree: &mut Tree) {
    tree.line(format!("{device}/vendor"), format!("{vendor:<8}"));
    tree.line(format!("{device}/model"), disk.model.chars().take(16).collect::<String>());
    tree.line(format!("{device}/rev"), &disk.firmware);
    tree.line(format!("{device}/type"), 0);
    tree.line(format!("{device}/wwid"), &disk.wwn);
    tree.file(format!("{device}/vpd_pg80"), serial_page(&disk.serial));
}

/// The link, the bay and the enclosure of a serial-attached disk.
fn serial_attached(machine: &Machine, disk: &Disk, device: &str, tree: &mut Tree) {
    let (host, port) = (host(machine, disk), disk.port);
    let controller = format!("{}/host{host}", devices::folder(machine, &disk.controller));
    let end = format!("end_device-{host}:{port}");
    let link = format!("{controller}/port-{host}:{port}");
    let own = format!("{link}/{end}/sas_device/{end}");
    tree.link(format!("sys/class/sas_device/{end}"), &format!("/{own}"));
    tree.line(format!("{own}/bay_identifier"), disk.bay);
    let phy = format!("phy-{host}:{port}");
    let rates = format!("{controller}/{phy}/sas_phy/{phy}");
    tree.link(format!("{link}/{phy}"), &format!("/{controller}/{phy}"));
    tree.link(format!("sys/class/sas_phy/{phy}"), &format!("/{rates}"));
    tree.line(format!("{rates}/negotiated_linkrate"), "12.0 Gbit");
    tree.line(format!("{rates}/maximum_linkrate"), "12.0 Gbit");
    if !disk.enclosure.is_empty() {
        tree.line(format!("{own}/enclosure_identifier"), &disk.enclosure);
        let shelf =
            format!("{controller}/port-{host}:64/end_device-{host}:64/enclosure/{host}:0:64:0");
        tree.line(format!("{shelf}/id"), &disk.enclosure);
        let bay = format!("{shelf}/Bay {}", disk.bay);
        tree.line(format!("{bay}/status"), "OK");
        tree.link(format!("{device}/enclosure_device:Bay {}", disk.bay), &format!("/{bay}"));
    }
}

/// A unit serial number page (SPC-6 clause 7.7.19).
fn serial_page(serial: &str) -> Vec<u8> {
    let mut page = vec![0, 0x80, 0, u8::try_from(serial.len()).unwrap_or(u8::MAX)];
    page.extend(serial.bytes());
    page
}

/// A block device characteristics page (SBC-4 clause 6.6.2): the rotation rate, of which 1 says that nothing
/// rotates, and the form factor of 2.5 or 3.5 inches.
fn characteristics_page(disk: &Disk) -> Vec<u8> {
    let rate = if disk.rotational { disk.rpm } else { 1 };
    let mut page = vec![0, 0xB1, 0, 0x3C];
    page.extend(rate.to_be_bytes());
    page.extend([0, if disk.rotational { 2 } else { 3 }]);
    page.resize(64, 0);
    page
}

/// An ATA information page (SAT-5 clause 12.4.2) with the identify data that matter here.
fn ata_page(disk: &Disk) -> Vec<u8> {
    let mut identify = [0u8; 512];
    let mut put = |word: usize, words: usize, text: &str| {
        let padded = format!("{text:<width$}", width = words * 2);
        let place = identify.iter_mut().skip(word * 2);
        let swapped = padded.as_bytes().chunks(2).flat_map(|pair| pair.iter().rev());
        for (slot, byte) in place.zip(swapped.take(words * 2)) {
            *slot = *byte;
        }
    };
    put(10, 10, &disk.serial);
    put(23, 4, &disk.firmware);
    put(27, 20, &disk.model);
    let mut page = vec![0, 0x89, 0x02, 0x38];
    page.resize(60, 0);
    page.extend(identify);
    page
}
