//! Tables of the firmware that do not fit the standard.

use crate::finding::{
    judge::{Judge, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "firmware-tables-odd",
    severity: Severity::Notice,
    title: "firmware tables that do not fit the standard",
    reads: &["platform.firmware_tables.oddities"],
    matters: "What the tables tell beside it may be wrong too.",
    action: "Update the firmware; compare what it says with the labels on the machine.",
    reference: "DSP0134 clauses 5 and 6",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(platform) = it.section(&it.report().inventory.platform, "/inventory/platform") else {
        return;
    };
    let at = "/inventory/platform/firmware_tables/oddities";
    for (at, one) in it.parts(&platform.firmware_tables.oddities, at) {
        it.finds(one, &at, &["what"], text(&one.what));
    }
}
