//! Members of arrays that are faulty.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "array-member-faulty",
    severity: Severity::Critical,
    title: "array with a faulty member",
    reads: &["storage.volumes.*.members.*.state"],
    matters: "The array works without it: the next disk that fails may take the data with it.",
    action: "Replace the disk that the finding names and let the array rebuild.",
    reference: "Documentation/admin-guide/md.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(storage) = it.section(&it.report().inventory.storage, "/inventory/storage") else {
        return;
    };
    for (at, volume) in it.parts(&storage.volumes, "/inventory/storage/volumes") {
        for (at, member) in it.parts(&volume.members, &format!("{at}/members")) {
            let Some(state) = see!(it, &at, member.state) else { continue };
            if state.contains("faulty") || state.contains("error") || state.contains("blocked") {
                let says = format!("{state}; a member of {}", text(&volume.name));
                it.finds(member, &at, &["state"], says);
            }
        }
    }
}
