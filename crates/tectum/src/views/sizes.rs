//! Sizes and other numbers as people read them.

use crate::args::Units;

/// A size in the units asked for.
pub(crate) fn size(bytes: u64, units: Units) -> String {
    match units {
        Units::Iec => scaled(bytes, 1024, &["bytes", "KiB", "MiB", "GiB", "TiB", "PiB", "EiB"]),
        Units::Si => decimal(bytes),
        Units::Bytes => format!("{bytes} bytes"),
    }
}

/// A size as disks are sold: powers of 1000.
pub(crate) fn decimal(bytes: u64) -> String {
    scaled(bytes, 1000, &["bytes", "kB", "MB", "GB", "TB", "PB", "EB"])
}

/// Both ways where they differ: as it is sold, and in the units asked for.
pub(crate) fn disk_size(bytes: u64, units: Units) -> String {
    match units {
        Units::Iec => format!("{} ({})", decimal(bytes), size(bytes, Units::Iec)),
        other => size(bytes, other),
    }
}

/// Three significant digits or so; whole numbers without a fraction.
fn scaled(bytes: u64, base: u64, units: &[&str]) -> String {
    let mut unit = 0;
    let mut divisor = 1u64;
    while unit + 1 < units.len() && bytes / divisor >= base {
        divisor = divisor.saturating_mul(base);
        unit += 1;
    }
    let name = units.get(unit).copied().unwrap_or_default();
    if bytes.is_multiple_of(divisor) {
        return format!("{} {name}", bytes / divisor);
    }
    let value = bytes as f64 / divisor as f64;
    let digits = if value < 10.0 { 2 } else { 1 };
    let text = format!("{value:.digits$}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    format!("{text} {name}")
}

/// Units by what the names of fields end in: what they are called, and how many of the field's unit
/// make one.
const UNITS: [(&str, &str, i64); 19] = [
    ("_mhz", "MHz", 1),
    ("_mts", "MT/s", 1),
    ("_mbps", "Mb/s", 1),
    ("_mv", "mV", 1),
    ("_ma", "mA", 1),
    ("_cm", "cm", 1),
    ("_ms", "ms", 1),
    ("_rpm", "rpm", 1),
    ("_bits", "bits", 1),
    ("_seconds", "s", 1),
    ("_percent", "%", 1),
    ("_units", "rack units", 1),
    ("_hundredths", "%", 100),
    ("_millicelsius", "°C", 1000),
    ("_microvolts", "V", 1_000_000),
    ("_microwatts", "W", 1_000_000),
    ("_microjoules", "J", 1_000_000),
    ("_microwatt_hours", "Wh", 1_000_000),
    ("_microampere_hours", "Ah", 1_000_000),
];

/// A field's name in words, without its unit.
pub(crate) fn field_words(name: &str) -> String {
    let units = UNITS.iter().map(|(suffix, ..)| *suffix).chain(["_bytes"]);
    let bare = units.filter_map(|unit| name.strip_suffix(unit)).find(|bare| !bare.is_empty());
    bare.unwrap_or(name).replace('_', " ")
}

/// A number of small units as one of large units, with two digits behind the point at the most.
fn in_large_units(value: i64, of: i64) -> String {
    let hundredths = i128::from(value) * 100 / i128::from(of.max(1));
    let sign = if hundredths < 0 { "-" } else { "" };
    let (whole, part) = (hundredths.abs() / 100, hundredths.abs() % 100);
    let text = format!("{sign}{whole}.{part:02}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// A field's value as people read it, by the unit in the field's name; disks are also told by the
/// size they are sold by.
pub(crate) fn by_field_name(part: &str, field: &str, value: &serde_json::Value) -> String {
    let number = value.as_u64();
    let unit = |suffix: &str| number.filter(|_| field.ends_with(suffix));
    if let Some(bytes) = unit("_bytes") {
        return if part == "disk" { disk_size(bytes, Units::Iec) } else { size(bytes, Units::Iec) };
    }
    let unit = UNITS.iter().find(|(suffix, ..)| field.ends_with(suffix));
    if let (Some((_, name, of)), Some(value)) = (unit, value.as_i64()) {
        return format!("{} {name}", in_large_units(value, *of));
    }
    match value {
        serde_json::Value::Null => "nothing".to_owned(),
        serde_json::Value::Bool(true) => "yes".to_owned(),
        serde_json::Value::Bool(false) => "no".to_owned(),
        serde_json::Value::String(text) => text.clone(),
        serde_json::Value::Array(list) if list.is_empty() => "none".to_owned(),
        serde_json::Value::Array(list) if list.iter().all(serde_json::Value::is_u64) => {
            let numbers: Vec<u64> = list.iter().filter_map(serde_json::Value::as_u64).collect();
            tectum_core::formats::number_list::write(&numbers)
        }
        serde_json::Value::Array(list) => {
            let items: Vec<String> =
                list.iter().map(|item| by_field_name(part, "", item)).collect();
            items.join(", ")
        }
        other => other.to_string(),
    }
}

/// A count with its noun.
pub(crate) fn count(number: usize, one: &str, many: &str) -> String {
    if number == 1 { format!("1 {one}") } else { format!("{number} {many}") }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(0, "0 bytes")]
    #[case(1023, "1023 bytes")]
    #[case(1024, "1 KiB")]
    #[case(34_359_738_368, "32 GiB")]
    #[case(500_107_862_016, "465.8 GiB")]
    #[case(u64::MAX, "16 EiB")]
    fn binary_sizes(#[case] bytes: u64, #[case] text: &str) {
        assert_eq!(size(bytes, Units::Iec), text);
    }

    #[rstest]
    #[case("temperature_millicelsius", 38_850, "38.85 °C")]
    #[case("minimum_millicelsius", -500, "-0.5 °C")]
    #[case("health_hundredths", 9000, "90 %")]
    #[case("speed_mbps", 25_000, "25000 Mb/s")]
    #[case("maximum_rpm", 1200, "1200 rpm")]
    #[case("cycles", 7, "7")]
    fn units_by_field(#[case] field: &str, #[case] value: i64, #[case] text: &str) {
        assert_eq!(by_field_name("part", field, &value.into()), text);
    }

    #[rstest]
    #[case(500_107_862_016, "500.1 GB")]
    #[case(960_197_124_096, "960.2 GB")]
    #[case(4_000_000_000_000, "4 TB")]
    fn decimal_sizes(#[case] bytes: u64, #[case] text: &str) {
        assert_eq!(decimal(bytes), text);
    }
}
