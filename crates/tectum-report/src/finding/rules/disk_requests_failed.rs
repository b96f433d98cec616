//! Disks of which many requests ended with an error.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "disk-requests-failed",
    severity: Severity::Warning,
    title: "disk of which many requests failed",
    reads: &["readings.storage.disks.*.errors"],
    matters: "A few are commands that the disk does not know; many tell of its media, its cable or its controller.",
    action: "Look in the kernel's log for the disk; change cable and bay, then the disk, if the number grows.",
    reference: "Documentation/scsi/scsi_mid_low_api.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.storage, "/readings/storage") else { return };
    for (at, disk) in it.parts(&now.disks, "/readings/storage/disks") {
        let Some(errors) = see!(it, &at, disk.errors) else { continue };
        if *errors >= it.limits().disk_errors {
            let says = format!("requests that ended with an error: {errors}");
            it.finds(disk, &at, &["errors", "name"], says);
        }
    }
}
