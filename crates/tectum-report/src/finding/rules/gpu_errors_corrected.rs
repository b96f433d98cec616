//! Errors of display devices and accelerators that were found and corrected.

use super::gpu_counts::{Counted, counts};
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "gpu-errors-corrected",
    severity: Severity::Warning,
    title: "errors of a GPU that were corrected",
    reads: &["readings.gpu.devices.*.error_counts.*.corrected"],
    matters: "A few in a year are chance; a number that grows tells of a card that is about to fail.",
    action: "Watch the number (save a report each night); where it grows, have the card tested.",
    reference: "Documentation/gpu/amdgpu/ras.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for Counted { at, count, of } in counts(it) {
        let Some(number) = see!(it, &at, count.corrected) else { continue };
        if *number >= it.limits().corrected_errors {
            let says = format!("errors corrected since the driver was loaded: {number}{of}");
            it.finds(count, &at, &["corrected", "block"], says);
        }
    }
}
