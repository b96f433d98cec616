//! Sensors beyond the limit at which damage begins.

use super::sensors::{Sensor, amount, limit, sensors};
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "sensor-beyond-critical",
    severity: Severity::Critical,
    title: "sensor beyond its critical limit",
    reads: &["readings.sensors.channels.*.value", "sensors.chips.*.channels.*.critical"],
    matters: "The part that it watches is about to be damaged or turned off.",
    action: "Look at what it watches at once: fans, air flow, load.",
    reference: "Documentation/hwmon/sysfs-interface.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    for Sensor { own_at, channel, at, now } in sensors(it) {
        let Some(limit) = limit(it, &own_at, "critical", &channel.critical) else { continue };
        let Some(value) = see!(it, &at, now.value) else { continue };
        if value.0 >= limit {
            let seen = it.seen(now, &at, "value").into_iter();
            let seen = seen.chain(it.seen(channel, &own_at, "critical")).collect();
            let kind = channel.kind.value();
            let (is, not) = (amount(kind, value.0), amount(kind, limit));
            it.finds_by(channel, &own_at, seen, format!("{is}, and {not} must not be reached"));
        }
    }
}
