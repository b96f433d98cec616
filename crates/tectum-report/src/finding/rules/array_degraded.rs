//! Arrays of which a member is missing.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "array-degraded",
    severity: Severity::Critical,
    title: "array that is short of members",
    reads: &["storage.volumes.*.missing_members"],
    matters: "It bears fewer further failures than it was made for, and most arrays bear none now: the next disk that fails may take the data with it.",
    action: "Replace the missing member and let the array rebuild; see that the backup is good first.",
    reference: "Documentation/admin-guide/md.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(storage) = it.section(&it.report().inventory.storage, "/inventory/storage") else {
        return;
    };
    for (at, volume) in it.parts(&storage.volumes, "/inventory/storage/volumes") {
        let Some(missing) = see!(it, &at, volume.missing_members) else { continue };
        if *missing > 0 {
            let says = format!("{missing} of {} members missing", text(&volume.expected_members));
            it.finds(volume, &at, &["missing_members", "expected_members"], says);
        }
    }
}
