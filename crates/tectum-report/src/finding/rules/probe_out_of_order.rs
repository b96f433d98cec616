//! Probes and fans of which the firmware says that they are out of order.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "probe-out-of-order",
    severity: Severity::Warning,
    title: "probe or fan that reports trouble",
    reads: &[
        "platform.probes.voltage.*.status",
        "platform.probes.temperature.*.status",
        "platform.probes.current.*.status",
        "platform.cooling_devices.*.status",
    ],
    matters: "The firmware saw a voltage, temperature, current or fan out of order.",
    action: "Look at what the probe watches, and at the firmware's event log.",
    reference: "DSP0134 clauses 7.27 to 7.30",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(platform) = it.section(&it.report().inventory.platform, "/inventory/platform") else {
        return;
    };
    macro_rules! judge {
        ($list:expr, $at:literal) => {
            for (at, one) in it.parts($list, $at) {
                let Some(status) = see!(it, &at, one.status) else { continue };
                if !matches!(&**status, "OK" | "Unknown" | "Other") {
                    it.finds(one, &at, &["status"], format!("its status is {status}"));
                }
            }
        };
    }
    judge!(&platform.probes.voltage, "/inventory/platform/probes/voltage");
    judge!(&platform.probes.temperature, "/inventory/platform/probes/temperature");
    judge!(&platform.probes.current, "/inventory/platform/probes/current");
    judge!(&platform.cooling_devices, "/inventory/platform/cooling_devices");
}
