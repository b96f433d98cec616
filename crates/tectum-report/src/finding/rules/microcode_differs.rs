//! Microcode that is not the same on all CPUs.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/cpu";

pub(super) static RULE: Rule = Rule {
    id: "microcode-differs",
    severity: Severity::Warning,
    title: "CPUs with different microcode",
    reads: &["cpu.microcode"],
    matters: "A defect that one CPU has mended another still has; the kernel brings all to one version as a rule.",
    action: "Update the microcode package and the firmware, then start the machine anew.",
    reference: "Documentation/arch/x86/microcode.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(cpu) = it.section(&it.report().inventory.cpu, AT) else { return };
    let Some(versions) = see!(it, AT, cpu.microcode) else { return };
    if versions.len() > 1 {
        let names: Vec<&str> = versions.iter().map(|it| it.0.as_str()).collect();
        it.finds(cpu, AT, &["microcode"], format!("different microcode: {}", names.join(", ")));
    }
}
