//! The link that a drive hangs on: SATA, serial-attached SCSI, or the PCI Express link of an NVMe
//! controller (`Documentation/ABI/testing/sysfs-ata`, `sysfs-class-sas_phy`, `sysfs-bus-pci`).

use crate::{
    formats::link_speed::gigabits,
    readers::{
        block::BlockDevice,
        devices::is_numbered,
        file::{File, list, listing_evidence},
        pcie_link::{self as link, Which},
        sayings,
    },
};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::{Lanes, MegabitsPerSecond, Megatransfers},
    model::DiskKind,
};

/// A drive's link: a bit rate for SATA and SAS, a lane's speed for PCI Express, and how many lanes.
pub(super) struct DriveLink {
    pub(super) rate: Fact<MegabitsPerSecond>,
    pub(super) speed: Fact<Megatransfers>,
    pub(super) lanes: Fact<Lanes>,
}

/// The link of a drive.
pub(super) fn read(device: &BlockDevice<'_>, kind: DiskKind, which: Which) -> DriveLink {
    match kind {
        DiskKind::Nvme => {
            let rate =
                Fact::not_applicable(saying!("no-sata-sas-link", "it is on no SATA or SAS link",));
            match device.path.pci_address() {
                Some(address) => {
                    let link = link::read(device.lease, address, which);
                    DriveLink { rate, speed: link.speed, lanes: link.lanes }
                }
                None => DriveLink {
                    rate,
                    speed: Fact::not_applicable(sayings::CONTROLLER_NO_PCI_FUNCTION),
                    lanes: Fact::not_applicable(sayings::CONTROLLER_NO_PCI_FUNCTION),
                },
            }
        }
        DiskKind::Ata => serial(sata(device, which), || {
            Fact::not_applicable(saying!("sata-link-one-lane", "a SATA link has one lane"))
        }),
        DiskKind::Scsi => {
            let (rate, phys) = sas(device, which);
            serial(rate, || phys)
        }
        _ => {
            let none = saying!(
                "only-nvme-sata-sas-drives",
                "only NVMe, SATA and SAS drives have such a link",
            );
            DriveLink {
                rate: Fact::not_applicable(none.clone()),
                speed: Fact::not_applicable(none.clone()),
                lanes: Fact::not_applicable(none),
            }
        }
    }
}

fn serial(rate: Fact<MegabitsPerSecond>, lanes: impl FnOnce() -> Fact<Lanes>) -> DriveLink {
    DriveLink {
        rate,
        speed: Fact::not_applicable(
            saying!("no-pci-express-link", "it is on no PCI Express link",),
        ),
        lanes: lanes(),
    }
}

fn sata(device: &BlockDevice<'_>, which: Which) -> Fact<MegabitsPerSecond> {
    let number =
        device.path.last(|part| is_numbered(part, "ata")).and_then(|part| part.strip_prefix("ata"));
    let Some(number) = number else {
        return Fact::not_applicable(saying!("no-ata-link", "it has no ATA link"));
    };
    let which = if which == Which::Current { "sata_spd" } else { "hw_sata_spd_limit" };
    rate(&File::read(device.lease, format!("/sys/class/ata_link/link{number}/{which}")))
}

/// A bit rate; the kernel writes a word in angle brackets where it knows none.
fn rate(file: &File) -> Fact<MegabitsPerSecond> {
    let text = file.text();
    if text.trim_start().starts_with('<') {
        let gap = Gap::new(Why::Blank).raw(text.trim());
        return Fact::gap(
            gap.tried(file.path().clone(), saying!("does-not-know", "says that it does not know")),
        );
    }
    file.fact(saying!("gigabits-second-thousand", "gigabits a second, by a thousand"), gigabits)
        .map(MegabitsPerSecond)
}

/// The rate of a phy of a serial-attached drive's port, and how many there are.
fn sas(device: &BlockDevice<'_>, which: Which) -> (Fact<MegabitsPerSecond>, Fact<Lanes>) {
    let both = |gap: Gap| (Fact::gap(gap.clone()), Fact::gap(gap));
    let port = device.path.down_to(|part| part.starts_with("port-"));
    let end = device.path.last(|part| part.starts_with("end_device-"));
    let (Some(port), Some(_)) = (port, end) else {
        let none = saying!("no-serial-attached-scsi-link", "it is on no serial-attached SCSI link");
        return (Fact::not_applicable(none.clone()), Fact::not_applicable(none));
    };
    let names = match list(device.lease, &port) {
        Ok(names) => names,
        Err(gap) => return both(gap),
    };
    let mut phys: Vec<&str> =
        names.iter().filter_map(|name| name.to_str()).filter(|n| n.starts_with("phy-")).collect();
    phys.sort_unstable();
    let Some(first) = phys.first() else {
        return both(
            Gap::new(Why::NotProvided).tried(port.into(), saying!("no-phy", "has no phy")),
        );
    };
    let which = if which == Which::Current { "negotiated" } else { "maximum" };
    let lanes = Fact::known(
        Lanes(phys.len() as u64),
        listing_evidence(&port, saying!("port-phys-counted", "the port's phys, counted"))
            .raw(&phys.join(" ")),
    );
    (rate(&File::read(device.lease, format!("/sys/class/sas_phy/{first}/{which}_linkrate"))), lanes)
}
