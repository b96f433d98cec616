//! Quantities as people read them, by their units; sizes in the steps that the user chose.

use std::collections::{HashMap, HashSet};

use serde_json::Value;
use tectum_archive::exact::Exact;
use tectum_report::{
    declare::{AnyFact, Record, fact_named},
    leaf::{Bytes, JsonForm, Leaf, Scale, Unit, in_large_units},
    model::SensorKind,
};

use crate::args::Units;

/// A size in the units asked for.
pub(crate) fn size(bytes: Bytes, units: Units) -> String {
    match units {
        Units::Iec => scaled(bytes.0, 1024, &["bytes", "KiB", "MiB", "GiB", "TiB", "PiB", "EiB"]),
        Units::Si => decimal(bytes),
        Units::Exact => format!("{bytes} bytes"),
    }
}

/// A size as disks are sold: powers of 1000.
pub(crate) fn decimal(bytes: Bytes) -> String {
    scaled(bytes.0, 1000, &["bytes", "kB", "MB", "GB", "TB", "PB", "EB"])
}

/// Both ways where they differ: as it is sold, and in the units asked for.
pub(crate) fn disk_size(bytes: Bytes, units: Units) -> String {
    match units {
        Units::Iec => format!("{} ({})", decimal(bytes), size(bytes, Units::Iec)),
        other => size(bytes, other),
    }
}

