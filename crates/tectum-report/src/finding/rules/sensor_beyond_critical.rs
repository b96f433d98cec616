//! Sensors beyond the limit at which damage begins.

use crate::finding::rules::sensor_words::amount;
use crate::finding::rules::sensor_words::limit;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::ChannelReading;

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
    let sensors = it.section(&it.report().inventory.sensors, "/inventory/sensors");
    let now = it.section(&it.report().readings.sensors, "/readings/sensors");
    let (Some(sensors), Some(now)) = (sensors, now) else { return };
    let readings = it.parts(&now.channels, "/readings/sensors/channels");
    for (at, chip) in it.parts(&sensors.chips, "/inventory/sensors/chips") {
        for (own_at, channel) in it.parts(&chip.channels, &format!("{at}/channels")) {
            let of = |one: &ChannelReading| {
                one.kernel_name.value() == chip.kernel_name.value()
                    && one.channel.value() == channel.channel.value()
            };
            let Some((at, one)) = readings.iter().find(|(_, one)| of(one)) else { continue };
            // Most sensors have no such limit: that is not a gap in judging.
            let Some(limit) = limit(it, &own_at, "critical", &channel.critical) else { continue };
            let Some(value) = see!(it, at, one.value) else { continue };
            if value.0 >= limit {
                let seen = it.seen(*one, at, "value").into_iter();
                let seen = seen.chain(it.seen(channel, &own_at, "critical")).collect();
                let kind = channel.kind.value();
                let (is, not) = (amount(kind, value.0), amount(kind, limit));
                it.finds_by(channel, &own_at, seen, format!("{is}, and {not} must not be reached"));
            }
        }
    }
}
