//! Filesystems that have little space left.

use super::usage::filesystems;
use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::leaf::in_large_units;

pub(super) static RULE: Rule = Rule {
    id: "filesystem-nearly-full",
    severity: Severity::Warning,
    title: "filesystem that is nearly full",
    reads: &["readings.filesystems.usage.*.used_percent_hundredths"],
    matters: "Programs fail in the middle of their work when nothing can be written any more.",
    action: "Find what fills it, remove or move it, or let the filesystem grow.",
    reference: "statvfs(3)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for (at, one) in filesystems(it) {
        let Some(used) = see!(it, &at, one.used_percent_hundredths) else { continue };
        if used.0 >= it.limits().filesystem_full_percent * 100 {
            let percent = in_large_units(used.0.into(), 100);
            let says = format!("{percent} % used, {} left", text(&one.available_bytes));
            it.finds(one, &at, &["used_percent_hundredths", "available_bytes"], says);
        }
    }
}
