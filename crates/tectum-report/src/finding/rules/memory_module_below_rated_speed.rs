//! Memory modules that run slower than they are made for.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "memory-module-below-rated-speed",
    severity: Severity::Notice,
    title: "memory module that runs slower than it could",
    reads: &["memory.modules.*.configured_speed_mts", "memory.modules.*.speed_mts"],
    matters: "Memory bandwidth is lost that was paid for; with many modules a channel it may be as designed.",
    action: "Compare with what the machine's guide allows for this many modules; look at the firmware's memory setup.",
    reference: "DSP0134 clause 7.18",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(memory) = it.section(&it.report().inventory.memory, "/inventory/memory") else {
        return;
    };
    for (at, module) in it.parts(&memory.modules, "/inventory/memory/modules") {
        let now = see!(it, &at, module.configured_speed_mts);
        let rated = see!(it, &at, module.speed_mts);
        let (Some(now), Some(rated)) = (now, rated) else { continue };
        if now < rated {
            let says = format!("runs at {now} MT/s, made for {rated} MT/s");
            it.finds(module, &at, &["configured_speed_mts", "speed_mts"], says);
        }
    }
}
