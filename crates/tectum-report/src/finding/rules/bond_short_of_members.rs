//! Bonds of which a member has no carrier.

use super::ports::{Bond, Port, bonds};
use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "bond-short-of-members",
    severity: Severity::Warning,
    title: "bond of which a member is down",
    reads: &[
        "network.interfaces.*.kind",
        "network.interfaces.*.members",
        "readings.network.interfaces.*.carrier",
    ],
    matters: "The way that should stand in when another fails is gone, or a part of the bandwidth.",
    action: "Look at the member's cable and switch port.",
    reference: "Documentation/networking/bonding.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for Bond { at, bond, names, members } in bonds(it) {
        if names.len() == 1 {
            it.finds(bond, &at, &["members"], "it has a single member");
        }
        for Port { at, now } in members {
            // A member that is down says nothing of its carrier.
            let down = now.state.value().is_some_and(|state| &**state == "down");
            if down || see!(it, &at, now.carrier) == Some(&false) {
                let says = format!("without a carrier; a member of {}", text(&bond.name));
                it.finds(now, &at, &["carrier", "state"], says);
            }
        }
    }
}
