//! Partitions that share space.

use super::partitions::partitions;
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
    for (at, one) in partitions(it) {
        if let Some(other) = see!(it, &at, one.overlaps) {
            let fields = ["overlaps", "start_bytes", "size_bytes"];
            it.finds(one, &at, &fields, format!("it overlaps {other}"));
        }
    }
}
