//! What is measured: alarms first, then each thing as a mark between its limits.

use crate::page::{Cell, Page, UNKNOWN};
use tectum_report::leaf::SensorValue;
use tectum_report::model::{ChannelReading, SensorChannel, SensorChip, SensorKind, Sensors};

use super::{View, cell, known, why};
use crate::views::quantity::count;

pub(super) fn print(sensors: &Sensors, view: &View<'_>, page: &mut Page) {
    let nothing =
        sensors.chips.is_empty() && sensors.zones.is_empty() && sensors.power_zones.is_empty();
    let said = page.entry("sensors");
    if let Some(gap) = sensors.chips.gap() {
        said.plain(why(gap));
        return;
    }
    if nothing {
        said.plain("nothing is measured that the kernel knows of");
        return;
    }
    let channels: usize = sensors.chips.iter().map(|chip| chip.channels.len()).sum();
    let said = match (sensors.chips.len(), sensors.zones.len()) {
        (0, 0) => {
            said.strong(count(sensors.power_zones.len(), "meter of energy", "meters of energy"))
        }
        (0, zones) => said.strong(count(zones, "thermal zone", "thermal zones")),
        (chips, _) => said
            .strong(count(channels, "sensor", "sensors"))
            .plain(format!(" on {}", count(chips, "chip", "chips"))),
    };
    said.quiet(warmest(sensors, view).map(|it| format!(", {it}")).unwrap_or_default());
    view.odd("sensors", page);
    if view.drawn {
        drawn(sensors, view, page);
    }
}

fn reading<'a>(
    chip: &SensorChip,
    channel: &SensorChannel,
    view: &'a View<'_>,
) -> Option<&'a ChannelReading> {
    view.readings.channels.of(&[chip, channel])
}

fn label(channel: &SensorChannel) -> String {
    known(&channel.label).unwrap_or_else(|| cell(&channel.channel))
}

/// A number of its kind with a unit that people read.
fn amount(kind: Option<&SensorKind>, value: i64) -> String {
    // A tenth is as fine as anybody reads.
    let tenths = |by: i64| {
        let tenths = value / (by / 10);
        let sign = if tenths < 0 { "-" } else { "" };
        format!("{sign}{}.{}", tenths.abs() / 10, tenths.abs() % 10)
    };
    let hundredths = |by: i64| {
        let parts = value / (by / 100);
        let sign = if parts < 0 { "-" } else { "" };
        format!("{sign}{}.{:02}", parts.abs() / 100, parts.abs() % 100)
    };
    match kind {
        Some(SensorKind::Temperature) => format!("{} °C", tenths(1000)),
        Some(SensorKind::Fan) => format!("{value} rpm"),
        Some(SensorKind::Voltage) => format!("{} V", hundredths(1000)),
        Some(SensorKind::Current) => format!("{} A", hundredths(1000)),
        Some(SensorKind::Power) => format!("{} W", tenths(1_000_000)),
        Some(SensorKind::Energy) => format!("{} J", tenths(1_000_000)),
        Some(SensorKind::Humidity) => format!("{} %", tenths(1000)),
        None => value.to_string(),
    }
}

fn value(channel: &SensorChannel, now: &ChannelReading) -> String {
    match (now.value.value(), now.value.missing()) {
        (Some(value), _) => amount(channel.kind.value(), value.0),
        (None, gap) => gap.map(why).unwrap_or_default(),
    }
}

fn warmest(sensors: &Sensors, view: &View<'_>) -> Option<String> {
    let all = sensors.chips.iter().flat_map(|chip| {
        chip.channels.iter().filter_map(move |channel| {
            let warm = channel.kind.value() == Some(&SensorKind::Temperature);
            let now = reading(chip, channel, view).filter(|_| warm)?;
            Some((*now.value.value()?, label(channel)))
        })
    });
    let (degrees, what) = all.max()?;
    Some(format!("warmest {what} at {}", amount(Some(&SensorKind::Temperature), degrees.0)))
}

/// Where a value stands between nothing (or its lowest) and its highest limit, in ten-thousandths.
fn level(channel: &SensorChannel, now: &ChannelReading) -> Option<u64> {
    let most = channel.critical.value().or(channel.max.value())?;
    let value = now.value.value()?;
    let least = match channel.kind.value() {
        Some(SensorKind::Voltage) => channel.min.value().map_or(0, |least| least.0),
        _ => 0,
    };
    let (span, above) = (most.checked_sub(least)?, value.checked_sub(least)?);
    if span <= 0 {
        return None;
    }
    u64::try_from(i128::from(above.clamp(0, span)) * 10_000 / i128::from(span)).ok()
}

fn drawn(sensors: &Sensors, view: &View<'_>, page: &mut Page) {
    for chip in sensors.chips.iter() {
        page.gap();
        page.beside().strong(cell(&chip.name)).quiet(format!("  of {}", cell(&chip.device)));
        let rows: Vec<Vec<Cell>> = chip
            .channels
            .iter()
            .map(|channel| {
                let limit = |limit: Option<&SensorValue>| {
                    limit.map_or(UNKNOWN.to_owned(), |it| amount(channel.kind.value(), it.0))
                };
                let now = reading(chip, channel, view);
                vec![
                    Cell::from(label(channel)),
                    Cell::from(now.map(|now| value(channel, now)).unwrap_or_default()),
                    Cell::Level(now.and_then(|now| level(channel, now))),
                    Cell::from(limit(channel.min.value())),
                    Cell::from(limit(channel.max.value())),
                    Cell::from(limit(channel.critical.value())),
                ]
            })
            .collect();
        if !rows.is_empty() {
            page.table(&["sensor", ">now", "", ">min", ">max", ">critical"], rows);
        }
    }
    for zone in sensors.zones.iter() {
        let now = view.readings.zones.of(&[zone]);
        let degrees = now.and_then(|now| now.temperature_millicelsius.value());
        let degrees = degrees.map(|it| amount(Some(&SensorKind::Temperature), it.0));
        page.beside()
            .strong(cell(&zone.kind))
            .quiet(format!("  thermal zone, {}", degrees.unwrap_or_else(|| "not told".to_owned())));
    }
    for zone in sensors.power_zones.iter() {
        let cap = zone.limit_microwatts.value().and_then(|it| i64::try_from(it.0).ok());
        let cap = cap.map_or_else(String::new, |it| {
            format!(", capped at {}", amount(Some(&SensorKind::Power), it))
        });
        page.beside().strong(cell(&zone.label)).quiet(format!("  power zone{cap}"));
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(SensorKind::Temperature, 38_850, "38.8 °C")]
    #[case(SensorKind::Temperature, -500, "-0.5 °C")]
    #[case(SensorKind::Voltage, 12_096, "12.09 V")]
    #[case(SensorKind::Power, 38_000_000, "38.0 W")]
    #[case(SensorKind::Fan, 1410, "1410 rpm")]
    fn amounts(#[case] kind: SensorKind, #[case] value: i64, #[case] text: &str) {
        assert_eq!(amount(Some(&kind), value), text);
    }
}
