//! Errors of display devices and accelerators that could not be corrected.

use super::gpu_counts::{Counted, counts};
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "gpu-errors-uncorrected",
    severity: Severity::Critical,
    title: "errors of a GPU that could not be corrected",
    reads: &["readings.gpu.devices.*.error_counts.*.uncorrected"],
    matters: "What was computed meanwhile may be wrong, and the program may not have been told.",
    action: "Repeat what ran on it, take the card out of use and have it tested.",
    reference: "Documentation/gpu/amdgpu/ras.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for Counted { at, count, of } in counts(it) {
        let Some(number) = see!(it, &at, count.uncorrected) else { continue };
        if *number > 0 {
            let says = format!("errors not corrected since the driver was loaded: {number}{of}");
            it.finds(count, &at, &["uncorrected", "block"], says);
        }
    }
}
