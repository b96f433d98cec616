//! Processors that slowed down because they were too hot.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/readings/cpu";

pub(super) static RULE: Rule = Rule {
    id: "cpu-throttled",
    severity: Severity::Warning,
    title: "processor that slowed down for heat",
    reads: &["readings.cpu.core_throttles", "readings.cpu.package_throttles"],
    matters: "Meanwhile it did not do the work that it is made for, and heat shortens its life.",
    action: "Look at fans, air flow and the temperature of the room; compare with its neighbours in the rack.",
    reference: "Documentation/admin-guide/thermal/intel_powerclamp.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.cpu, AT) else { return };
    let cores = see!(it, AT, now.core_throttles).copied().unwrap_or(0);
    let packages = see!(it, AT, now.package_throttles).copied().unwrap_or(0);
    if cores + packages > 0 {
        let says =
            format!("slowed down since the start: cores {cores} times, packages {packages} times");
        it.finds(now, AT, &["core_throttles", "package_throttles"], says);
    }
}
