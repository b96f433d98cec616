//! Disks, each as one drive.

use super::{
    address::{address, bus, scsi_address, scsi_transport},
    bay, block_limits, boot_area, free_space, holders,
    identity::Drive,
    link, nvme,
    partition::{Content, partitions},
    queue, sectors,
};
use crate::{
    formats::number,
    readers::{
        block::{BlockDevice, Mounts, UdevRecord},
        pcie_link::Which,
        sayings,
    },
};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::{Bytes, Date, DeviceName, PathName, Rpm, Term, Uuid},
    model::{Disk, DiskKind},
};

pub(super) fn disk(
    device: &BlockDevice<'_>,
    kind: DiskKind,
    mounts: &Mounts,
    slots: &bay::Slots,
) -> Disk {
    let link = &device.link;
    let number = device.file("dev");
    let record = UdevRecord::of(device.lease, &number);
    let number = number.text();
    let drive = Drive::read(device, kind);
    let content = Content::read(&record, mounts, &number, &device.name);
    let partitions = partitions(device, mounts);
    let sector = device.file("queue/logical_block_size").fact(sayings::BYTES, number::decimal);
    let is_mmc = kind == DiskKind::Mmc;
    let of_card = |file: &str| match is_mmc {
        true => device.file(file).text_fact(),
        false => Fact::not_applicable(sayings::ONLY_MMC_SD_CARDS),
    };
    let now = link::read(device, kind, Which::Current);
    let best = link::read(device, kind, Which::Max);
    Disk {
        name: device.kernel_name().map(|text| DeviceName(text.0)),
        kind: Fact::known(
            kind,
            device.on_the_way(saying!("kinds-device-way", "the kinds of device on the way to it",)),
        ),
        bus: Fact::known(
            bus(&device.path),
            device.on_the_way(saying!("last-bus-way", "the last bus on the way to it")),
        ),
        address: match address(device, kind) {
            Err(gap) => Fact::gap(gap),
            Ok(address) => device.path.fact(
                link,
                saying!(
                    "controller-way-port-target-namespace",
                    "the controller on the way to it, and the port, target or namespace",
                ),
                address,
            ),
        },
        controller: match device.path.pci_address() {
            Some(address) => device.path.fact(
                link,
                saying!("last-pci-function-way", "the last PCI function on the way to it"),
                Some(address.to_owned()),
            ),
            None => Fact::not_applicable(sayings::CONTROLLER_NO_PCI_FUNCTION),
        },
        scsi_address: scsi_address(device),
        bay: bay::bay(device, kind, slots),
        enclosure: bay::enclosure(device),
        vendor: drive.vendor,
        maker_id: of_card("device/manfid"),
        manufacture_date: made(device, kind),
        model: drive.model,
        serial: drive.serial,
        wwn: drive.wwn,
        text_id: drive.text_id,
        multipath_of: Fact::not_applicable(saying!(
            "no-other-disk-world-wide",
            "no other disk has its World Wide Name",
        )),
        firmware_revision: drive.firmware_revision,
        size_bytes: size(device, kind),
        optimal_transfer_bytes: block_limits::optimal_transfer(device, sector.value().copied())
            .map(Bytes),
        provisioning: block_limits::provisioning(device),
        logical_sector_bytes: sector.map(Bytes),
        physical_sector_bytes: device
            .file("queue/physical_block_size")
            .fact(sayings::BYTES, number::decimal)
            .map(Bytes),
        rotating: device.file("queue/rotational").fact(sayings::ONE_IS_YES, number::flag),
        rotation_rpm: block_limits::characteristic(device, |page| page.rotation_rpm).map(Rpm),
        form_factor: block_limits::characteristic(device, |page| page.form_factor.map(Term::from)),
        link_speed_mbps: now.rate,
        link_speed_mts: now.speed,
        link_lanes: now.lanes,
        max_link_speed_mbps: best.rate,
        max_link_speed_mts: best.speed,
        max_link_lanes: best.lanes,
        removable: device.file("removable").fact(sayings::ONE_IS_YES, number::flag),
        read_only: device.file("ro").fact(sayings::ONE_IS_YES, number::flag),
        write_cache: device.file("queue/write_cache").text_fact(),
        discard: device
            .file("queue/discard_granularity")
            .fact(saying!("bytes-0-cannot", "bytes; 0 says that it cannot"), |text| {
                Some(number::decimal(text)? > 0)
            }),
        zone_model: device
            .file("queue/zoned")
            .fact(sayings::KERNEL_WORD, |text| Some(Term::from(text))),
        scheduler: device.file("queue/scheduler").fact(sayings::ONE_BRACKETS, queue::chosen),
        queue_depth: queue::depth(device, kind),
        transport: match kind {
            DiskKind::Nvme => nvme::transport(device),
            DiskKind::Scsi => scsi_transport(device),
            _ => Fact::not_applicable(saying!(
                "only-nvme-scsi-several-transports",
                "only NVMe and SCSI disks are reached by several",
            )),
        },
        numa_node: queue::numa_node(device),
        holders: holders::holders(device.lease, &device.folder)
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
        boot_areas: boot_area::boot_areas(device, kind),
        partition_table: record.text("ID_PART_TABLE_TYPE"),
        partition_table_uuid: record.property(
            "ID_PART_TABLE_UUID",
            sayings::AS_UDEV_RECORDED,
            |id| Some(Uuid::from(id)),
        ),
        unpartitioned_bytes: free_space::unpartitioned(&sectors(&device.file("size")), &partitions)
            .map(Bytes),
        free_spaces: free_space::free_spaces(
            &device.folder,
            &sectors(&device.file("size")),
            &partitions,
        ),
        filesystem: content.filesystem,
        filesystem_label: content.label,
        filesystem_uuid: content.uuid,
        mount_points: content
            .mount_points
            .map(|all| all.into_iter().map(|text| PathName(text.0)).collect()),
        swapped_to: content.swapped_to,
        partitions,
    }
}

/// A disk's size. Until a disk has been read in a floppy drive the kernel says 8 sectors, which is no
/// disk's size (`drivers/block/floppy.c`).
fn size(device: &BlockDevice<'_>, kind: DiskKind) -> Fact<Bytes> {
    let size = sectors(&device.file("size"));
    if kind != DiskKind::Floppy {
        return size;
    }
    size.and_then(|bytes| match bytes {
        Bytes(4096) => Err(Gap::new(Why::NotProvided).hint(saying!(
            "placeholder-until-floppy-read",
            "the kernel says 8 sectors until a disk has been read in the drive",
        ))),
        bytes => Ok(bytes),
    })
}

/// When an MMC or SD card was made (`Documentation/ABI/testing/sysfs-bus-mmc`: month and year).
pub(super) fn made(device: &BlockDevice<'_>, kind: DiskKind) -> Fact<Date> {
    if kind != DiskKind::Mmc {
        return Fact::not_applicable(sayings::ONLY_MMC_SD_CARDS);
    }
    device.file("device/date").fact(saying!("month-year", "month and year"), |text| {
        let (month, year) = text.split_once('/')?;
        format!("{year}-{month}").parse().ok()
    })
}
