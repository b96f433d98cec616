//! What rules say of sensors.

use crate::{
    fact::{Fact, Why},
    finding::judge::Judge,
    leaf::{SensorValue, in_large_units},
    model::SensorKind,
};

/// A sensor's limit. Most have none: that the chip gives none hides nothing.
pub(super) fn limit(
    it: &mut Judge<'_>,
    at: &str,
    field: &str,
    fact: &Fact<SensorValue>,
) -> Option<i64> {
    if let Some(gap) = fact.missing().filter(|gap| gap.why != Why::NotProvided) {
        it.gap(at, field, gap);
    }
    fact.value().map(|value| value.0)
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
