//! Bonds of which a member has no carrier.

use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::leaf::InterfaceName;
use crate::model::InterfaceKind;

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
        if members.len() == 1 {
            it.finds(*bond, at, &["members"], "it has a single member");
        }
        for member in members {
            let Some((at, one)) = of(member) else { continue };
            // A member that is down says nothing of its carrier.
            let down = one.state.value().is_some_and(|state| &**state == "down");
            if down || see!(it, at, one.carrier) == Some(&false) {
                let says = format!("without a carrier; a member of {}", text(&bond.name));
                it.finds(*one, at, &["carrier", "state"], says);
            }
        }
    }
}
