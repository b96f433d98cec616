//! Memory that is installed and that the kernel does not manage.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::model::Unmanaged;

const AT: &str = "/readings/memory";

pub(super) static RULE: Rule = Rule {
    id: "memory-not-managed",
    severity: Severity::Warning,
    title: "installed memory that the kernel does not manage",
    reads: &["readings.memory.unmanaged_is", "readings.memory.unmanaged_bytes"],
    matters: "Memory was paid for that nobody can use: a module that failed its test, a limit on the kernel command line, a 32-bit kernel.",
    action: "Look at the firmware's own event log and memory setup, and for mem= on the kernel command line.",
    reference: "DSP0134 clause 7.18; proc_meminfo(5)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.memory, AT) else { return };
    let Some(is) = see!(it, AT, now.unmanaged_is) else { return };
    if *is == Unmanaged::Much {
        let bytes = text(&now.unmanaged_bytes);
        let says = format!(
            "{bytes} installed are not managed, more than kernel and firmware usually keep"
        );
        it.finds(now, AT, &["unmanaged_bytes", "total_bytes"], says);
    }
}
