//! What disks have done since boot (`Documentation/block/stat.rst`).

use super::{ROOT, SECTOR};
use crate::{
    formats::number,
    readers::{
        devices::is_numbered,
        file::{File, list, listing_evidence, watched},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, Millicelsius, Milliseconds},
    model::{Disk, DiskReadings, Storage},
};

pub(super) fn readings(lease: &Lease, storage: &Storage) -> Parts<DiskReadings> {
    if let Some(gap) = storage.disks.gap() {
        return Parts::missing(gap.clone());
    }
    let parts = storage.disks.iter().filter_map(|disk| activity(lease, disk));
    Parts::known(parts.collect(), listing_evidence(ROOT, saying!("every-disk", "every disk")))
        .in_part(storage.disks.hidden().cloned())
}

fn activity(lease: &Lease, disk: &Disk) -> Option<DiskReadings> {
    let name = disk.name.value()?.replace('/', "!");
    let file = |attribute: &str| File::read(lease, format!("{ROOT}/{name}/{attribute}"));
    let stat = file("stat");
    let field = |index: usize, rule: Saying| {
        stat.fact(rule, |text| number::decimal(text.split_whitespace().nth(index)?))
    };
    let bytes = |index: usize, rule: Saying| {
        field(index, rule)
            .and_then(|sectors| sectors.checked_mul(SECTOR).ok_or_else(|| Gap::new(Why::Invalid)))
    };
    Some(DiskReadings {
        name: disk.name.clone(),
        state: file("device/state").text_fact(),
        reads: field(0, saying!("first-number", "the first number")),
        read_bytes: bytes(
            2,
            saying!("third-number-sectors-512-bytes", "the third number, sectors of 512 bytes"),
        )
        .map(Bytes),
        writes: field(4, saying!("fifth-number", "the fifth number")),
        written_bytes:
            bytes(
                6,
                saying!(
                    "seventh-number-sectors-512-bytes",
                    "the seventh number, sectors of 512 bytes",
                ),
            )
            .map(Bytes),
        in_flight: field(8, saying!("ninth-number", "the ninth number")),
        io_time_ms: field(
            9,
            saying!("tenth-number-milliseconds", "the tenth number, milliseconds"),
        )
        .map(Milliseconds),
        errors: file("device/ioerr_cnt").fact(sayings::HEXADECIMAL, number::hexadecimal),
        temperature_millicelsius: temperature(lease, &format!("{ROOT}/{name}/device"))
            .map(Millicelsius),
    })
}

/// The first temperature of the monitor beneath the drive or its controller
/// (`Documentation/hwmon/drivetemp.rst`): in a folder of its own, or in one of a folder `hwmon`.
fn temperature(lease: &Lease, folder: &str) -> Fact<i64> {
    let (found, hidden) = watched(lease, |lease| first_temperature(lease, folder));
    match hidden {
        // A monitor that was found is one, whatever else there may be.
        Some(gap) if !found.is_known() => Fact::gap(gap),
        _ => found,
    }
}

fn first_temperature(lease: &Lease, folder: &str) -> Fact<i64> {
    let monitor = |folder: &str| {
        let names = list(lease, folder).ok()?;
        let found = names.iter().filter_map(|name| name.to_str()).find(|n| is_numbered(n, "hwmon"));
        found.map(|name| format!("{folder}/{name}"))
    };
    // A namespace with several paths stands above its controllers.
    let of_controller = || {
        let names = list(lease, folder).ok()?;
        let mut controllers: Vec<&str> = names
            .iter()
            .filter_map(|name| name.to_str())
            .filter(|n| is_numbered(n, "nvme"))
            .collect();
        controllers.sort_unstable();
        controllers.into_iter().find_map(|name| monitor(&format!("{folder}/{name}")))
    };
    let own = monitor(folder).or_else(|| monitor(&format!("{folder}/hwmon")));
    match own.or_else(of_controller) {
        Some(monitor) => File::read(lease, format!("{monitor}/temp1_input"))
            .fact(sayings::THOUSANDTHS_DEGREE_CELSIUS, number::millicelsius),
        None => Fact::gap(Gap::new(Why::NotProvided).tried(
            folder.into(),
            saying!("no-hardware-monitor-beneath", "has no hardware monitor beneath it"),
        )),
    }
}
