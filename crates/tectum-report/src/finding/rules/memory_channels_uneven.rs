//! Memory channels of which some hold more than others.

use std::collections::{BTreeMap, BTreeSet};

use crate::compare::data;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::MemoryModule;

pub(super) static RULE: Rule = Rule {
    id: "memory-channels-uneven",
    severity: Severity::Notice,
    title: "memory channels that hold different amounts",
    reads: &["memory.slots.*.channel", "memory.modules.*.size_bytes"],
    matters: "Memory is read from all channels in turn: what only some have is slower, and an empty channel lends no speed.",
    action: "Spread the modules over the channels as the machine's guide says.",
    reference: "DSP0134 clause 7.38",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(memory) = it.section(&it.report().inventory.memory, "/inventory/memory") else {
        return;
    };
    let mut channels: BTreeMap<u64, u64> = BTreeMap::new();
    let modules = it.parts(&memory.modules, "/inventory/memory/modules");
    for (at, slot) in it.parts(&memory.slots, "/inventory/memory/slots") {
        let Some(channel) = see!(it, &at, slot.channel) else { continue };
        let held = channels.entry(*channel).or_default();
        let sits = |module: &MemoryModule| {
            slot.locator.is_known()
                && module.slot.value() == slot.locator.value()
                && module.bank.value() == slot.bank.value()
        };
        let Some((at, module)) = modules.iter().find(|(_, module)| sits(module)) else { continue };
        if let Some(size) = see!(it, at, module.size_bytes) {
            *held = held.saturating_add(size.0);
        }
    }
    let sizes: BTreeSet<u64> = channels.values().copied().collect();
    if sizes.len() > 1 {
        let each: Vec<String> = channels
            .iter()
            .map(|(channel, bytes)| {
                format!("{channel} holds {}", data(i64::try_from(*bytes).unwrap_or(i64::MAX)))
            })
            .collect();
        it.finds(
            memory,
            "/inventory/memory",
            &[],
            format!("unevenly filled: channel {}", each.join(", ")),
        );
    }
}
