//! Memory that the kernel manages and no module is told to give.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::model::Unmanaged;

const AT: &str = "/readings/memory";

pub(super) static RULE: Rule = Rule {
    id: "memory-modules-not-all-told",
    severity: Severity::Notice,
    title: "more memory than the modules are said to hold",
    reads: &[
        "readings.memory.unmanaged_is",
        "readings.memory.total_bytes",
        "memory.installed_bytes",
        "memory.device_tree_bytes",
    ],
    matters: "The list of modules is not all there is, or it is wrong: memory was added while the machine ran, or the firmware's tables were made up.",
    action: "Do not order modules by this list; look into the machine, or ask whoever runs the hypervisor.",
    reference: "DSP0134 clause 7.18; proc_meminfo(5)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.memory, AT) else { return };
    let Some(is) = see!(it, AT, now.unmanaged_is) else { return };
    if *is == Unmanaged::Negative {
        let memory = it.report().inventory.memory.as_ref();
        let told = memory.map(|memory| match memory.installed_bytes.is_known() {
            true => text(&memory.installed_bytes),
            false => text(&memory.device_tree_bytes),
        });
        let says = format!(
            "the kernel manages {}, and {} are told to be installed",
            text(&now.total_bytes),
            told.unwrap_or_default()
        );
        it.finds(now, AT, &["total_bytes"], says);
    }
}
