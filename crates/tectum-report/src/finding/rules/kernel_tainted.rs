//! A kernel that is tainted, and by what.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/readings/os";

pub(super) static RULE: Rule = Rule {
    id: "kernel-tainted",
    severity: Severity::Notice,
    title: "kernel that is tainted",
    reads: &["readings.os.taints"],
    matters: "Whoever helps with a crash asks for it first: something runs in the kernel, or happened to it, that its makers do not know.",
    action: "Look at what each word means; unload modules that are not needed, start anew after a warning or a machine check.",
    reference: "Documentation/admin-guide/tainted-kernels.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.os, AT) else { return };
    let Some(taints) = see!(it, AT, now.taints) else { return };
    if !taints.is_empty() {
        let words: Vec<&str> = taints.iter().map(|it| it.0.as_str()).collect();
        it.finds(now, AT, &["taints"], format!("tainted: {}", words.join(", ")));
    }
}
