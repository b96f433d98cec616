//! Partitions that do not begin where a physical sector of the disk begins.

use super::partitions::partitions;
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
    for (at, one) in partitions(it) {
        if see!(it, &at, one.aligned) == Some(&false) {
            it.finds(one, &at, &["aligned", "start_bytes"], "it begins within a physical sector");
        }
    }
}
