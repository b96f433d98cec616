//! A system of which a package wants that it is started anew.

use crate::finding::{
    judge::{Judge, text},
    rule::{Rule, Severity},
};

const AT: &str = "/readings/os";

pub(super) static RULE: Rule = Rule {
    id: "restart-wanted",
    severity: Severity::Notice,
    title: "system that wants to be started anew",
    reads: &["readings.os.reboot_required"],
    matters: "An update is installed and does not work before the machine is started anew.",
    action: "Start the machine anew at the next occasion.",
    reference: "file-hierarchy(7)",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.os, AT) else { return };
    for (at, mark) in it.parts(&now.reboot_required, "/readings/os/reboot_required") {
        let message = text(&mark.message);
        let says = if message.is_empty() { "a package asks for it".to_owned() } else { message };
        it.finds(mark, &at, &["file"], says);
    }
}
