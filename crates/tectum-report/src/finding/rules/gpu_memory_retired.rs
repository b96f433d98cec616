//! Memory of display devices and accelerators that failed for good.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "gpu-memory-retired",
    severity: Severity::Warning,
    title: "memory of a GPU that was put out of use",
    reads: &["readings.gpu.devices.*.retired_pages"],
    matters: "Pages that failed are not used again, but there are only so many in reserve, and more tend to follow.",
    action: "Watch the number; where it grows, have the card replaced by its vendor.",
    reference: "Documentation/gpu/amdgpu/ras.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.gpu, "/readings/gpu") else { return };
    for (at, device) in it.parts(&now.devices, "/readings/gpu/devices") {
        let Some(pages) = see!(it, &at, device.retired_pages) else { continue };
        if *pages > 0 {
            let says = format!("pages of its memory put out of use: {pages}");
            it.finds(device, &at, &["retired_pages", "address"], says);
        }
    }
}
