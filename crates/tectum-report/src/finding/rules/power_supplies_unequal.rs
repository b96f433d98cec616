//! Power supplies that are not rated alike.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "power-supplies-unequal",
    severity: Severity::Notice,
    title: "power supplies of unequal rating",
    reads: &["platform.power_supplies.*.max_watts"],
    matters: "The smaller one cannot carry the machine alone when the other fails.",
    action: "Fit supplies of one rating.",
    reference: "DSP0134 clause 7.40",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(platform) = it.section(&it.report().inventory.platform, "/inventory/platform") else {
        return;
    };
    let at = "/inventory/platform/power_supplies";
    let supplies = it.parts(&platform.power_supplies, at);
    let mut ratings = Vec::new();
    for (at, supply) in &supplies {
        if supply.present.value() == Some(&false) {
            continue;
        }
        if let Some(watts) = see!(it, at, supply.max_watts) {
            ratings.push((watts.0, at, *supply));
        }
    }
    let Some(most) = ratings.iter().map(|(watts, ..)| *watts).max() else { return };
    for (watts, at, supply) in ratings.iter().filter(|(watts, ..)| *watts < most) {
        it.finds(*supply, at, &["max_watts"], format!("{watts} W, another has {most} W"));
    }
}
