//! Sources that count sockets, cores or threads differently.

use crate::finding::{
    judge::{Judge, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "cpu-counts-disagree",
    severity: Severity::Warning,
    title: "firmware and kernel that count processors differently",
    reads: &["cpu.disagreements"],
    matters: "Something is disabled, failed, or described wrongly; licences and schedulers count by such numbers.",
    action: "Look at sockets and cores in the firmware setup, and at the kernel command line (maxcpus, nosmt).",
    reference: "DSP0134 clause 7.5",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(cpu) = it.section(&it.report().inventory.cpu, "/inventory/cpu") else { return };
    for (at, one) in it.parts(&cpu.disagreements, "/inventory/cpu/disagreements") {
        let says = format!(
            "{} by the kernel's topology, {} by {}",
            text(&one.topology),
            text(&one.says),
            text(&one.source)
        );
        it.finds(one, &at, &["topology", "says"], says);
    }
}
