//! What a drive says of itself: vendor, model, serial number, WWN (World Wide Name), revision.

use std::sync::Arc;

use crate::{
    formats::vital_product_data as vpd,
    readers::{
        block::BlockDevice,
        devices::{self},
        file::File,
        sayings,
    },
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Serial, Term, WorldWideName},
    model::DiskKind,
};

/// What a drive says of itself.
pub(super) struct Drive {
    pub(super) vendor: Fact<Term>,
    pub(super) model: Fact<Term>,
    pub(super) serial: Fact<Serial>,
    pub(super) wwn: Fact<WorldWideName>,
    /// An identifier that is a text of the maker's, or of a card's registers.
    pub(super) text_id: Fact<WorldWideName>,
    pub(super) firmware_revision: Fact<Term>,
}

/// Whether an identifier is a World Wide Name: of the IEEE's (NAA, EUI-64) or a UUID. Others are texts
/// that only their maker keeps unique.
fn is_world_wide(id: &str) -> bool {
    ["naa.", "eui.", "uuid."].iter().any(|kind| id.starts_with(kind))
}

impl Drive {
    pub(super) fn read(device: &BlockDevice<'_>, kind: DiskKind) -> Self {
        let drive = Self::as_it_says(device, kind);
        let is_text = drive.wwn.value().is_some_and(|id| !is_world_wide(id));
        match is_text {
            true => Self {
                wwn: drive.wwn.clone().and_then(|_| {
                    Err(Gap::new(Why::NotProvided).hint(saying!(
                        "identified-by-text-alone",
                        "it is identified by a text of its maker's alone; see text_id",
                    )))
                }),
                text_id: drive.wwn,
                ..drive
            },
            false => drive,
        }
    }

    fn as_it_says(device: &BlockDevice<'_>, kind: DiskKind) -> Self {
        let none_of_text = || {
            Fact::not_applicable(saying!(
                "not-identified-by-text",
                "it is not identified by a text"
            ))
        };
        let wwid = |path: &str| device.file(path).text_fact::<WorldWideName>();
        let none = |what: &str| {
            saying!("devices-give-none", "{}").with(format!("{kind} devices give no {what}"))
        };
        match kind {
            DiskKind::Nvme => Self {
                vendor: Fact::not_applicable(none("vendor apart from the model")),
                model: device.file("device/model").text_fact(),
                serial: device.file("device/serial").text_fact(),
                wwn: wwid("wwid"),
                text_id: none_of_text(),
                firmware_revision: device.file("device/firmware_rev").text_fact(),
            },
            DiskKind::Virtio => Self {
                vendor: Fact::not_applicable(none("vendor")),
                model: Fact::not_applicable(none("model")),
                serial: device.file("serial").text_fact(),
                wwn: Fact::not_applicable(none("World Wide Name")),
                text_id: none_of_text(),
                firmware_revision: Fact::not_applicable(none("firmware revision")),
            },
            // `drivers/s390/block/dasd_devmap.c`: its unique id is made of the storage's maker and serial number and of
            // the unit in it.
            DiskKind::Dasd => Self {
                vendor: device.file("device/vendor").text_fact(),
                model: device.file("device/devtype").text_fact(),
                serial: Fact::not_applicable(none("serial number")),
                wwn: Fact::not_applicable(none("World Wide Name")),
                text_id: wwid("device/uid"),
                firmware_revision: Fact::not_applicable(none("firmware revision")),
            },
            DiskKind::Mmc => Self {
                vendor: Fact::not_applicable(none("vendor by name")),
                model: device.file("device/name").text_fact(),
                serial: device.file("device/serial").text_fact(),
                wwn: device.file("device/cid").text_fact(),
                text_id: none_of_text(),
                firmware_revision: device.file("device/fwrev").text_fact(),
            },
            DiskKind::Ata => {
                let page = device.file("device/vpd_pg89");
                let ata = |pick: fn(vpd::AtaInformation) -> String| ata_text(&page, pick);
                Self {
                    vendor: Fact::not_applicable(saying!(
                        "ata-drives-give-no-vendor",
                        "ATA drives give no vendor apart from the model",
                    )),
                    model: ata(|drive| drive.model)
                        .or_known(|| device.file("device/model").text_fact()),
                    serial: ata(|drive| drive.serial)
                        .map(|text| Serial(text.0))
                        .or_from(|| unit_serial(device)),
                    wwn: wwid("device/wwid").or_known(|| designator(device)),
                    text_id: none_of_text(),
                    firmware_revision: ata(|drive| drive.firmware_revision)
                        .or_known(|| device.file("device/rev").text_fact()),
                }
            }
            DiskKind::Usb => Self {
                vendor: device.file("device/vendor").text_fact(),
                model: device.file("device/model").text_fact(),
                serial: unit_serial(device).or_known(|| usb_serial(device)),
                wwn: wwid("device/wwid"),
                text_id: none_of_text(),
                firmware_revision: device.file("device/rev").text_fact(),
            },
            _ => Self {
                vendor: device.file("device/vendor").text_fact(),
                model: device.file("device/model").text_fact(),
                serial: unit_serial(device),
                wwn: wwid("device/wwid").or_known(|| designator(device)),
                text_id: none_of_text(),
                firmware_revision: device.file("device/rev").text_fact(),
            },
        }
    }
}

/// A text of the drive's identify data, as the kernel keeps it in page 89h.
pub(super) fn ata_text(page: &File, pick: fn(vpd::AtaInformation) -> String) -> Fact<Term> {
    match page.bytes() {
        Err(gap) => Fact::gap(gap.clone()),
        Ok(bytes) => match vpd::ata_information(bytes).map(pick) {
            Some(text) => match crate::readers::file::meaningful(&text) {
                Ok(meant) => {
                    let rule = saying!(
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
                saying!("no-ata-information-page", "is no ATA information page"),
            )),
        },
    }
}

/// The unit serial number page of a SCSI device.
pub(super) fn unit_serial(device: &BlockDevice<'_>) -> Fact<Serial> {
    let page = device.file("device/vpd_pg80");
    let gap = match page.bytes() {
        Err(gap) => gap.clone(),
        Ok(bytes) => match vpd::unit_serial_number(bytes) {
            None => Gap::new(Why::Invalid).tried(
                Arc::clone(page.path()),
                saying!("no-unit-serial-number-page", "is no unit serial number page"),
            ),
            Some(text) => match crate::readers::file::meaningful(&text) {
                Ok(meant) => {
                    let rule = saying!(
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
pub(super) fn usb_serial(device: &BlockDevice<'_>) -> Fact<Serial> {
    match device.path.down_to(devices::is_usb_device) {
        Some(folder) => File::read(device.lease, format!("{folder}/serial")).text_fact(),
        None => Fact::gap(Gap::new(Why::NotProvided)),
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
            let rule = saying!(
                "surest-designator-logical-unit-spc",
                "the surest designator of the logical unit (SPC-6 clause 7.7.6)",
            );
            let evidence = Evidence::new(Arc::clone(page.path()), rule).raw(&id);
            Fact::known(WorldWideName(id), evidence)
        }
        None => Fact::gap(Gap::new(Why::NotProvided).tried(
            Arc::clone(page.path()),
            saying!("no-designator-logical-unit", "has no designator of the logical unit"),
        )),
    }
}
