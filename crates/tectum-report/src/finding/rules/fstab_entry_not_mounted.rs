//! Filesystems that are declared in /etc/fstab and not mounted.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::DeclaredState;

pub(super) static RULE: Rule = Rule {
    id: "fstab-entry-not-mounted",
    severity: Severity::Warning,
    title: "filesystem that should be mounted and is not",
    reads: &["filesystems.fstab_entries.*.state"],
    matters: "What should lie there is not there; programs write into the folder beneath instead.",
    action: "Mount it, and look in the log why it was not at the start; or take the line out of /etc/fstab.",
    reference: "fstab(5)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(all) = it.section(&it.report().inventory.filesystems, "/inventory/filesystems") else {
        return;
    };
    for (at, one) in it.parts(&all.fstab_entries, "/inventory/filesystems/fstab_entries") {
        if see!(it, &at, one.state) == Some(&DeclaredState::Missing) {
            let line = one.line.value().map(|line| format!("line {line} of "));
            let line = line.unwrap_or_default();
            let says = format!("declared in {line}/etc/fstab, and not mounted");
            it.finds(one, &at, &["state", "mount_point"], says);
        }
    }
}
