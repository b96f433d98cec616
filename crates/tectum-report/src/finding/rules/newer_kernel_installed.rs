//! A kernel that is installed and newer than the one that runs.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/os";

pub(super) static RULE: Rule = Rule {
    id: "newer-kernel-installed",
    severity: Severity::Notice,
    title: "newer kernel installed than the one that runs",
    reads: &["os.newer_kernel_installed", "os.newest_kernel"],
    matters: "What the newer kernel mends is not mended until the machine is started anew.",
    action: "Start the machine anew at the next occasion.",
    reference: "uname(2)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(os) = it.section(&it.report().inventory.os, AT) else { return };
    if see!(it, AT, os.newer_kernel_installed) == Some(&true) {
        let newest = text(&os.newest_kernel);
        let says = format!("{newest} is installed, {} runs", text(&os.kernel_release));
        it.finds(os, AT, &["newest_kernel", "kernel_release"], says);
    }
}
