//! Optical drives and what they can (`Documentation/cdrom`).

use std::sync::Arc;

use super::{address::address, identity::Drive};
use crate::{
    formats::{Line, lines, number, udev},
    readers::{
        block::{BlockDevice, UdevRecord},
        devices::{self},
        file::File,
        sayings,
    },
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::{DeviceName, Serial, Term},
    model::{DiskKind, OpticalDrive},
};

pub(super) fn optical(device: &BlockDevice<'_>) -> OpticalDrive {
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
        capabilities: optical_abilities(device),
        speed: optical_speed(device),
    }
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
                file.at_line(line, Saying::new("drive-column", "the drive's column")),
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
            evidence
                .push(file.at_line(line, Saying::new("1-drive-column", "1 in the drive's column")));
        }
    }
    if evidence.is_empty() {
        let whole =
            Evidence::new(Arc::clone(file.path()), Saying::new("no-row-holds-1", "no row holds 1"));
        return Fact::known(names, whole.raw(&device.name));
    }
    Fact::known_from(names, evidence)
}
