//! Sensors below or above their limits, or with an alarm.

use super::sensors::{Sensor, amount, limit, sensors};
use crate::fact::Why;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

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
    for Sensor { own_at, channel, at, now } in sensors(it) {
        let least = limit(it, &own_at, "min", &channel.min);
        let most = limit(it, &own_at, "max", &channel.max);
        // Chips raise alarms for inputs that nothing is connected to and nobody set a limit for.
        if least.unwrap_or(0) == 0 && most.is_none() {
            continue;
        }
        let raised = match now.alarm.missing().map(|gap| gap.why) {
            Some(Why::NotProvided) => false,
            _ => see!(it, &at, now.alarm) == Some(&true),
        };
        let value = see!(it, &at, now.value).map(|value| value.0);
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
        let seen = it.seen(now, &at, "value").into_iter();
        let seen = seen.chain(it.seen(channel, &own_at, field)).collect();
        it.finds_by(channel, &own_at, seen, says);
    }
}
