//! Network ports that counted errors.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "network-port-errors",
    severity: Severity::Warning,
    title: "network port with errors",
    reads: &[
        "readings.network.interfaces.*.receive_errors",
        "readings.network.interfaces.*.transmit_errors",
        "network.interfaces.*.physical",
    ],
    matters: "Packets were lost: a bad cable or module, a duplex that does not fit, a queue that is too short.",
    action: "Watch whether the number grows; then change cable, module and port one by one.",
    reference: "Documentation/networking/statistics.rst",
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
        let received = see!(it, at, one.receive_errors).copied().unwrap_or(0);
        let sent = see!(it, at, one.transmit_errors).copied().unwrap_or(0);
        if received > 0 || sent > 0 {
            let says = format!("errors since it is there: received {received}, sent {sent}");
            it.finds(*one, at, &["receive_errors", "transmit_errors"], says);
        }
    }
}
