//! A clock source that stands in for one that was found unstable.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/os";

pub(super) static RULE: Rule = Rule {
    id: "clock-source-slow",
    severity: Severity::Warning,
    title: "clock that is slow to read",
    reads: &["os.clock_source", "os.architecture"],
    matters: "Programs ask for the time very often: each question takes many times as long, and as a rule the kernel does so because it found that the processor's own counter cannot be trusted.",
    action: "Look in the kernel's log why the counter was given up, and for clocksource= on the kernel command line; update the firmware.",
    reference: "Documentation/virt/kvm/x86/timekeeping.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(os) = it.section(&it.report().inventory.os, AT) else { return };
    let x86 = see!(it, AT, os.architecture).is_some_and(|name| name.starts_with("x86"));
    let source = see!(it, AT, os.clock_source);
    let slow = source.is_some_and(|name| {
        matches!(&**name, "hpet" | "acpi_pm" | "jiffies" | "refined-jiffies" | "pit")
    });
    if x86 && slow {
        it.finds(
            os,
            AT,
            &["clock_source", "clock_sources"],
            format!("the clock source is {}", text(&os.clock_source)),
        );
    }
}
