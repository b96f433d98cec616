//! Sensors below or above their limits, or with an alarm.

use crate::fact::Why;
use crate::finding::rules::sensor_words::amount;
use crate::finding::rules::sensor_words::limit;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::ChannelReading;

pub(super) static RULE: Rule = Rule {
    id: "sensor-outside-limits",
    severity: Severity::Warning,
    title: "sensor outside its limits",
    reads: &[
        "readings.sensors.channels.*.value",
        "readings.sensors.channels.*.alarm",
        "sensors.chips.*.channels.*.min",
        "sensors.chips.*.channels.*.max",
    ],
    matters: "A fan that is too slow, a temperature that is too high, a voltage that is off: what it watches will fail sooner.",
    action: "Look at what it watches; where the limit itself is wrong, set it.",
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
            let least = limit(it, &own_at, "min", &channel.min);
            let most = limit(it, &own_at, "max", &channel.max);
            let raised = match one.alarm.missing().map(|gap| gap.why) {
                Some(Why::NotProvided) => false,
                _ => see!(it, at, one.alarm) == Some(&true),
            };
            if least.is_none() && most.is_none() && !raised {
                continue;
            }
            let value = see!(it, at, one.value).map(|value| value.0);
            let kind = channel.kind.value();
            let below = value.zip(least).filter(|(value, least)| value < least);
            let above = value.zip(most).filter(|(value, most)| value > most);
            let (says, field) = if let Some((value, least)) = below {
                (format!("{}, less than {}", amount(kind, value), amount(kind, least)), "min")
            } else if let Some((value, most)) = above {
                (format!("{}, more than {}", amount(kind, value), amount(kind, most)), "max")
            } else if raised {
                ("the chip raises an alarm".to_owned(), "kind")
            } else {
                continue;
            };
            let seen = it.seen(*one, at, "value").into_iter();
            let seen = seen.chain(it.seen(channel, &own_at, field)).collect();
            it.finds_by(channel, &own_at, seen, says);
        }
    }
}
