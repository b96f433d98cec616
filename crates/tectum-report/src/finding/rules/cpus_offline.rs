//! CPUs that the kernel knows and does not use.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::leaf::ranges;

const AT: &str = "/inventory/cpu";

pub(super) static RULE: Rule = Rule {
    id: "cpus-offline",
    severity: Severity::Notice,
    title: "CPUs that are there and not used",
    reads: &["cpu.offline"],
    matters: "The machine computes with less than it has, and licences may count what is there.",
    action: "Put them online (/sys/devices/system/cpu/cpuN/online), or note who took them offline and why.",
    reference: "Documentation/admin-guide/cputopology.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(cpu) = it.section(&it.report().inventory.cpu, "/inventory/cpu") else { return };
    let Some(offline) = see!(it, AT, cpu.offline) else { return };
    if !offline.is_empty() {
        let says = format!("offline: CPUs {}", ranges(offline));
        it.finds(cpu, AT, &["offline"], says);
    }
}
