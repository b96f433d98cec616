//! A release whose support has ended: by itself, or by a small table.

use crate::finding::rules::dates::is_past;
use crate::finding::support_dates;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

const AT: &str = "/inventory/os";

pub(super) static RULE: Rule = Rule {
    id: "release-out-of-support",
    severity: Severity::Warning,
    title: "system that gets no updates any more",
    reads: &["os.support_end_date", "os.id", "os.version_id"],
    matters: "Defects that become known are not mended any more.",
    action: "Move to a release that is supported, or buy longer support.",
    reference: "os-release(5)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(os) = it.section(&it.report().inventory.os, AT) else { return };
    let declared = os.support_end_date.value().copied();
    let (end, field) = match declared {
        Some(date) => (date, "support_end_date"),
        None => {
            let id = see!(it, AT, os.id);
            let version = see!(it, AT, os.version_id);
            let known =
                id.zip(version).and_then(|(id, version)| support_dates::end_of(id, version));
            let Some(date) = known else {
                see!(it, AT, os.support_end_date);
                return;
            };
            (date, "version_id")
        }
    };
    if is_past(end, it.report().taken.at) {
        let by = match field {
            "version_id" => format!(" by what was known in {}", support_dates::AS_OF),
            _ => String::new(),
        };
        it.finds(os, AT, &["id", field], format!("support ended {end}{by}"));
    }
}
