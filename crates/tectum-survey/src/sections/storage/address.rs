//! Where a disk hangs: its bus, its controller's port, its SCSI address.

use crate::{
    formats::number,
    readers::{
        block::BlockDevice,
        devices::{self, DevicePath, is_pci_address},
        file::File,
    },
};
use tectum_report::{
    fact::{Fact, Gap, saying},
    leaf::Term,
    model::{DiskBus, DiskKind},
};

pub(super) fn bus(path: &DevicePath) -> DiskBus {
    let found = path.parts.iter().rev().find_map(|part| {
        if devices::is_usb_device(part) {
            Some(DiskBus::Usb)
        } else if devices::is_pci_address(part) {
            Some(DiskBus::Pci)
        } else if part == "css0" {
            Some(DiskBus::Channel)
        } else if part == "vio" {
            Some(DiskBus::PowerVirtual)
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
///
/// # Errors
/// Why it is not known which port or namespace it is.
pub(super) fn address(device: &BlockDevice<'_>, kind: DiskKind) -> Result<Option<String>, Gap> {
    let read = |file: &File| match file.hidden() {
        Some(gap) => Err(gap.clone()),
        None => Ok(file.text().trim().to_owned()),
    };
    // What numbers it behind its controller.
    let number = match kind {
        DiskKind::Nvme => read(&device.file("nsid"))?,
        DiskKind::Ata => match device.path.last(|part| devices::is_numbered(part, "ata")) {
            Some(port) => {
                read(&File::read(device.lease, format!("/sys/class/ata_port/{port}/port_no")))?
            }
            None => String::new(),
        },
        _ => String::new(),
    };
    Ok(behind_controller(device, kind, &number))
}

fn behind_controller(device: &BlockDevice<'_>, kind: DiskKind, number: &str) -> Option<String> {
    let path = &device.path;
    // The host of a session is numbered in the order of logging in.
    if is_iscsi(path) {
        return None;
    }
    let controller = path.place()?;
    let port = match kind {
        DiskKind::Nvme => Some(format!("namespace {number}")),
        DiskKind::Usb => {
            let usb = path.last(devices::is_usb_device)?;
            Some(format!("usb port {}", usb.split_once('-')?.1))
        }
        DiskKind::Ata => Some(format!("port {}", number::decimal(number)?)),
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

/// Whether a name is a SCSI device's: `6:0:3:0`.
pub(super) fn is_scsi_address(name: &str) -> bool {
    name.split(':').count() == 4
        && !is_pci_address(name)
        && name.split(':').all(|part| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit()))
}

fn is_iscsi(path: &DevicePath) -> bool {
    path.last(|part| devices::is_numbered(part, "session")).is_some()
}

/// What carries the commands of a SCSI disk: each of the kernel's transports puts a device of its own between host and
/// target (`drivers/scsi/scsi_transport_{fc,iscsi,sas}.c`); a controller that keeps its transport to itself puts none.
pub(super) fn scsi_transport(device: &BlockDevice<'_>) -> Fact<Term> {
    let begins = |begin: &'static str| {
        let is = move |part: &str| {
            let number = part.strip_prefix(begin);
            number.is_some_and(|number| number.starts_with(|sign: char| sign.is_ascii_digit()))
        };
        device.path.last(is).is_some()
    };
    let found = if is_iscsi(&device.path) {
        Some("iscsi")
    } else if begins("rport-") {
        Some("fc")
    } else if begins("end_device-") {
        Some("sas")
    } else {
        None
    };
    device.path.fact(
        &device.link,
        saying!("scsi-transport-way", "the device of a transport on the way to it"),
        found.map(str::to_owned),
    )
}

pub(super) fn scsi_address(device: &BlockDevice<'_>) -> Fact<Term> {
    match device.path.last(is_scsi_address) {
        Some(address) => device.path.fact(
            &device.link,
            saying!("scsi-device-way", "the SCSI device on the way to it"),
            Some(address.to_owned()),
        ),
        None => Fact::not_applicable(saying!(
            "no-scsi-device-way",
            "no SCSI device is on the way to it",
        )),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("6:0:3:0", true)]
    #[case("0000:00:1f.2", false)]
    #[case("a:b:c:d", false)]
    fn scsi_addresses(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_scsi_address(name), is);
    }
}
