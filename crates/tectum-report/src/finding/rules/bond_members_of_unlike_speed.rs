//! Bonds of which a member runs slower than another.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::leaf::InterfaceName;
use crate::model::InterfaceKind;

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
    let Some(network) = it.section(&it.report().inventory.network, "/inventory/network") else {
        return;
    };
    let Some(now) = it.section(&it.report().readings.network, "/readings/network") else { return };
    let ports = it.parts(&network.interfaces, "/inventory/network/interfaces");
    let readings = it.parts(&now.interfaces, "/readings/network/interfaces");
    for (at, bond) in &ports {
        let kind = see!(it, at, bond.kind);
        if !matches!(kind, Some(InterfaceKind::Bond | InterfaceKind::Team)) {
            continue;
        }
        let Some(members) = see!(it, at, bond.members) else { continue };
        let of =
            |name: &InterfaceName| readings.iter().find(|(_, one)| one.name.value() == Some(name));
        let mut speeds = Vec::new();
        for member in members {
            let Some((at, one)) = of(member) else { continue };
            if let Some(speed) = see!(it, at, one.speed_mbps) {
                speeds.push((speed, at, one));
            }
        }
        let Some(most) = speeds.iter().map(|(speed, ..)| *speed).max() else { continue };
        for (speed, at, one) in speeds.iter().filter(|(speed, ..)| *speed < most) {
            let says = format!("{speed} Mb/s, another member of {} {most} Mb/s", text(&bond.name));
            it.finds(**one, at, &["speed_mbps"], says);
        }
    }
}
