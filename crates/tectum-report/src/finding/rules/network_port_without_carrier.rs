//! Network ports that are up and have no carrier.

use super::ports::{Port, physical};
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
    for Port { at, now } in physical(it) {
        if see!(it, &at, now.carrier) == Some(&false) {
            it.finds(now, &at, &["carrier", "state"], "it is up and has no carrier");
        }
    }
}
