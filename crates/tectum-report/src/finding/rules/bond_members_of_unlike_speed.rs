//! Bonds of which a member runs slower than another.

use super::ports::{Bond, Port, bonds};
use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "bond-members-of-unlike-speed",
    severity: Severity::Warning,
    title: "bond of which a member is slower",
    reads: &[
        "network.interfaces.*.kind",
        "network.interfaces.*.members",
        "readings.network.interfaces.*.speed_mbps",
    ],
    matters: "The member and its switch port could do more, as its neighbours show; traffic is spread as if all were alike.",
    action: "Look at cable, module and the switch port's setting of the slower one.",
    reference: "Documentation/networking/bonding.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for Bond { bond, members, .. } in bonds(it) {
        let mut speeds = Vec::new();
        for Port { at, now } in members {
            if let Some(speed) = see!(it, &at, now.speed_mbps) {
                speeds.push((speed, at, now));
            }
        }
        let Some(most) = speeds.iter().map(|(speed, ..)| *speed).max() else { continue };
        for (speed, at, now) in speeds.iter().filter(|(speed, ..)| *speed < most) {
            let says = format!("{speed} Mb/s, another member of {} {most} Mb/s", text(&bond.name));
            it.finds(*now, at, &["speed_mbps"], says);
        }
    }
}
