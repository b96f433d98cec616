//! A kernel of which a part failed since it was started.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/readings/os";

pub(super) static RULE: Rule = Rule {
    id: "kernel-oopsed",
    severity: Severity::Warning,
    title: "kernel in which something failed",
    reads: &["readings.os.oopses"],
    matters: "A part of the kernel failed and was cut off: locks may be held for ever, data may be lost.",
    action: "Save the kernel's log, start the machine anew, and look for what failed.",
    reference: "Documentation/ABI/testing/sysfs-kernel-oops_count",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.os, AT) else { return };
    let Some(count) = see!(it, AT, now.oopses) else { return };
    if *count > 0 {
        it.finds(
            now,
            AT,
            &["oopses"],
            format!("a part of the kernel failed, {count} times since the start"),
        );
    }
}
