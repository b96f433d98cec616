//! Defects of the processor that the kernel says to be open.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/cpu";
use crate::model::Standing;

pub(super) static RULE: Rule = Rule {
    id: "cpu-vulnerabilities-open",
    severity: Severity::Warning,
    title: "defects of the processor that nothing mitigates",
    reads: &["cpu.vulnerabilities.*.state"],
    matters: "A program may read what belongs to another, or to the kernel.",
    action: "Update kernel, microcode and firmware; look for mitigations=off or nosmt on the kernel command line.",
    reference: "Documentation/admin-guide/hw-vuln/index.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(cpu) = it.section(&it.report().inventory.cpu, AT) else { return };
    let mut open = Vec::new();
    let mut seen = Vec::new();
    for (at, one) in it.parts(&cpu.vulnerabilities, "/inventory/cpu/vulnerabilities") {
        see!(it, &at, one.state);
        if one.standing() == Some(Standing::Open) {
            open.push(text(&one.name));
            seen.extend(it.seen(one, &at, "state"));
        }
    }
    if !open.is_empty() {
        let all = cpu.vulnerabilities.len();
        let says = format!("{} of {all} vulnerabilities are open: {}", open.len(), open.join(", "));
        it.finds_by(cpu, AT, seen, says);
    }
}
