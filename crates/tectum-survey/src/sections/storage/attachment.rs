//! How a drive hangs on its controller: its SCSI address, SAS link, bay and enclosure, and what is
//! made of it (`Documentation/ABI/testing/sysfs-class-enclosure`, `sysfs-block`).

use crate::readers::sayings;
use std::{
    collections::{BTreeSet, HashMap},
    sync::Arc,
};

use crate::{
    formats::{
        number,
        vital_product_data::{self as vpd, Provisioning},
    },
    readers::{
        block::BlockDevice,
        devices::{is_numbered, is_pci_address},
        file::{File, list, listing_evidence},
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::{DeviceName, Term, WorldWideName},
    model::{BootArea, DiskKind},
};

/// Whether a name is a SCSI device's: `6:0:3:0`.
fn is_scsi_address(name: &str) -> bool {
    name.split(':').count() == 4
        && !is_pci_address(name)
        && name.split(':').all(|part| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit()))
}

pub(super) fn scsi_address(device: &BlockDevice<'_>) -> Fact<Term> {
    match device.path.last(is_scsi_address) {
        Some(address) => device.path.fact(
            &device.folder,
            Saying::new("scsi-device-way", "the SCSI device on the way to it"),
            Some(address.to_owned()),
        ),
        None => Fact::not_applicable(Saying::new(
            "no-scsi-device-way",
            "no SCSI device is on the way to it",
        )),
    }
}

/// The end device of a serial-attached SCSI link.
fn end_device<'a>(device: &'a BlockDevice<'_>) -> Option<&'a str> {
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
                Saying::new(
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

fn enclosure_link(device: &BlockDevice<'_>) -> Option<String> {
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
        Self(list(lease, Self::ROOT).map(|names| {
            let names = names.iter().filter_map(|name| name.to_str());
            names
                .map(|name| {
                    let file = File::read(lease, format!("{}/{name}/address", Self::ROOT));
                    let rule = Saying::new(
                        "slot-folder-address-controller",
                        "the slot's folder, where its address is the controller's",
                    );
                    (file.text().trim().to_owned(), file.fact(rule, |_| Some(Term::from(name))))
                })
                .collect()
        }))
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
                Saying::new("no-slot-controller-address", "no slot has the controller's address"),
            ))
        })
    }
}

/// Kernel names of what is made of a device: the links in its folder `holders`.
pub(super) fn holders(lease: &Lease, folder: &str) -> Fact<Vec<Term>> {
    let holders = format!("{folder}/holders");
    match list(lease, &holders) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let names: BTreeSet<String> =
                names.iter().filter_map(|name| name.to_str()).map(str::to_owned).collect();
            let raw = names.iter().cloned().collect::<Vec<_>>().join(" ");
            let names = names.iter().map(|name| Term(name.replace('!', "/"))).collect();
            Fact::known(names, listing_evidence(&holders, sayings::NAMES_FOLDER).raw(&raw))
        }
    }
}

/// The id of the logical unit in its device identification page.
pub(super) fn designator(device: &BlockDevice<'_>) -> Fact<WorldWideName> {
    let page = device.file("device/vpd_pg83");
    let found = match page.bytes() {
        Err(gap) => return Fact::gap(gap.clone()),
        Ok(bytes) => vpd::designator(bytes),
    };
    match found {
        Some(id) => {
            let rule = Saying::new(
                "surest-designator-logical-unit-spc",
                "the surest designator of the logical unit (SPC-6 clause 7.7.6)",
            );
            let evidence = Evidence::new(Arc::clone(page.path()), rule).raw(&id);
            Fact::known(WorldWideName(id), evidence)
        }
        None => Fact::gap(Gap::new(Why::NotProvided).tried(
            Arc::clone(page.path()),
            Saying::new("no-designator-logical-unit", "has no designator of the logical unit"),
        )),
    }
}

