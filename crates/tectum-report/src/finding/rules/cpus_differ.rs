//! CPUs that differ where nothing says that they should.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/cpu";

pub(super) static RULE: Rule = Rule {
    id: "cpus-differ",
    severity: Severity::Warning,
    title: "CPUs of one machine that are not alike",
    reads: &["cpu.all_alike", "cpu.core_kinds"],
    matters: "Programs may use an instruction on one CPU that another does not have; such mixtures are seldom meant.",
    action: "Compare stepping and microcode of the sockets; update the firmware, or fit processors of one kind.",
    reference: "Documentation/arch/x86/cpuinfo.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(cpu) = it.section(&it.report().inventory.cpu, AT) else { return };
    let arm = cpu.architecture.value().is_some_and(|name| !name.starts_with("x86"));
    // Kinds of core that differ by design are named by the kernel, or are usual on other processors.
    if arm || cpu.core_kinds.len() > 1 {
        return;
    }
    if see!(it, AT, cpu.all_alike) == Some(&false) {
        it.finds(
            cpu,
            AT,
            &["all_alike"],
            "the CPUs differ in model, stepping, microcode or features",
        );
    }
}
