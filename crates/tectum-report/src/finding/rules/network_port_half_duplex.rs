//! Network ports that run at half duplex.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "network-port-half-duplex",
    severity: Severity::Warning,
    title: "network port at half duplex",
    reads: &["readings.network.interfaces.*.duplex", "network.interfaces.*.physical"],
    matters: "The two ends did not agree on how to talk: collisions, errors, a tenth of the speed.",
    action: "Let both ends negotiate, or set both alike; then look at the cable.",
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
        if see!(it, at, one.duplex).is_some_and(|duplex| &**duplex == "half") {
            it.finds(*one, at, &["duplex", "speed_mbps"], "it runs at half duplex");
        }
    }
}
