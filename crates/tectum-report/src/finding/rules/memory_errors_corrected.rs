//! Memory errors that were found and corrected.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

use super::words::slot;

pub(super) static RULE: Rule = Rule {
    id: "memory-errors-corrected",
    severity: Severity::Warning,
    title: "memory errors that were corrected",
    reads: &["readings.memory.ecc_counts.*.corrected"],
    matters: "A few in a year are chance; a number that grows tells of a module that is about to fail.",
    action: "Watch the number (save a report each night); where it grows, replace the module.",
    reference: "Documentation/admin-guide/RAS/main.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.memory, "/readings/memory") else { return };
    for (at, one) in it.parts(&now.ecc_counts, "/readings/memory/ecc_counts") {
        let Some(count) = see!(it, &at, one.corrected) else { continue };
        if *count >= it.limits().corrected_errors {
            let says =
                format!("errors corrected since the driver was loaded: {count}{}", slot(one));
            it.finds(one, &at, &["corrected", "slot"], says);
        }
    }
}
