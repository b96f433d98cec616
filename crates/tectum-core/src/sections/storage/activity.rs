//! What disks have done since boot (`Documentation/block/stat.rst`).

use super::{ROOT, SECTOR};
use crate::{
    formats::number,
    report::{
        fact::{Gap, Why},
        model::{Disk, DiskReadings, Storage},
        record::Parts,
    },
    sections::file::{File, listing_evidence},
    source::Lease,
};

pub(super) fn readings(lease: &Lease, storage: &Storage) -> Parts<DiskReadings> {
    if let Some(gap) = storage.disks.gap() {
        return Parts::missing(gap.clone());
    }
    let parts = storage.disks.iter().filter_map(|disk| activity(lease, disk));
    Parts::known(parts.collect(), listing_evidence(ROOT, "every disk"))
}

fn activity(lease: &Lease, disk: &Disk) -> Option<DiskReadings> {
    let name = disk.name.value()?.replace('/', "!");
    let file = |attribute: &str| File::read(lease, format!("{ROOT}/{name}/{attribute}"));
    let stat = file("stat");
    let field = |index: usize, rule: &'static str| {
        stat.fact(rule, |text| number::decimal(text.split_whitespace().nth(index)?))
    };
    let bytes = |index: usize, rule: &'static str| {
        field(index, rule)
            .and_then(|sectors| sectors.checked_mul(SECTOR).ok_or_else(|| Gap::new(Why::Invalid)))
    };
    Some(DiskReadings {
        name: disk.name.clone(),
        state: file("device/state").text_fact(),
        reads: field(0, "the first number"),
        read_bytes: bytes(2, "the third number, sectors of 512 bytes"),
        writes: field(4, "the fifth number"),
        written_bytes: bytes(6, "the seventh number, sectors of 512 bytes"),
        in_flight: field(8, "the ninth number"),
        busy_ms: field(9, "the tenth number, milliseconds"),
        errors: file("device/ioerr_cnt").fact("hexadecimal", number::hexadecimal),
    })
}
