//! Blocks of memory that are offline.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "memory-blocks-offline",
    severity: Severity::Notice,
    title: "memory that is taken out of use",
    reads: &["memory.blocks.offline"],
    matters: "The machine works with less memory than it has.",
    action: "Put the blocks online (/sys/devices/system/memory/memoryN/state), or note why they are not.",
    reference: "Documentation/admin-guide/mm/memory-hotplug.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(memory) = it.section(&it.report().inventory.memory, "/inventory/memory") else {
        return;
    };
    let at = "/inventory/memory/blocks";
    let all = &memory.blocks;
    let Some(offline) = see!(it, at, all.offline) else { return };
    if *offline > 0 {
        let says = match offline {
            1 => "1 block is offline".to_owned(),
            many => format!("{many} blocks are offline"),
        };
        it.finds(all, at, &["offline", "block_bytes"], says);
    }
}
