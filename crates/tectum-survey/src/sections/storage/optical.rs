//! Optical drives and what they can (`Documentation/cdrom`).

use std::sync::Arc;

use super::{address::address, identity::Drive, partition::Content, sectors};
use crate::{
    formats::{Line, lines, number, udev},
    readers::{
        block::{BlockDevice, Mounts, UdevRecord},
        devices::{self},
        file::File,
        sayings,
    },
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Bytes, DeviceName, PathName, Serial, Term},
    model::{DiskKind, OpticalDrive},
};

pub(super) fn optical(device: &BlockDevice<'_>, mounts: &Mounts) -> OpticalDrive {
    let drive = Drive::read(device, DiskKind::Scsi);
    let under_ata = device.path.last(|part| devices::is_numbered(part, "ata")).is_some();
    let kind = if under_ata { DiskKind::Ata } else { DiskKind::Scsi };
    let number = device.file("dev");
    let record = UdevRecord::of(device.lease, &number);
    let number = number.text();
    let disc = Disc::read(device, &record, mounts, number.trim());
    OpticalDrive {
        name: device.kernel_name().map(|text| DeviceName(text.0)),
        address: match address(device, kind) {
            Err(gap) => Fact::gap(gap),
            Ok(address) => device.path.fact(
                &device.folder,
                saying!(
                    "controller-way-port-target",
                    "the controller on the way to it, and the port or target",
                ),
                address,
            ),
        },
        // Optical drives on ATA answer the SCSI inquiry with what their controller makes up; their
        // own identify data are in udev's record, and name no maker but in the model.
        vendor: match under_ata {
            true => Fact::not_applicable(saying!(
                "ata-names-maker-in-model",
                "ATA has no field for the maker; the model names it",
            )),
            false => drive.vendor,
        },
        model: record
            .property(
                "ID_MODEL_ENC",
                saying!(
                    "udev-recorded-coded-bytes-put",
                    "as udev recorded it, coded bytes put back, trimmed",
                ),
                |value| Some(Term(udev::decode(value).trim().to_owned())),
            )
            .or_known(|| drive.model),
        serial: drive.serial.or_known(|| {
            record.property("ID_SERIAL_SHORT", sayings::AS_UDEV_RECORDED, |value| {
                Some(Serial::from(value))
            })
        }),
        firmware_revision: drive.firmware_revision,
        disc_size_bytes: disc.size,
        disc_filesystem: disc.content.filesystem,
        disc_label: disc.content.label,
        disc_uuid: disc.content.uuid,
        disc_mount_points: disc
            .content
            .mount_points
            .map(|all| all.into_iter().map(|text| PathName(text.0)).collect()),
        capabilities: optical_abilities(device),
        speed: optical_speed(device),
    }
}

/// What lies in the drive.
struct Disc {
    size: Fact<Bytes>,
    content: Content,
}

impl Disc {
    fn read(device: &BlockDevice<'_>, record: &UdevRecord, mounts: &Mounts, number: &str) -> Self {
        let content = Content::read(record, mounts, number, &device.name);
        let size = sectors(&device.file("size"));
        let there = record.text("ID_CDROM_MEDIA").is_known() || content.filesystem.is_known();
        match there {
            true => Self { size, content },
            false => Self {
                // Without a disc the kernel shows a size of its own (`drivers/scsi/sr.c`).
                size: size.and_then(|bytes| match bytes {
                    Bytes(0 | NO_DISC) => Err(no_disc()),
                    bytes => Ok(bytes),
                }),
                content: Content {
                    filesystem: Fact::gap(no_disc()),
                    label: Fact::gap(no_disc()),
                    uuid: Fact::gap(no_disc()),
                    mount_points: content.mount_points,
                    swapped_to: content.swapped_to,
                },
            },
        }
    }
}

/// The size that the kernel shows of a drive until it has seen a disc: 0x1fffff blocks of 512 bytes.
const NO_DISC: u64 = 0x1f_ffff * 512;

fn no_disc() -> Gap {
    Gap::new(Why::NotProvided)
        .hint(saying!("no-disc-known", "neither the kernel nor udev knows of a disc in the drive"))
}

/// A row of `/proc/sys/dev/cdrom/info`: the words before the colon, and the value in the column of a
/// drive.
pub(super) fn row<'a>(text: &'a str, drive: &str, name: &str) -> Option<(Line<'a>, &'a str)> {
    let rows = || {
        lines(text).filter_map(|line| {
            let (name, values) = line.raw.split_once(':')?;
            Some((line, name.trim(), values))
        })
    };
    let (_, _, names) = rows().find(|(_, name, _)| *name == "drive name")?;
    let column = names.split_whitespace().position(|name| name == drive)?;
    let (line, _, values) = rows().find(|(_, row, _)| *row == name)?;
    Some((line, values.split_whitespace().nth(column)?))
}

pub(super) fn info(device: &BlockDevice<'_>) -> File {
    File::read(device.lease, "/proc/sys/dev/cdrom/info")
}

pub(super) fn optical_speed(device: &BlockDevice<'_>) -> Fact<u64> {
    let file = info(device);
    let text = file.text();
    match row(&text, &device.name, "drive speed") {
        Some((line, value)) => match number::decimal(value) {
            Some(speed) => Fact::known(
                speed,
                file.at_line(line, saying!("drive-column", "the drive's column")),
            ),
            None => Fact::gap(Gap::new(Why::Invalid).raw(line.raw)),
        },
        None => Fact::gap(file.lacks("the drive's speed")),
    }
}

/// The rows that say `Can …` and hold 1 for the drive.
pub(super) fn optical_abilities(device: &BlockDevice<'_>) -> Fact<Vec<Term>> {
    let file = info(device);
    let text = file.text();
    if row(&text, &device.name, "drive name").is_none() {
        return Fact::gap(file.lacks("the drive"));
    }
    let mut names = Vec::new();
    let mut evidence = Vec::new();
    for line in lines(&text) {
        let Some((name, _)) = line.raw.split_once(':') else { continue };
        let Some(ability) = name.trim().strip_prefix("Can ") else { continue };
        if let Some((line, "1")) = row(&text, &device.name, name.trim()) {
            names.push(Term::from(ability));
            evidence.push(file.at_line(line, saying!("1-drive-column", "1 in the drive's column")));
        }
    }
    if evidence.is_empty() {
        let whole =
            Evidence::new(Arc::clone(file.path()), saying!("no-row-holds-1", "no row holds 1"));
        return Fact::known(names, whole.raw(&device.name));
    }
    Fact::known_from(names, evidence)
}
