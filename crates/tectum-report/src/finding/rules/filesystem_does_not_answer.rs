//! Filesystems that did not answer in time.

use crate::fact::Why;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "filesystem-does-not-answer",
    severity: Severity::Warning,
    title: "filesystem that does not answer",
    reads: &["readings.filesystems.usage.*.size_bytes"],
    matters: "A server is gone or a disk hangs: every program that touches it will hang too.",
    action: "Look at the server or disk that the mount is of; unmount it lazily if it is not coming back.",
    reference: "statvfs(3)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.filesystems, "/readings/filesystems") else {
        return;
    };
    for (at, one) in it.parts(&now.usage, "/readings/filesystems/usage") {
        match one.size_bytes.missing() {
            Some(gap) if gap.why == Why::Timeout => {
                it.finds(one, &at, &["source"], "it did not answer in time");
            }
            _ => {
                see!(it, &at, one.size_bytes);
            }
        }
    }
}
