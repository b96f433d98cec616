//! Errors that the firmware recorded of memory.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "memory-error-recorded",
    severity: Severity::Warning,
    title: "memory error that the firmware recorded",
    reads: &["memory.modules.*.error", "memory.arrays.*.error"],
    matters: "The firmware found an error before the system ran, or instead of it.",
    action: "Look at the firmware's event log; test or replace the module.",
    reference: "DSP0134 clauses 7.19 and 7.34",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(memory) = it.section(&it.report().inventory.memory, "/inventory/memory") else {
        return;
    };
    for (at, module) in it.parts(&memory.modules, "/inventory/memory/modules") {
        see!(it, &at, module.error);
        if let Some(error) = module.recorded_error() {
            it.finds(module, &at, &["error"], format!("the firmware recorded: {error}"));
        }
    }
    for (at, array) in it.parts(&memory.arrays, "/inventory/memory/arrays") {
        see!(it, &at, array.error);
        if let Some(error) = array.recorded_error() {
            it.finds(array, &at, &["error"], format!("the firmware recorded: {error}"));
        }
    }
}
