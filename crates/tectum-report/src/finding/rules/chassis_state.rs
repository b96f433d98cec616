//! A chassis of which the firmware says that something is out of order.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "chassis-state",
    severity: Severity::Warning,
    title: "chassis that reports trouble",
    reads: &["platform.chassis.*.power_supply_state", "platform.chassis.*.thermal_state"],
    matters: "The firmware saw power or cooling out of order when the machine was started.",
    action: "Look at supplies and fans, and at the firmware's event log.",
    reference: "DSP0134 clause 7.4",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(platform) = it.section(&it.report().inventory.platform, "/inventory/platform") else {
        return;
    };
    for (at, chassis) in it.parts(&platform.chassis, "/inventory/platform/chassis") {
        let states = [
            ("power", "power_supply_state", see!(it, &at, chassis.power_supply_state)),
            ("cooling", "thermal_state", see!(it, &at, chassis.thermal_state)),
        ];
        for (what, field, state) in states {
            let Some(state) = state else { continue };
            if !matches!(&**state, "Safe" | "Unknown" | "Other") {
                it.finds(chassis, &at, &[field], format!("{what}: {state}"));
            }
        }
    }
}
