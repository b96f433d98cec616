//! Disks that are warmer than they should be.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::leaf::in_large_units;

pub(super) static RULE: Rule = Rule {
    id: "disk-warm",
    severity: Severity::Warning,
    title: "disk that is too warm",
    reads: &["readings.storage.disks.*.temperature_millicelsius"],
    matters: "Heat shortens the life of a disk, and some slow down for it.",
    action: "Look at fans and air flow around the bay.",
    reference: "Documentation/hwmon/drivetemp.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.storage, "/readings/storage") else { return };
    let most = i64::try_from(it.limits().disk_warm_celsius).unwrap_or(i64::MAX);
    for (at, disk) in it.parts(&now.disks, "/readings/storage/disks") {
        let Some(warm) = see!(it, &at, disk.temperature_millicelsius) else { continue };
        if warm.0 / 1000 > most {
            let degrees = in_large_units(warm.0.into(), 1000);
            let says = format!("{degrees} °C, more than {most} °C");
            it.finds(disk, &at, &["temperature_millicelsius"], says);
        }
    }
}
