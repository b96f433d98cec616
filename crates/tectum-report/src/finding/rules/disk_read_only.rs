//! Disks that are read-only.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::DiskKind;

pub(super) static RULE: Rule = Rule {
    id: "disk-read-only",
    severity: Severity::Warning,
    title: "disk that cannot be written to",
    reads: &["storage.disks.*.read_only"],
    matters: "Some disks turn read-only when they are worn out; others by a switch.",
    action: "Look at the disk's own health record and for a write-protect switch or setting.",
    reference: "Documentation/ABI/stable/sysfs-block",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(storage) = it.section(&it.report().inventory.storage, "/inventory/storage") else {
        return;
    };
    for (at, disk) in it.parts(&storage.disks, "/inventory/storage/disks") {
        // A medium that can be taken out has a switch, and a disk that another machine gives is as that one gave it.
        let given =
            matches!(disk.kind.value(), Some(DiskKind::Virtio | DiskKind::Xen | DiskKind::Network));
        let meant = given || disk.removable.value() == Some(&true);
        if see!(it, &at, disk.read_only) == Some(&true) && !meant {
            it.finds(disk, &at, &["read_only"], "it is read-only");
        }
    }
}
