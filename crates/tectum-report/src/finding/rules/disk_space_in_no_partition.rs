//! Space on a disk outside of all of its partitions.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "disk-space-in-no-partition",
    severity: Severity::Notice,
    title: "space of a disk that is in no partition",
    reads: &["storage.disks.*.unpartitioned_bytes", "storage.disks.*.size_bytes"],
    matters: "Space was paid for that nobody can use.",
    action: "Make a partition of it, or let the last one grow.",
    reference: "UEFI Specification 2.10 clause 5.3",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(storage) = it.section(&it.report().inventory.storage, "/inventory/storage") else {
        return;
    };
    for (at, disk) in it.parts(&storage.disks, "/inventory/storage/disks") {
        if disk.partitions.is_empty() {
            continue;
        }
        let free = see!(it, &at, disk.unpartitioned_bytes);
        let size = see!(it, &at, disk.size_bytes);
        let (Some(free), Some(size)) = (free, size) else { continue };
        let least = u128::from(size.0) * u128::from(it.limits().unpartitioned_percent) / 100;
        if free.0 > 1 << 30 && u128::from(free.0) > least {
            let says = format!(
                "{} of {} in no partition",
                text(&disk.unpartitioned_bytes),
                text(&disk.size_bytes)
            );
            it.finds(disk, &at, &["unpartitioned_bytes"], says);
        }
    }
}
