//! Machines without a TPM that could be used.

use crate::finding::{
    judge::Judge,
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/firmware";

pub(super) static RULE: Rule = Rule {
    id: "tpm-not-there",
    severity: Severity::Notice,
    title: "machine without a TPM",
    reads: &["firmware.tpms", "platform.tpms"],
    matters: "Keys cannot be bound to the machine, and what was started cannot be proven.",
    action: "Turn the TPM on in the firmware's setup, or fit one.",
    reference: "TCG PC Client Platform TPM Profile 2.0",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(firmware) = it.section(&it.report().inventory.firmware, AT) else { return };
    if it.is_virtual() {
        return;
    }
    let driven = it.parts(&firmware.tpms, "/inventory/firmware/tpms");
    let platform = it.section(&it.report().inventory.platform, "/inventory/platform");
    let Some(platform) = platform else { return };
    let described = it.parts(&platform.tpms, "/inventory/platform/tpms");
    if firmware.tpms.gap().is_some() || !driven.is_empty() {
        return;
    }
    if described.is_empty() {
        if platform.tpms.gap().is_none() {
            it.finds(firmware, AT, &[], "no TPM: neither firmware nor kernel knows of one");
        }
    } else {
        it.finds(firmware, AT, &[], "the firmware describes a TPM, and the kernel has none");
    }
}
