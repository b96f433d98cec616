//! Memory modules of different kind, size or speed in one machine.

use std::collections::BTreeSet;

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "memory-modules-mixed",
    severity: Severity::Notice,
    title: "memory modules that are not alike",
    reads: &[
        "memory.modules.*.kind",
        "memory.modules.*.size_bytes",
        "memory.modules.*.speed_mts",
        "memory.modules.*.non_volatile_bytes",
    ],
    matters: "Channels with unlike modules work less evenly, and all run at the speed of the slowest.",
    action: "Fit modules of one size, kind and speed, or note that the mixture is meant.",
    reference: "DSP0134 clause 7.18",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(memory) = it.section(&it.report().inventory.memory, "/inventory/memory") else {
        return;
    };
    let mut kinds = BTreeSet::new();
    let mut sizes = BTreeSet::new();
    let mut speeds = BTreeSet::new();
    for (at, module) in it.parts(&memory.modules, "/inventory/memory/modules") {
        // What keeps its content without power is another thing, and never like the others.
        if module.non_volatile_bytes.value().is_some_and(|bytes| bytes.0 > 0) {
            continue;
        }
        kinds.extend(see!(it, &at, module.kind).map(|_| text(&module.kind)));
        sizes.extend(see!(it, &at, module.size_bytes).map(|_| text(&module.size_bytes)));
        speeds.extend(see!(it, &at, module.speed_mts).map(|_| text(&module.speed_mts)));
    }
    let differ: Vec<String> = [("kinds", kinds), ("sizes", sizes), ("speeds", speeds)]
        .into_iter()
        .filter(|(_, all)| all.len() > 1)
        .map(|(what, all)| format!("{what} {}", all.into_iter().collect::<Vec<_>>().join(" and ")))
        .collect();
    if !differ.is_empty() {
        it.finds(
            memory,
            "/inventory/memory",
            &[],
            format!("different {}", differ.join(", different ")),
        );
    }
}
