//! Bays and enclosures (`Documentation/ABI/testing/sysfs-class-enclosure`, `sysfs-class-sas`).

use std::collections::HashMap;

use crate::{
    readers::{
        block::BlockDevice,
        file::{File, list, listing_evidence, watched},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::{Term, WorldWideName},
    model::DiskKind,
};

/// The end device of a serial-attached SCSI link.
pub(super) fn end_device<'a>(device: &'a BlockDevice<'_>) -> Option<&'a str> {
    device.path.last(|part| part.starts_with("end_device-"))
}

/// The bay: what the enclosure calls it, what the SAS layer numbers it, or the slot of an NVMe
/// controller.
pub(super) fn bay(device: &BlockDevice<'_>, kind: DiskKind, slots: &Slots) -> Fact<Term> {
    if kind == DiskKind::Nvme {
        return slots.of(device);
    }
    match (enclosure_link(device), end_device(device)) {
        (Some(link), _) => Fact::known(
            Term::from(link.split_once(':').map_or("", |(_, bay)| bay).trim()),
            listing_evidence(
                &format!("{}/device", device.folder),
                saying!(
                    "behind-colon-name-link-enclosure",
                    "behind the colon in the name of the link to the enclosure",
                ),
            )
            .raw(&link),
        ),
        (None, Some(end)) => {
            File::read(device.lease, format!("/sys/class/sas_device/{end}/bay_identifier"))
                .text_fact()
        }
        (None, None) => Fact::gap(
            Gap::new(Why::NotProvided)
                .tried(device.folder.as_str().into(), sayings::NO_ENCLOSURE_KERNEL_KNOWS_HOLDS),
        ),
    }
}

pub(super) fn enclosure_link(device: &BlockDevice<'_>) -> Option<String> {
    let names = list(device.lease, format!("{}/device", device.folder)).ok()?;
    names
        .iter()
        .filter_map(|name| name.to_str())
        .find(|name| name.starts_with("enclosure_device:"))
        .map(str::to_owned)
}

pub(super) fn enclosure(device: &BlockDevice<'_>) -> Fact<WorldWideName> {
    match end_device(device) {
        Some(end) => {
            File::read(device.lease, format!("/sys/class/sas_device/{end}/enclosure_identifier"))
                .text_fact()
        }
        None => match enclosure_link(device) {
            Some(link) => device.file(&format!("device/{link}/../id")).text_fact(),
            None => Fact::not_applicable(sayings::NO_ENCLOSURE_KERNEL_KNOWS_HOLDS),
        },
    }
}

/// The kernel's slots by the address of what sits in them, without its function
/// (`Documentation/ABI/testing/sysfs-bus-pci`: slots).
pub(super) struct Slots(Result<HashMap<String, Fact<Term>>, Gap>);

impl Slots {
    const ROOT: &str = "/sys/bus/pci/slots";

    pub(super) fn read(lease: &Lease) -> Self {
        let (slots, hidden) = watched(lease, Self::all);
        Self(hidden.map_or(slots, Err))
    }

    fn all(lease: &Lease) -> Result<HashMap<String, Fact<Term>>, Gap> {
        list(lease, Self::ROOT).map(|names| {
            let names = names.iter().filter_map(|name| name.to_str());
            names
                .map(|name| {
                    let file = File::read(lease, format!("{}/{name}/address", Self::ROOT));
                    let rule = saying!(
                        "slot-folder-address-controller",
                        "the slot's folder, where its address is the controller's",
                    );
                    (file.text().trim().to_owned(), file.fact(rule, |_| Some(Term::from(name))))
                })
                .collect()
        })
    }

    /// The slot of a drive's controller.
    fn of(&self, device: &BlockDevice<'_>) -> Fact<Term> {
        let Some(address) = device.path.pci_address() else {
            return Fact::not_applicable(sayings::CONTROLLER_NO_PCI_FUNCTION);
        };
        let slots = match &self.0 {
            Ok(slots) => slots,
            Err(gap) => return Fact::gap(gap.clone()),
        };
        let slot = address.rsplit_once('.').and_then(|(slot, _function)| slots.get(slot));
        slot.cloned().unwrap_or_else(|| {
            Fact::gap(Gap::new(Why::NotProvided).tried(
                Self::ROOT.into(),
                saying!("no-slot-controller-address", "no slot has the controller's address"),
            ))
        })
    }
}
