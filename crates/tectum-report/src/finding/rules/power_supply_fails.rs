//! Power supplies that are missing, unplugged or failed.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "power-supply-fails",
    severity: Severity::Warning,
    title: "power supply that is missing, unplugged or failed",
    reads: &[
        "platform.power_supplies.*.present",
        "platform.power_supplies.*.plugged_in",
        "platform.power_supplies.*.status",
    ],
    matters: "The machine stands on one leg: the next supply or circuit that fails turns it off.",
    action: "Plug it in, look at its circuit, replace it.",
    reference: "DSP0134 clause 7.40",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(platform) = it.section(&it.report().inventory.platform, "/inventory/platform") else {
        return;
    };
    for (at, supply) in it.parts(&platform.power_supplies, "/inventory/platform/power_supplies") {
        let present = see!(it, &at, supply.present);
        let plugged = see!(it, &at, supply.plugged_in);
        let status = see!(it, &at, supply.status);
        let (says, field) = if present == Some(&false) {
            ("it is not there".to_owned(), "present")
        } else if plugged == Some(&false) {
            ("it is not plugged in".to_owned(), "plugged_in")
        } else if let Some(status) =
            status.filter(|it| !matches!(&***it, "OK" | "Unknown" | "Other"))
        {
            (format!("its status is {status}"), "status")
        } else {
            continue;
        };
        it.finds(supply, &at, &[field], says);
    }
}
