//! Network ports that counted errors.

use super::ports::{Port, physical};
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
    for Port { at, now } in physical(it) {
        let received = see!(it, &at, now.receive_errors).copied().unwrap_or(0);
        let sent = see!(it, &at, now.transmit_errors).copied().unwrap_or(0);
        let many = |errors: u64, packets: Option<&u64>| {
            let least = u128::from(it.limits().network_errors_per_million);
            let packets = u128::from(packets.copied().unwrap_or(0));
            errors > 0 && u128::from(errors) * 1_000_000 >= packets * least
        };
        if many(received, now.received_packets.value()) || many(sent, now.sent_packets.value()) {
            let says = format!("errors counted: received {received}, sent {sent}");
            it.finds(now, &at, &["receive_errors", "transmit_errors"], says);
        }
    }
}
