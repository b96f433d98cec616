//! Partitions that do not begin where a physical sector of the disk begins.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "partition-misaligned",
    severity: Severity::Warning,
    title: "partition that begins between two sectors of its disk",
    reads: &["storage.disks.*.partitions.*.aligned"],
    matters: "Every write touches two sectors of the disk instead of one: slower, and a flash disk wears faster.",
    action: "Make the partition anew at a multiple of 1 MiB.",
    reference: "Documentation/ABI/stable/sysfs-block",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(storage) = it.section(&it.report().inventory.storage, "/inventory/storage") else {
        return;
    };
    let disks = it.parts(&storage.disks, "/inventory/storage/disks");
    let mut partitions = Vec::new();
    for (at, disk) in &disks {
        partitions.extend(it.parts(&disk.partitions, &format!("{at}/partitions")));
    }
    for (at, one) in partitions {
        if see!(it, &at, one.aligned) == Some(&false) {
            it.finds(one, &at, &["aligned", "start_bytes"], "it begins within a physical sector");
        }
    }
}
