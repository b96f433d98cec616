//! Partitions that share space.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "partitions-overlap",
    severity: Severity::Critical,
    title: "partitions that overlap",
    reads: &["storage.disks.*.partitions.*.overlaps"],
    matters: "What is written to the one destroys what lies on the other.",
    action: "Unmount both, save what can be read, and make the partition table anew.",
    reference: "UEFI Specification 2.10 clause 5.3",
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
        if let Some(other) = see!(it, &at, one.overlaps) {
            it.finds(
                one,
                &at,
                &["overlaps", "start_bytes", "size_bytes"],
                format!("it overlaps {other}"),
            );
        }
    }
}
