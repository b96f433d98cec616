//! Values of which two sources say different things.

use crate::finding::{
    judge::Judge,
    rule::{Rule, Severity},
};
use crate::{
    query::{Path, find},
    report::Note,
};

pub(super) static RULE: Rule = Rule {
    id: "sources-disagree",
    severity: Severity::Notice,
    title: "two sources that say different things",
    reads: &["platform", "cpu", "memory", "storage", "network", "os", "firmware"],
    matters: "One of them is wrong: whoever goes by the other is misled.",
    action: "Look at both sources (`tectum why` names them) and at the machine itself.",
    reference: "ARCHITECTURE.md",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let report = it.report();
    for note in &report.notes {
        let Note::SourcesDiffer { at, source, says, other_source, other_says } = note else {
            continue;
        };
        // Who the machine is stands in its section too, and is told there.
        let again = |other: &Note| match other {
            Note::SourcesDiffer { at: other_at, source: by, other_source: and, .. } => {
                other_at.starts_with("/inventory/") && (by, and) == (source, other_source)
            }
            _ => false,
        };
        if at.starts_with("/machine/") && report.notes.iter().any(again) {
            continue;
        }
        let Some((holder, field)) = at.rsplit_once('/') else { continue };
        let Some(hit) = at.parse::<Path>().ok().and_then(|path| find(report, &path).pop()) else {
            continue;
        };
        let words = format!("{field} is {says} by {source}, and {other_says} by {other_source}");
        it.finds(hit.record, holder, &[field], words);
    }
}
