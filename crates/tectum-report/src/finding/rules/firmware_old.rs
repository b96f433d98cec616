//! Firmware that is older than some years.

use crate::finding::rules::dates::age_in_years;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/firmware";

pub(super) static RULE: Rule = Rule {
    id: "firmware-old",
    severity: Severity::Notice,
    title: "firmware that is old",
    reads: &["firmware.release_date"],
    matters: "Defects are mended by newer versions, those of security first.",
    action: "Ask the machine's maker for a newer version, and read what it mends.",
    reference: "DSP0134 clause 7.1",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(firmware) = it.section(&it.report().inventory.firmware, AT) else { return };
    if it.is_virtual() {
        return;
    }
    let Some(date) = see!(it, AT, firmware.release_date) else { return };
    let years = it.limits().firmware_age_years;
    let age = age_in_years(*date, it.report().taken.at);
    if age.is_some_and(|age| age >= years) {
        let says = format!("of {date}, more than {years} years before it was looked at");
        it.finds(firmware, AT, &["release_date", "version"], says);
    }
}
