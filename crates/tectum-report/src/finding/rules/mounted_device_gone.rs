//! Filesystems that are mounted though their device is gone.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "mounted-device-gone",
    severity: Severity::Critical,
    title: "mounted filesystem whose device is gone",
    reads: &["readings.filesystems.gone_devices.*.number"],
    matters: "Nothing of it can be read or written any more, but for what memory still holds; the mount stands \
              and looks as if all were well.",
    action: "Look in the kernel's log why it let go of the device, and at its cable, bay and power; unmount it \
             before it is put in again.",
    reference: "Documentation/ABI/testing/sysfs-dev",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.filesystems, "/readings/filesystems") else {
        return;
    };
    for (at, one) in it.parts(&now.gone_devices, "/readings/filesystems/gone_devices") {
        see!(it, &at, one.number);
        let says = format!("{} is mounted, and its device is gone", text(&one.source));
        it.finds(one, &at, &["source", "number", "mount_point"], says);
    }
}
