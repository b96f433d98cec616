//! Disks that are offline, blocked or dead to the kernel.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "disk-not-running",
    severity: Severity::Critical,
    title: "disk that the kernel does not use any more",
    reads: &["readings.storage.disks.*.state"],
    matters: "The kernel gave the disk up, or waits for it: what lies on it cannot be read.",
    action: "Look at the kernel's log for the disk, then at its cable and bay; replace it.",
    reference: "Documentation/scsi/scsi_mid_low_api.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.storage, "/readings/storage") else { return };
    for (at, disk) in it.parts(&now.disks, "/readings/storage/disks") {
        let Some(state) = see!(it, &at, disk.state) else { continue };
        if !matches!(&**state, "running" | "live" | "created" | "new") {
            it.finds(disk, &at, &["state"], format!("its state is {state}"));
        }
    }
}
