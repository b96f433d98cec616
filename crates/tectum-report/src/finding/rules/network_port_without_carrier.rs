//! Network ports that are up and have no carrier.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "network-port-without-carrier",
    severity: Severity::Notice,
    title: "network port without a carrier",
    reads: &["readings.network.interfaces.*.carrier", "network.interfaces.*.physical"],
    matters: "Nothing comes in or goes out there: no cable, a dead switch port, or simply a port that is not used.",
    action: "Look at the cable and the switch; take ports that are not used down, so that they are not told.",
    reference: "Documentation/ABI/testing/sysfs-class-net",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(network) = it.section(&it.report().inventory.network, "/inventory/network") else {
        return;
    };
    let Some(now) = it.section(&it.report().readings.network, "/readings/network") else { return };
    let readings = it.parts(&now.interfaces, "/readings/network/interfaces");
    for (own_at, port) in it.parts(&network.interfaces, "/inventory/network/interfaces") {
        let physical = see!(it, &own_at, port.physical) == Some(&true);
        let reading = readings.iter().find(|(_, one)| one.name.value() == port.name.value());
        let (true, Some((at, one))) = (physical, reading) else { continue };
        if see!(it, at, one.carrier) == Some(&false) {
            it.finds(*one, at, &["carrier", "state"], "it is up and has no carrier");
        }
    }
}
