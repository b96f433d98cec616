//! Filesystems and swap that are declared in /etc/fstab and not in use.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::model::DeclaredState;

pub(super) static RULE: Rule = Rule {
    id: "fstab-entry-not-mounted",
    severity: Severity::Warning,
    title: "filesystem or swap that /etc/fstab declares, not in use",
    reads: &["filesystems.fstab_entries.*.state"],
    matters: "Of a filesystem that is not mounted the files are not there, and programs write into the folder beneath; \
              without its swap a machine runs out of memory earlier.",
    action: "Mount it (or turn the swap on), and look in the log why that was not done at the start; or take the line \
             out of /etc/fstab.",
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
            let says = match one.filesystem.value().map(|kind| kind.0.as_str()) {
                // Swap has no mount point to be called by.
                Some("swap") => {
                    let (source, uuid, label) =
                        (text(&one.source), text(&one.uuid), text(&one.label));
                    let of = [source, uuid, label].into_iter().find(|name| !name.is_empty());
                    let of = of.map(|name| format!(" on {name}")).unwrap_or_default();
                    format!("swap{of}, declared in {line}/etc/fstab, and not in use")
                }
                _ => format!("declared in {line}/etc/fstab, and not mounted"),
            };
            it.finds(one, &at, &["state", "mount_point"], says);
        }
    }
}
