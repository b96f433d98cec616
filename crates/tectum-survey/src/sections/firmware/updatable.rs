//! What UEFI can update (`Documentation/ABI/testing/sysfs-firmware-efi-esrt`).

use crate::{
    formats::number,
    readers::{
        file::{File, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Gap, Why},
    model::UpdatableFirmware,
};

pub(super) fn updatable(lease: &Lease) -> Parts<UpdatableFirmware> {
    const ENTRIES: &str = "/sys/firmware/efi/esrt/entries";
    let names = match crate::readers::file::list(lease, ENTRIES) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let entries = names
        .iter()
        .filter_map(|name| name.to_str())
        .map(|name| {
            let file = |field: &str| File::read(lease, format!("{ENTRIES}/{name}/{field}"));
            let count = |field: &str| file(field).fact(sayings::DECIMAL_NUMBER, number::decimal);
            UpdatableFirmware {
                class: file("fw_class").text_fact(),
                kind: count("fw_type"),
                version: count("fw_version"),
                lowest_version: count("lowest_supported_fw_version"),
                last_attempt_status: count("last_attempt_status"),
            }
        })
        .collect();
    Parts::known(entries, listing_evidence(ENTRIES, sayings::EVERY_FOLDER_FOLDER))
}

/// A date in a form that says no day.
pub(super) fn not_a_date(text: &str) -> Gap {
    Gap::new(Why::Invalid).raw(text).hint(sayings::NO_FORM_DATE_KNOWN)
}
