//! Batteries that hold much less than they were made to hold.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "battery-worn",
    severity: Severity::Notice,
    title: "battery that is worn",
    reads: &["readings.power.supplies.*.health_percent_hundredths"],
    matters: "It will not last as long as it should when the power fails.",
    action: "Replace it.",
    reference: "Documentation/ABI/testing/sysfs-class-power",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.power, "/readings/power") else { return };
    for (at, one) in it.parts(&now.supplies, "/readings/power/supplies") {
        let Some(health) = see!(it, &at, one.health_percent_hundredths) else { continue };
        let least = it.limits().battery_health_percent;
        if health.0 < least * 100 {
            let percent = health.0 / 100;
            let says = format!("it holds {percent} % of what it was made to hold");
            it.finds(one, &at, &["health_percent_hundredths"], says);
        }
    }
}
