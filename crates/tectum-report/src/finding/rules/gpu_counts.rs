//! The error counts of display devices, as several rules look at them.

use crate::{finding::judge::Judge, model::GpuErrorCount};

/// A count of a device's errors.
pub(super) struct Counted<'a> {
    /// JSON Pointer to the count.
    pub(super) at: String,
    /// The count.
    pub(super) count: &'a GpuErrorCount,
    /// Of which device, to be said behind a number.
    pub(super) of: String,
}

/// Every count of every device.
pub(super) fn counts<'a>(it: &mut Judge<'a>) -> Vec<Counted<'a>> {
    let Some(now) = it.section(&it.report().readings.gpu, "/readings/gpu") else {
        return Vec::new();
    };
    let mut all = Vec::new();
    for (at, device) in it.parts(&now.devices, "/readings/gpu/devices") {
        let of =
            device.address.value().map(|address| format!(", gpu {address}")).unwrap_or_default();
        let counts = it.parts(&device.error_counts, &format!("{at}/error_counts"));
        all.extend(counts.into_iter().map(|(at, count)| Counted { at, count, of: of.clone() }));
    }
    all
}
