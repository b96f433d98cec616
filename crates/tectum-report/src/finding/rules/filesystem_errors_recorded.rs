//! Errors that a filesystem recorded in itself.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "filesystem-errors-recorded",
    severity: Severity::Critical,
    title: "filesystem that recorded errors in itself",
    reads: &["readings.filesystems.errors.*.errors"],
    matters: "Its own structures do not fit together: files may be lost, and it may turn read-only.",
    action: "See that the backup is good; unmount and check the filesystem; look for errors of the disk beneath.",
    reference: "Documentation/ABI/testing/sysfs-fs-ext4",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.filesystems, "/readings/filesystems") else {
        return;
    };
    for (at, one) in it.parts(&now.errors, "/readings/filesystems/errors") {
        let Some(errors) = see!(it, &at, one.errors) else { continue };
        if *errors > 0 {
            let last = one.last_at.value().map(|last| format!(", the last at {last}"));
            let says = format!("{errors} errors{}", last.unwrap_or_default());
            it.finds(one, &at, &["errors", "last_at"], says);
        }
    }
}
