//! Network ports that run at half duplex.

use super::ports::{Port, physical};
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
    for Port { at, now } in physical(it) {
        if see!(it, &at, now.duplex).is_some_and(|duplex| &**duplex == "half") {
            it.finds(now, &at, &["duplex", "speed_mbps"], "it runs at half duplex");
        }
    }
}
