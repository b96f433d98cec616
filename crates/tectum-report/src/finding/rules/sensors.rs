//! Sensors with their limits and what they give now, as several rules look at them.

use std::collections::HashMap;

use crate::{
    fact::{Fact, Why},
    finding::judge::Judge,
    leaf::{SensorValue, in_large_units},
    model::{ChannelReading, SensorChannel, SensorKind},
};

/// A sensor, with the pointers to it and to what it gives now.
pub(super) struct Sensor<'a> {
    pub(super) own_at: String,
    pub(super) channel: &'a SensorChannel,
    pub(super) at: String,
    pub(super) now: &'a ChannelReading,
}

/// Every sensor that gives something now.
pub(super) fn sensors<'a>(it: &mut Judge<'a>) -> Vec<Sensor<'a>> {
    let sensors = it.section(&it.report().inventory.sensors, "/inventory/sensors");
    let now = it.section(&it.report().readings.sensors, "/readings/sensors");
    let (Some(sensors), Some(now)) = (sensors, now) else { return Vec::new() };
    let mut readings = HashMap::new();
    for (at, one) in it.parts(&now.channels, "/readings/sensors/channels") {
        if let (Some(chip), Some(channel)) = (one.kernel_name.value(), one.channel.value()) {
            readings.entry((chip.0.as_str(), channel.0.as_str())).or_insert((at, one));
        }
    }
    let mut all = Vec::new();
    for (chip_at, chip) in it.parts(&sensors.chips, "/inventory/sensors/chips") {
        for (own_at, channel) in it.parts(&chip.channels, &format!("{chip_at}/channels")) {
            let names = chip.kernel_name.value().zip(channel.channel.value());
            let reading =
                names.and_then(|(chip, own)| readings.get(&(chip.0.as_str(), own.0.as_str())));
            if let Some((at, now)) = reading {
                all.push(Sensor { own_at, channel, at: at.clone(), now });
            }
        }
    }
    all
}

/// A sensor's limit. Most have none: that the chip gives none hides nothing. An upper limit of 0 is one that
/// nobody set.
pub(super) fn limit(
    it: &mut Judge<'_>,
    at: &str,
    field: &str,
    fact: &Fact<SensorValue>,
) -> Option<i64> {
    if let Some(gap) = fact.missing().filter(|gap| gap.why != Why::NotProvided) {
        it.gap(at, field, gap);
    }
    let value = fact.value().map(|value| value.0);
    value.filter(|value| field == "min" || *value > 0)
}

/// A sensor's value with the unit of its kind (`Documentation/hwmon/sysfs-interface.rst`).
pub(crate) fn amount(kind: Option<&SensorKind>, value: i64) -> String {
    let (per, unit) = match kind {
        Some(SensorKind::Temperature) => (1000, "°C"),
        Some(SensorKind::Fan) => (1, "rpm"),
        Some(SensorKind::Voltage) => (1000, "V"),
        Some(SensorKind::Current) => (1000, "A"),
        Some(SensorKind::Power) => (1_000_000, "W"),
        Some(SensorKind::Energy) => (1_000_000, "J"),
        Some(SensorKind::Humidity) => (1000, "%"),
        _ => (1, ""),
    };
    format!("{} {unit}", in_large_units(value.into(), per)).trim_end().to_owned()
}
