//! Memory modules that sit in a slot and are not used.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::SlotState;

pub(super) static RULE: Rule = Rule {
    id: "memory-module-not-used",
    severity: Severity::Warning,
    title: "memory module that failed or is disabled",
    reads: &["memory.slots.*.state"],
    matters: "Its memory is missing, and its neighbours may be slower for it.",
    action: "Look at the firmware's event log; put the module into another slot to tell module from slot, then replace it.",
    reference: "DSP0134 clause 7.18",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(memory) = it.section(&it.report().inventory.memory, "/inventory/memory") else {
        return;
    };
    for (at, slot) in it.parts(&memory.slots, "/inventory/memory/slots") {
        if see!(it, &at, slot.state) == Some(&SlotState::Disabled) {
            it.finds(slot, &at, &["state"], "a module sits in it and is not used");
        }
    }
}
