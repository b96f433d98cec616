//! Disks, their partitions, optical drives, and what is made of them.

mod activity;
mod attachment;
mod link;
mod nvme;
mod queue;
mod total;
mod volume;

use crate::readers::sayings;
use std::sync::Arc;

use super::{Found, Section};
use crate::readers::{
    block::{BlockDevice, Mounts, UdevRecord},
    devices::{self, DevicePath},
    file::{File, list, listing_evidence},
    pcie_link::Which,
};
use crate::{
    formats::{assignment, number, udev, vital_product_data as vpd},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::{Bytes, Date, DeviceName, Label, PathName, Rpm, Serial, Term, Uuid, WorldWideName},
    model::{Disk, DiskBus, DiskKind, OpticalDrive, Partition, Storage, StorageReadings},
};

pub(super) const SECTION: Section = Section {
    name: "storage",
    summary: "disks with their partitions, optical drives, RAID, volumes, encryption, loops",
    reads: &[
        "/proc/self/mountinfo",
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
    Box::new(|findings| {
        findings.inventory.storage = Some(storage);
        findings.readings.storage = Some(readings);
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
    let slots = attachment::Slots::read(lease);
    let origins = volume::origins(lease, &names);
    let mut disks = Vec::new();
    let mut drives = Vec::new();
    let mut volumes = Vec::new();
    let mut names: Vec<&str> = names.iter().filter_map(|name| name.to_str()).collect();
    names.sort_by_key(|name| natural(name));
    for name in names {
        let folder = format!("{ROOT}/{name}");
        let Ok(path) = DevicePath::follow(lease, &folder) else { continue };
        let device = BlockDevice::new(lease, name, folder, path);
        match kind(&device) {
            Role::Disk(kind) => disks.push(disk(&device, kind, &mounts, &slots)),
            Role::Optical => drives.push(optical(&device)),
            Role::NoDrive => volumes.extend(volume::volume(&device, &mounts, &origins)),
        }
    }
    let rule = Saying::new("block-devices-stand-drive", "block devices that stand for a drive");
    total::find_paths(&mut disks);
    let (count, total_bytes) = total::of(&disks);
    Storage {
        drives: count,
        total_bytes: total_bytes.map(Bytes),
        disks: Parts::known(disks, listing_evidence(ROOT, rule)),
        optical_drives: Parts::known(
            drives,
            listing_evidence(ROOT, Saying::new("scsi-devices-type-5", "SCSI devices of type 5")),
        ),
        volumes: Parts::known(
            volumes,
            listing_evidence(
                ROOT,
                Saying::new(
                    "block-devices-made-others-files",
                    "block devices made of others, of files or of memory",
                ),
            ),
        ),
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
enum Role {
    Disk(DiskKind),
    Optical,
    /// Something made of other devices or of memory.
    NoDrive,
}

fn kind(device: &BlockDevice<'_>) -> Role {
    let path = &device.path;
    let under = |test: &dyn Fn(&str) -> bool| path.last(test).is_some();
    if under(&|part| part == "virtual") && !under(&|part| part == "nvme-subsystem") {
        let used = number::decimal(&device.file("size").text()).is_some_and(|size| size > 0);
        return match devices::is_numbered(&device.name, "nbd") && used {
            true => Role::Disk(DiskKind::Network),
            false => Role::NoDrive,
        };
    }
    // An area of a card is told with its card; one of several paths to a namespace that stands in the list by itself.
    if attachment::is_boot_area(&device.name)
        || number::flag(&device.file("hidden").text()) == Some(true)
    {
        return Role::NoDrive;
    }
    if number::decimal(&device.file("device/type").text()) == Some(5) {
        return Role::Optical;
    }
    let parent = path.parts.iter().rev().nth(2).map_or("", String::as_str);
    Role::Disk(if under(&|part| devices::is_numbered(part, "nvme") || part == "nvme-subsystem") {
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
    } else {
        DiskKind::Other
    })
}

fn disk(
    device: &BlockDevice<'_>,
    kind: DiskKind,
    mounts: &Mounts,
    slots: &attachment::Slots,
) -> Disk {
    let link = &device.folder;
    let number = device.file("dev");
    let number = number.text();
    let record = UdevRecord::read(device.lease, number.trim());
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
            device.on_the_way(Saying::new(
                "kinds-device-way",
                "the kinds of device on the way to it",
            )),
        ),
        bus: Fact::known(
            bus(&device.path),
            device.on_the_way(Saying::new("last-bus-way", "the last bus on the way to it")),
        ),
        address: device.path.fact(
            link,
            Saying::new(
                "controller-way-port-target-namespace",
                "the controller on the way to it, and the port, target or namespace",
            ),
            address(device, kind),
        ),
        controller: match device.path.pci_address() {
            Some(address) => device.path.fact(
                link,
                Saying::new("last-pci-function-way", "the last PCI function on the way to it"),
                Some(address.to_owned()),
            ),
            None => Fact::not_applicable(sayings::CONTROLLER_NO_PCI_FUNCTION),
        },
        scsi_address: attachment::scsi_address(device),
        bay: attachment::bay(device, kind, slots),
        enclosure: attachment::enclosure(device),
        vendor: drive.vendor,
        maker_id: of_card("device/manfid"),
        manufacture_date: made(device, kind),
        model: drive.model,
        serial: drive.serial,
        wwn: drive.wwn,
        multipath_of: Fact::not_applicable(Saying::new(
            "no-other-disk-world-wide",
            "no other disk has its World Wide Name",
        )),
        firmware_revision: drive.firmware_revision,
        size_bytes: sectors(&device.file("size")),
        optimal_transfer_bytes: attachment::optimal_transfer(device, sector.value().copied())
            .map(Bytes),
        provisioning: attachment::provisioning(device),
        logical_sector_bytes: sector.map(Bytes),
        physical_sector_bytes: device
            .file("queue/physical_block_size")
            .fact(sayings::BYTES, number::decimal)
            .map(Bytes),
        rotational: device.file("queue/rotational").fact(sayings::ONE_IS_YES, number::flag),
        rotation_rpm: queue::characteristic(device, |page| page.rotation_rpm).map(Rpm),
        form_factor: queue::characteristic(device, |page| page.form_factor.map(Term::from)),
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
            .fact(Saying::new("bytes-0-cannot", "bytes; 0 says that it cannot"), |text| {
                Some(number::decimal(text)? > 0)
            }),
        zone_model: device
            .file("queue/zoned")
            .fact(sayings::KERNEL_WORD, |text| Some(Term::from(text))),
        scheduler: device.file("queue/scheduler").fact(sayings::ONE_BRACKETS, queue::chosen),
        queue_depth: queue::depth(device, kind),
        transport: match kind {
            DiskKind::Nvme => device.file("device/transport").text_fact(),
            _ => Fact::not_applicable(Saying::new(
                "only-nvme-controllers-several",
                "only NVMe controllers have several",
            )),
        },
        numa_node: queue::numa_node(device),
        holders: attachment::holders(device.lease, &device.folder)
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
        boot_areas: attachment::boot_areas(device, kind),
        partition_table: record.text("ID_PART_TABLE_TYPE"),
        partition_table_uuid: record.property(
            "ID_PART_TABLE_UUID",
            sayings::AS_UDEV_RECORDED,
            |id| Some(Uuid::from(id)),
        ),
        unpartitioned_bytes: queue::unpartitioned(&sectors(&device.file("size")), &partitions)
            .map(Bytes),
        free_spaces: queue::free_spaces(
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
        partitions,
    }
}

/// When an MMC or SD card was made (`Documentation/ABI/testing/sysfs-bus-mmc`: month and year).
fn made(device: &BlockDevice<'_>, kind: DiskKind) -> Fact<Date> {
    if kind != DiskKind::Mmc {
        return Fact::not_applicable(sayings::ONLY_MMC_SD_CARDS);
    }
    device.file("device/date").fact(Saying::new("month-year", "month and year"), |text| {
        let (month, year) = text.split_once('/')?;
        format!("{year}-{month}").parse().ok()
    })
}

fn sectors(file: &File) -> Fact<Bytes> {
    file.fact(
        Saying::new(
            "sectors-512-bytes-whatever-disk",
            "sectors of 512 bytes, whatever the disk's own are",
        ),
        |text| number::decimal(text)?.checked_mul(SECTOR).map(Bytes),
    )
}

/// What a drive says of itself.
struct Drive {
    vendor: Fact<Term>,
    model: Fact<Term>,
    serial: Fact<Serial>,
    wwn: Fact<WorldWideName>,
    firmware_revision: Fact<Term>,
}

impl Drive {
    fn read(device: &BlockDevice<'_>, kind: DiskKind) -> Self {
        let wwid = |path: &str| device.file(path).text_fact::<WorldWideName>();
        let none = |what: &str| {
            Saying::new("devices-give-none", "{}").with(format!("{kind} devices give no {what}"))
        };
        match kind {
            DiskKind::Nvme => Self {
                vendor: Fact::not_applicable(none("vendor apart from the model")),
                model: device.file("device/model").text_fact(),
                serial: device.file("device/serial").text_fact(),
                wwn: wwid("wwid"),
                firmware_revision: device.file("device/firmware_rev").text_fact(),
            },
            DiskKind::Virtio => Self {
                vendor: Fact::not_applicable(none("vendor")),
                model: Fact::not_applicable(none("model")),
                serial: device.file("serial").text_fact(),
                wwn: Fact::not_applicable(none("World Wide Name")),
                firmware_revision: Fact::not_applicable(none("firmware revision")),
            },
            DiskKind::Mmc => Self {
                vendor: Fact::not_applicable(none("vendor by name")),
                model: device.file("device/name").text_fact(),
                serial: device.file("device/serial").text_fact(),
                wwn: device.file("device/cid").text_fact(),
                firmware_revision: device.file("device/fwrev").text_fact(),
            },
            DiskKind::Ata => {
                let page = device.file("device/vpd_pg89");
                let ata = |pick: fn(vpd::AtaInformation) -> String| ata_text(&page, pick);
                Self {
                    vendor: Fact::not_applicable(Saying::new(
                        "ata-drives-give-no-vendor",
                        "ATA drives give no vendor apart from the model",
                    )),
                    model: ata(|drive| drive.model)
                        .or_known(|| device.file("device/model").text_fact()),
                    serial: ata(|drive| drive.serial)
                        .map(|text| Serial(text.0))
                        .or_from(|| unit_serial(device)),
                    wwn: wwid("device/wwid").or_known(|| attachment::designator(device)),
                    firmware_revision: ata(|drive| drive.firmware_revision)
                        .or_known(|| device.file("device/rev").text_fact()),
                }
            }
            DiskKind::Usb => Self {
                vendor: device.file("device/vendor").text_fact(),
                model: device.file("device/model").text_fact(),
                serial: unit_serial(device).or_known(|| usb_serial(device)),
                wwn: wwid("device/wwid"),
                firmware_revision: device.file("device/rev").text_fact(),
            },
            _ => Self {
                vendor: device.file("device/vendor").text_fact(),
                model: device.file("device/model").text_fact(),
                serial: unit_serial(device),
                wwn: wwid("device/wwid").or_known(|| attachment::designator(device)),
                firmware_revision: device.file("device/rev").text_fact(),
            },
        }
    }
}

/// A text of the drive's identify data, as the kernel keeps it in page 89h.
fn ata_text(page: &File, pick: fn(vpd::AtaInformation) -> String) -> Fact<Term> {
    match page.bytes() {
        Err(gap) => Fact::gap(gap.clone()),
        Ok(bytes) => match vpd::ata_information(bytes).map(pick) {
            Some(text) => match crate::readers::file::meaningful(&text) {
                Ok(meant) => {
                    let rule = Saying::new(
                        "text-drive-identify-data-two",
                        "a text of the drive's identify data (two characters a word, swapped)",
                    );
                    let evidence = Evidence::new(Arc::clone(page.path()), rule).raw(&text);
                    Fact::known(Term(meant), evidence)
                }
                Err(gap) => Fact::gap(gap.tried(Arc::clone(page.path()), sayings::BLANK)),
            },
            None => Fact::gap(Gap::new(Why::Invalid).tried(
                Arc::clone(page.path()),
                Saying::new("no-ata-information-page", "is no ATA information page"),
            )),
        },
    }
}

/// The unit serial number page of a SCSI device.
fn unit_serial(device: &BlockDevice<'_>) -> Fact<Serial> {
    let page = device.file("device/vpd_pg80");
    let gap = match page.bytes() {
        Err(gap) => gap.clone(),
        Ok(bytes) => match vpd::unit_serial_number(bytes) {
            None => Gap::new(Why::Invalid).tried(
                Arc::clone(page.path()),
                Saying::new("no-unit-serial-number-page", "is no unit serial number page"),
            ),
            Some(text) => match crate::readers::file::meaningful(&text) {
                Ok(meant) => {
                    let rule = Saying::new(
                        "text-unit-serial-number-page",
                        "the text of the unit serial number page (SPC-6 clause 7.7.19)",
                    );
                    let evidence = Evidence::new(Arc::clone(page.path()), rule).raw(&text);
                    return Fact::known(Serial(meant), evidence);
                }
                Err(gap) => gap.tried(Arc::clone(page.path()), sayings::BLANK),
            },
        },
    };
    Fact::gap(gap)
}

/// The serial number of the USB device that a disk hangs on.
fn usb_serial(device: &BlockDevice<'_>) -> Fact<Serial> {
    match device.path.down_to(devices::is_usb_device) {
        Some(folder) => File::read(device.lease, format!("{folder}/serial")).text_fact(),
        None => Fact::gap(Gap::new(Why::NotProvided)),
    }
}

fn bus(path: &DevicePath) -> DiskBus {
    let found = path.parts.iter().rev().find_map(|part| {
        if devices::is_usb_device(part) {
            Some(DiskBus::Usb)
        } else if devices::is_pci_address(part) {
            Some(DiskBus::Pci)
        } else if part == "platform" {
            Some(DiskBus::Platform)
        } else if part == "virtual" {
            Some(DiskBus::Virtual)
        } else {
            None
        }
    });
    found.unwrap_or(DiskBus::Other)
}

/// Where a drive is attached, in a form that does not change with the order of probing.
fn address(device: &BlockDevice<'_>, kind: DiskKind) -> Option<String> {
    let path = &device.path;
    let controller = match path.pci_address() {
        Some(pci) => format!("pci {pci}"),
        None => format!("platform {}", path.below(|part| part.contains("platform"))?),
    };
    let port = match kind {
        DiskKind::Nvme => Some(format!("namespace {}", device.file("nsid").text().trim())),
        DiskKind::Usb => {
            let usb = path.last(devices::is_usb_device)?;
            Some(format!("usb port {}", usb.split_once('-')?.1))
        }
        DiskKind::Ata => {
            let port = path.last(|part| devices::is_numbered(part, "ata"))?;
            let file = File::read(device.lease, format!("/sys/class/ata_port/{port}/port_no"));
            let number = number::decimal(&file.text())?;
            Some(format!("port {number}"))
        }
        DiskKind::Scsi => {
            let lun =
                path.last(|part| part.split(':').count() == 4 && !devices::is_pci_address(part))?;
            Some(format!("target {}", lun.split_once(':')?.1))
        }
        _ => None,
    };
    Some(match port {
        Some(port) => format!("{controller} {port}"),
        None => controller,
    })
}

/// What lies on a whole disk or a partition.
struct Content {
    filesystem: Fact<Term>,
    label: Fact<Label>,
    uuid: Fact<Uuid>,
    mount_points: Fact<Vec<Term>>,
}

impl Content {
    fn read(record: &UdevRecord, mounts: &Mounts, number: &str, name: &str) -> Self {
        let mounted = mounts.of(number.trim(), name);
        Self {
            filesystem: record.text("ID_FS_TYPE").or_from(|| mounts.filesystem(&mounted)),
            label: record
                .property(
                    "ID_FS_LABEL_ENC",
                    Saying::new(
                        "label-coded-bytes-put-back",
                        "the label, its coded bytes put back",
                    ),
                    |value| Some(Label(udev::decode(value))),
                )
                .or_known(|| {
                    record.property("ID_FS_LABEL", sayings::AS_UDEV_RECORDED, |value| {
                        Some(Label::from(value))
                    })
                }),
            uuid: record
                .property("ID_FS_UUID", sayings::AS_UDEV_RECORDED, |value| Some(Uuid::from(value))),
            mount_points: mounts.points(&mounted),
        }
    }
}

fn partitions(disk: &BlockDevice<'_>, mounts: &Mounts) -> Parts<Partition> {
    let names = match list(disk.lease, &disk.folder) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let mut found: Vec<Partition> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| name.starts_with(&disk.name))
        .filter_map(|name| partition(disk, name, mounts))
        .collect();
    found.sort_by_key(|partition| {
        (partition.start_bytes.value().copied(), partition.number.value().copied())
    });
    let rule = Saying::new(
        "folders-disk-folder-hold-file",
        "folders in the disk's folder that hold a file `partition`",
    );
    Parts::known(found, listing_evidence(&disk.folder, rule))
}

fn partition(disk: &BlockDevice<'_>, name: &str, mounts: &Mounts) -> Option<Partition> {
    let file =
        |attribute: &str| File::read(disk.lease, format!("{}/{name}/{attribute}", disk.folder));
    let number = file("partition").fact(
        Saying::new("number-partition-table", "its number in the partition table"),
        number::decimal,
    );
    // Every other folder beneath a disk lacks the file.
    if number.missing().is_some_and(|gap| gap.why == Why::NotProvided) {
        return None;
    }
    let device_number = file("dev");
    let device_number = device_number.text();
    let record = UdevRecord::read(disk.lease, device_number.trim());
    let event = file("uevent");
    let text = event.text();
    let event_fields = assignment::plain(&text);
    let content = Content::read(&record, mounts, &device_number, name);
    let rule = Saying::new("kernel-announces-lower-case", "as the kernel announces it, lower case");
    Some(Partition {
        name: Fact::known(
            DeviceName(name.replace('!', "/")),
            listing_evidence(&disk.folder, sayings::FOLDER_NAME).raw(name),
        ),
        number,
        aligned: sectors(&file("start")).map(|start| start.is_multiple_of(1 << 20)).by_rule(
            Saying::new(
                "whether-start-multiple-1048576-bytes",
                "whether the start is a multiple of 1048576 bytes",
            ),
        ),
        holders: attachment::holders(disk.lease, &format!("{}/{name}", disk.folder))
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
        type_id: record.text("ID_PART_ENTRY_TYPE"),
        start_bytes: sectors(&file("start")),
        size_bytes: sectors(&file("size")),
        partuuid: event
            .assigned(&event_fields, "PARTUUID", rule, |value| {
                Some(Uuid(value.to_ascii_lowercase()))
            })
            .or_from(|| {
                record.property(
                    "ID_PART_ENTRY_UUID",
                    Saying::new("udev-recorded-lower-case", "as udev recorded it, lower case"),
                    |value| Some(Uuid(value.to_ascii_lowercase())),
                )
            }),
        label: event
            .assigned(
                &event_fields,
                "PARTNAME",
                Saying::new("kernel-announces", "as the kernel announces it"),
                |value| Some(Label::from(value)),
            )
            .or_known(|| {
                record.property(
                    "ID_PART_ENTRY_NAME",
                    Saying::new(
                        "udev-recorded-coded-bytes-put-back",
                        "as udev recorded it, coded bytes put back",
                    ),
                    |value| Some(Label(udev::decode(value))),
                )
            }),
        filesystem: content.filesystem,
        filesystem_label: content.label,
        filesystem_uuid: content.uuid,
        mount_points: content
            .mount_points
            .map(|all| all.into_iter().map(|text| PathName(text.0)).collect()),
    })
}

fn optical(device: &BlockDevice<'_>) -> OpticalDrive {
    let drive = Drive::read(device, DiskKind::Scsi);
    let under_ata = device.path.last(|part| devices::is_numbered(part, "ata")).is_some();
    let kind = if under_ata { DiskKind::Ata } else { DiskKind::Scsi };
    let number = device.file("dev");
    let record = UdevRecord::read(device.lease, number.text().trim());
    OpticalDrive {
        name: device.kernel_name().map(|text| DeviceName(text.0)),
        address: device.path.fact(
            &device.folder,
            Saying::new(
                "controller-way-port-target",
                "the controller on the way to it, and the port or target",
            ),
            address(device, kind),
        ),
        vendor: drive.vendor,
        // Optical drives on ATA answer the SCSI inquiry with what their controller makes up; their
        // own identify data are in udev's record.
        model: record
            .property(
                "ID_MODEL_ENC",
                Saying::new(
                    "udev-recorded-coded-bytes-put",
                    "as udev recorded it, coded bytes put back, trimmed",
                ),
                |value| Some(Term(udev::decode(value).trim().to_owned())),
            )
            .or_from(|| drive.model),
        serial: drive.serial.or_known(|| {
            record.property("ID_SERIAL_SHORT", sayings::AS_UDEV_RECORDED, |value| {
                Some(Serial::from(value))
            })
        }),
        firmware_revision: drive.firmware_revision,
        capabilities: queue::optical_abilities(device),
        speed: queue::optical_speed(device),
    }
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
