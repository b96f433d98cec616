//! Memory errors that were found and could not be corrected.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

use super::words::slot;

pub(super) static RULE: Rule = Rule {
    id: "memory-errors-uncorrected",
    severity: Severity::Critical,
    title: "memory errors that could not be corrected",
    reads: &["readings.memory.ecc_counts.*.uncorrected"],
    matters: "Data was lost or a program was killed; it will happen again.",
    action: "Replace the module that the finding names, or that the firmware's event log names.",
    reference: "Documentation/admin-guide/RAS/main.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.memory, "/readings/memory") else { return };
    for (at, one) in it.parts(&now.ecc_counts, "/readings/memory/ecc_counts") {
        let Some(count) = see!(it, &at, one.uncorrected) else { continue };
        if *count > 0 {
            let says =
                format!("errors not corrected since the driver was loaded: {count}{}", slot(one));
            it.finds(one, &at, &["uncorrected", "slot"], says);
        }
    }
}
