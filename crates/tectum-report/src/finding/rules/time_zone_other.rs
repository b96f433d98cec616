//! A time zone that is not the one that the settings want.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/os";

pub(super) static RULE: Rule = Rule {
    id: "time-zone-other",
    severity: Severity::Notice,
    title: "time zone that is not the one that is set for all",
    reads: &["os.time_zone"],
    matters: "Times in logs cannot be set side by side.",
    action: "Set the time zone of the machine, or the setting.",
    reference: "tzfile(5)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(os) = it.section(&it.report().inventory.os, AT) else { return };
    let Some(wanted) = &it.limits().time_zone else { return };
    let Some(zone) = see!(it, AT, os.time_zone) else { return };
    if zone.0 != *wanted {
        it.finds(os, AT, &["time_zone"], format!("time zone {zone}, where {wanted} is wanted"));
    }
}