/// In a narrow place: as disks are sold, but to the last digit where that is asked for.
pub(crate) fn disk_total(bytes: Bytes, units: Units) -> String {
    match units {
        Units::Exact => size(bytes, Units::Exact),
        Units::Iec | Units::Si => decimal(bytes),
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

/// A number of some unit.
fn number(value: i128, unit: &Unit, units: Units) -> String {
    if units == Units::Exact {
        return format!("{value} {}", unit.name);
    }
    match unit.scale {
        Scale::Data => match u64::try_from(value) {
            Ok(bytes) => size(Bytes(bytes), units),
            Err(_) => format!("{value} bytes"),
        },
        Scale::Symbol("", per) => in_large_units(value, per),
        Scale::Symbol(symbol, per) => format!("{} {symbol}", in_large_units(value, per)),
        Scale::Time => time(value, unit),
        Scale::BySensorKind => value.to_string(),
    }
}

/// A length of time in the two largest units that it has.
fn time(value: i128, unit: &Unit) -> String {
    let (_, one, of) = unit.base;
    if of > 1 && value < i128::from(of) {
        let symbol = if of == 1000 { "ms" } else { "µs" };
        return format!("{value} {symbol}");
    }
    let seconds = value * i128::from(one) / i128::from(of.max(1));
    let parts = [(86_400, "d"), (3600, "h"), (60, "min"), (1, "s")];
    let mut rest = seconds;
    let mut said = Vec::new();
    for (length, symbol) in parts {
        let count = rest / length;
        rest %= length;
        if count > 0 {
            said.push(format!("{count} {symbol}"));
        }
    }
    if said.is_empty() {
        return "0 s".to_owned();
    }
    said.truncate(2);
    said.join(" ")
}

/// The unit that a kind of sensor measures in: a symbol, and how many of the report's make one.
pub(crate) fn sensor_unit(kind: SensorKind) -> (&'static str, u64) {
    match kind {
        SensorKind::Temperature => ("°C", 1000),
        SensorKind::Fan => ("rpm", 1),
        SensorKind::Voltage => ("V", 1000),
        SensorKind::Current => ("A", 1000),
        SensorKind::Power => ("W", 1_000_000),
        SensorKind::Energy => ("J", 1_000_000),
        SensorKind::Humidity => ("%", 1000),
    }
}

/// A field's name in words, without its unit, which stands with the value.
pub(crate) fn field_words(name: &str, unit: Option<&Unit>) -> String {
    // A date or a point in time is no unit that a value is written with.
    let unit = unit.filter(|unit| unit.scale != Scale::Symbol("", 1));
    let bare = unit.and_then(|unit| name.strip_suffix(unit.suffix)).filter(|bare| !bare.is_empty());
    bare.unwrap_or(name).replace('_', " ")
}

/// A fact of a record, as people read it; nothing where it is missing.
pub(crate) fn fact(record: &dyn Record, fact: &dyn AnyFact, units: Units) -> Option<String> {
    let json = fact.json()?;
    let shape = fact.leaf_shape();
    if let (Some(Scale::BySensorKind), Some(value)) =
        (shape.unit.map(|unit| &unit.scale), json.as_i64())
        && units != Units::Exact
        && let Some(kind) = fact_named(record, "kind")
            .and_then(AnyFact::text)
            .and_then(|code| SensorKind::from_code(&code))
    {
        let (symbol, per) = sensor_unit(kind);
        return Some(format!("{} {symbol}", in_large_units(i128::from(value), per)));
    }
    // Lists of CPUs and nodes are told as ranges.
    if let (JsonForm::Set(item), None) = (shape.form, shape.unit)
        && matches!(item.form, JsonForm::Unsigned)
    {
        return fact.text().map(|text| if text.is_empty() { "none".to_owned() } else { text });
    }
    Some(value(&json, shape.unit, units))
}

/// A value as people read it, by its unit.
pub(crate) fn value(json: &Value, unit: Option<&Unit>, units: Units) -> String {
    match (json, unit) {
        (Value::Null, _) => "nothing".to_owned(),
        (Value::Bool(true), _) => "yes".to_owned(),
        (Value::Bool(false), _) => "no".to_owned(),
        (Value::String(text), _) => text.clone(),
        (Value::Array(list), _) if list.is_empty() => "none".to_owned(),
        (Value::Array(list), None) if list.iter().all(Value::is_u64) => {
            let numbers: Vec<u64> = list.iter().filter_map(Value::as_u64).collect();
            // Rising numbers are a set, whose neighbours stand as ranges.
            match numbers.is_sorted() {
                true => numbers.to_text(),
                false => numbers.iter().map(u64::to_string).collect::<Vec<_>>().join(", "),
            }
        }
        (Value::Array(list), unit) => {
            let items: Vec<String> = list.iter().map(|item| value(item, unit, units)).collect();
            items.join(", ")
        }
        (Value::Number(own), Some(unit)) => match own.as_i128() {
            Some(own) => number(own, unit, units),
            None => own.to_string(),
        },
        (other, _) => other.to_string(),
    }
}

/// A value that machines were asked for.
fn exact(one: &Exact, units: Units) -> String {
    match one.unit() {
        Some(unit) => value(one.json(), Some(unit), units),
        None => one.text().to_owned(),
    }
}

/// Values that stand beside each other: those that read the same and are not the same are told to the last digit.
pub(crate) fn told_apart(all: &[&Exact], units: Units) -> Vec<String> {
    let told: Vec<String> = all.iter().map(|one| exact(one, units)).collect();
    // What each reads as that reads the same as another one.
    let mut first: HashMap<&str, &Exact> = HashMap::new();
    let mut alike: HashSet<&str> = HashSet::new();
    for (own, words) in all.iter().zip(&told) {
        if *first.entry(words).or_insert(own) != *own {
            alike.insert(words);
        }
    }
    let told_exactly = all.iter().zip(&told).map(|(own, words)| match alike.contains(&**words) {
        true => format!("{words} (exactly {})", own.text()),
        false => words.clone(),
    });
    told_exactly.collect()
}

/// A count with its noun.
pub(crate) fn count(number: usize, one: &str, many: &str) -> String {
    if number == 1 { format!("1 {one}") } else { format!("{number} {many}") }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use tectum_report::leaf::{
        Hundredths, KilobitsPerSecond, Millicelsius, Number, PercentHundredths, Rpm, Seconds,
    };

    use super::*;

    fn quantity<Q: Number>(value: Q, units: Units) -> String {
        number(value.number(), Q::UNIT, units)
    }

    #[rstest]
    #[case(0, "0 bytes")]
    #[case(1023, "1023 bytes")]
    #[case(1024, "1 KiB")]
    #[case(34_359_738_368, "32 GiB")]
    #[case(500_107_862_016, "465.8 GiB")]
    #[case(u64::MAX, "16 EiB")]
    fn binary_sizes(#[case] bytes: u64, #[case] text: &str) {
        assert_eq!(size(Bytes(bytes), Units::Iec), text);
    }

    #[rstest]
    #[case(500_107_862_016, "500.1 GB")]
    #[case(960_197_124_096, "960.2 GB")]
    #[case(4_000_000_000_000, "4 TB")]
    fn decimal_sizes(#[case] bytes: u64, #[case] text: &str) {
        assert_eq!(decimal(Bytes(bytes)), text);
    }

    #[test]
    fn quantities_are_read_in_their_units() {
        let read = |value: &dyn Fn(Units) -> String| value(Units::Iec);
        assert_eq!(read(&|units| quantity(Millicelsius(38_850), units)), "38.85 °C");
        assert_eq!(read(&|units| quantity(Millicelsius(-500), units)), "-0.5 °C");
        assert_eq!(read(&|units| quantity(PercentHundredths(9000), units)), "90 %");
        assert_eq!(read(&|units| quantity(Hundredths(152), units)), "1.52");
        assert_eq!(read(&|units| quantity(KilobitsPerSecond(480_000), units)), "480 Mb/s");
        assert_eq!(read(&|units| quantity(Rpm(1200), units)), "1200 rpm");
        assert_eq!(read(&|units| quantity(Seconds(93_784), units)), "1 d 2 h");
        assert_eq!(
            quantity(Millicelsius(38_850), Units::Exact),
            "38850 thousandths of a degree Celsius"
        );
    }

    #[rstest]
    #[case("size_bytes", Some(Bytes::UNIT), "size")]
    #[case("temperature_millicelsius", Some(Millicelsius::UNIT), "temperature")]
    #[case("load_1_minute_hundredths", Some(Hundredths::UNIT), "load 1 minute")]
    #[case("part_number", None, "part number")]
    fn names_of_fields(#[case] name: &str, #[case] unit: Option<&Unit>, #[case] words: &str) {
        assert_eq!(field_words(name, unit), words);
    }
}
