//! Filesystems that have few inodes left.

use super::usage::filesystems;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "filesystem-inodes-nearly-used",
    severity: Severity::Warning,
    title: "filesystem that can hold hardly another file",
    reads: &["readings.filesystems.usage.*.inodes", "readings.filesystems.usage.*.inodes_used"],
    matters: "No file can be made any more although there is space: few programs say why.",
    action: "Find the folder with very many small files; make the filesystem anew with more inodes.",
    reference: "statvfs(3)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for (at, one) in filesystems(it) {
        let all = see!(it, &at, one.inodes);
        let used = see!(it, &at, one.inodes_used);
        let (Some(all), Some(used)) = (all, used) else { continue };
        let limit = u128::from(it.limits().inodes_full_percent);
        if *all > 0 && u128::from(*used) * 100 >= u128::from(*all) * limit {
            it.finds(one, &at, &["inodes", "inodes_used"], format!("{used} of {all} inodes used"));
        }
    }
}
