//! Firmware of single components (SMBIOS type 45).

use super::updatable::not_a_date;
use crate::{
    formats::calendar,
    readers::{
        dmi::{NAME, Tables, named},
        sayings,
    },
};
use tectum_report::{
    declare::Parts,
    leaf::{Bytes, Term},
    model::FirmwareItem,
};
use tectum_smbios::types::FirmwareInventory;

pub(super) fn items(tables: &Tables) -> Parts<FirmwareItem> {
    tables.parts(
        FirmwareInventory::TYPE,
        FirmwareInventory::from_structure,
        |item: &FirmwareInventory<'_>| {
            Some(FirmwareItem {
                name: tables.text(item.component_name()),
                version: tables.text(item.version()),
                id: tables.text(item.firmware_id()),
                release_date: tables
                    .text::<Term>(item.release_date())
                    .and_then(|text| calendar::date(&text).ok_or_else(|| not_a_date(&text))),
                lowest_version: tables.text(item.lowest_supported_version()),
                image_bytes: tables
                    .fact(item.image_size_raw(), sayings::BYTES_ALL_ONES_UNKNOWN, |bytes| {
                        (bytes != u64::MAX).then_some(bytes)
                    })
                    .map(Bytes),
                characteristics: tables.flags(item.characteristics(), |bits| bits.set()),
                manufacturer: tables.text(item.manufacturer()),
                state: tables.fact(item.state(), NAME, named),
            })
        },
    )
}
