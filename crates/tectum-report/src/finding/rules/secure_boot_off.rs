//! Secure Boot that could be on.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::FirmwareKind;

const AT: &str = "/inventory/firmware";

pub(super) static RULE: Rule = Rule {
    id: "secure-boot-off",
    severity: Severity::Notice,
    title: "Secure Boot that is off",
    reads: &["firmware.secure_boot", "firmware.kind"],
    matters: "The firmware starts whatever stands on the disk, whoever put it there.",
    action: "Turn it on in the firmware's setup, or note why it is off.",
    reference: "UEFI Specification 2.10 clause 32",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(firmware) = it.section(&it.report().inventory.firmware, AT) else { return };
    // Only UEFI can have it.
    match see!(it, AT, firmware.kind) {
        Some(FirmwareKind::Uefi) => {}
        _ => return,
    }
    if see!(it, AT, firmware.secure_boot) == Some(&false) {
        it.finds(firmware, AT, &["secure_boot"], "Secure Boot could be on and is off");
    }
}
