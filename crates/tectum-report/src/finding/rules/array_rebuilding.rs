//! Arrays that are being resynchronised, rebuilt or reshaped.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::leaf::in_large_units;

pub(super) static RULE: Rule = Rule {
    id: "array-rebuilding",
    severity: Severity::Warning,
    title: "array that is being rebuilt",
    reads: &["readings.storage.volumes.*.action"],
    matters: "It has not all of its safety yet, and is slower until it is done.",
    action: "Wait until it is done; do not take a disk out before.",
    reference: "Documentation/admin-guide/md.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.storage, "/readings/storage") else { return };
    for (at, volume) in it.parts(&now.volumes, "/readings/storage/volumes") {
        let Some(action) = see!(it, &at, volume.action) else { continue };
        if matches!(&**action, "resync" | "recover" | "reshape") {
            let done = volume.progress_percent_hundredths.value();
            let done = done.map(|part| format!(", {} % done", in_large_units(part.0.into(), 100)));
            let says = format!("{action}{}", done.unwrap_or_default());
            it.finds(volume, &at, &["action", "progress_percent_hundredths"], says);
        }
    }
}