pub(super) fn optimal_transfer(device: &BlockDevice<'_>, sector: Option<u64>) -> Fact<u64> {
    let queue = device
        .file("queue/optimal_io_size")
        .fact(Saying::new("bytes-0-nothing", "bytes; 0 says nothing"), number::decimal);
    let queue = queue.and_then(|bytes| match bytes {
        0 => Err(Gap::new(Why::Blank)),
        bytes => Ok(bytes),
    });
    queue.or_known(|| {
        let page = device.file("device/vpd_pgb0");
        let said = match page.bytes() {
            Err(gap) => return Fact::gap(gap.clone()),
            Ok(bytes) => vpd::block_limits(bytes).and_then(|limits| limits.optimal_transfer_blocks),
        };
        match said.zip(sector).and_then(|(blocks, sector)| blocks.checked_mul(sector)) {
            Some(bytes) => {
                let rule = Saying::new(
                    "blocks-block-limits-page-sbc",
                    "blocks of the block limits page (SBC-5 clause 6.6.4) by their size",
                );
                let evidence = Evidence::new(Arc::clone(page.path()), rule);
                Fact::known(bytes, evidence.raw(&format!("{said:?}")))
            }
            None => Fact::gap(
                Gap::new(Why::Blank).tried(Arc::clone(page.path()), sayings::DOES_NOT_SAY_IT),
            ),
        }
    })
}

pub(super) fn provisioning(device: &BlockDevice<'_>) -> Fact<Term> {
    let page = device.file("device/vpd_pgb2");
    let said = match page.bytes() {
        Err(gap) => return Fact::gap(gap.clone()),
        Ok(bytes) => vpd::provisioning(bytes),
    };
    let word = match said {
        Some(Provisioning::Thin) => "thin",
        Some(Provisioning::Resource) => "resource",
        Some(Provisioning::Unsaid) => {
            return Fact::gap(
                Gap::new(Why::Blank)
                    .tried(Arc::clone(page.path()), Saying::new("neither", "says neither")),
            );
        }
        None => {
            return Fact::gap(Gap::new(Why::Invalid).tried(
                Arc::clone(page.path()),
                Saying::new(
                    "no-logical-block-provisioning-page",
                    "is no logical block provisioning page",
                ),
            ));
        }
    };
    let rule = Saying::new(
        "provisioning-type-page-sbc-5",
        "the provisioning type of the page (SBC-5 clause 6.6.7)",
    );
    Fact::known(Term::from(word), Evidence::new(Arc::clone(page.path()), rule).raw(word))
}

/// Whether a name is that of an area beside the main one of an MMC card: `mmcblk0boot1`.
pub(super) fn is_boot_area(name: &str) -> bool {
    name.strip_prefix("mmcblk").is_some_and(|rest| {
        let (card, area) = rest.split_at(rest.bytes().take_while(u8::is_ascii_digit).count());
        !card.is_empty()
            && ["boot", "gp"].iter().any(|kind| is_numbered(area, kind)) | (area == "rpmb")
    })
}

pub(super) fn boot_areas(device: &BlockDevice<'_>, kind: DiskKind) -> Parts<BootArea> {
    if kind != DiskKind::Mmc {
        let gap = Gap::new(Why::NotApplicable).tried(
            device.folder.as_str().into(),
            Saying::new("only-mmc-cards-areas", "only MMC cards have areas"),
        );
        return Parts::missing(gap);
    }
    let names = match list(device.lease, super::ROOT) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let mut areas: Vec<&str> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_boot_area(name) && name.starts_with(&device.name))
        .collect();
    areas.sort_unstable();
    let parts = areas.into_iter().filter_map(|area| {
        let name = area.strip_prefix(&device.name)?;
        let file = |attribute: &str| {
            File::read(device.lease, format!("{}/{area}/{attribute}", super::ROOT))
        };
        Some(BootArea {
            name: Fact::known(
                DeviceName::from(name),
                listing_evidence(super::ROOT, sayings::BEHIND_CARD_NAME).raw(area),
            ),
            size_bytes: super::sectors(&file("size")),
            read_only: file("ro").fact(sayings::ONE_IS_YES, number::flag),
        })
    });
    Parts::known(
        parts.collect(),
        listing_evidence(super::ROOT, Saying::new("areas-named-card", "areas named for the card")),
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("mmcblk0boot0", true)]
    #[case("mmcblk12gp3", true)]
    #[case("mmcblk0", false)]
    #[case("mmcblk0p1", false)]
    #[case("mmcblkboot0", false)]
    fn boot_areas_are_told_from_cards(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_boot_area(name), is);
    }

    #[rstest]
    #[case("6:0:3:0", true)]
    #[case("0000:00:1f.2", false)]
    #[case("a:b:c:d", false)]
    fn scsi_addresses(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_scsi_address(name), is);
    }
}
