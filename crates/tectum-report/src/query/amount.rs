//! Amounts as people write them: `4TB`, `32 GiB`, `2.5 GHz`, `80 °C`, compared exactly with the numbers
//! of a unit.

use std::cmp::Ordering;

use crate::leaf::Unit;

/// An amount: a fraction, and whether it is of the base of its unit (bytes, hertz, seconds) or of the
/// unit in which a field counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Amount {
    number: i128,
    of: i128,
    in_base: bool,
}

/// Prefixes of units, and how many one is, as a fraction.
const PREFIXES: [(&str, i128, i128); 18] = [
    ("", 1, 1),
    ("n", 1, 1_000_000_000),
    ("µ", 1, 1_000_000),
    ("u", 1, 1_000_000),
    ("m", 1, 1000),
    ("c", 1, 100),
    ("k", 1000, 1),
    ("K", 1000, 1),
    ("M", 1_000_000, 1),
    ("G", 1_000_000_000, 1),
    ("T", 1_000_000_000_000, 1),
    ("P", 1_000_000_000_000_000, 1),
    ("E", 1_000_000_000_000_000_000, 1),
    ("Ki", 1 << 10, 1),
    ("Mi", 1 << 20, 1),
    ("Gi", 1 << 30, 1),
    ("Ti", 1 << 40, 1),
    ("Pi", 1 << 50, 1),
];

/// The symbols of a base unit, each with how many of it one is.
fn symbols(base: &str) -> &'static [(&'static str, i128)] {
    match base {
        "bytes" => &[("B", 1), ("bytes", 1), ("byte", 1)],
        "hertz" => &[("Hz", 1)],
        "transfers_per_second" => &[("T/s", 1)],
        "bits_per_second" => &[("b/s", 1), ("bit/s", 1), ("bps", 1)],
        "volts" => &[("V", 1)],
        "amperes" => &[("A", 1)],
        "meters" => &[("m", 1)],
        "watts" => &[("W", 1)],
        "joules" => &[("J", 1), ("Wh", 3600)],
        "seconds" => &[("s", 1), ("min", 60), ("h", 3600), ("d", 86_400)],
        "celsius" => &[("°C", 1), ("C", 1)],
        "ratio" => &[("%", 1)],
        "revolutions_per_minute" => &[("rpm", 1)],
        "rack_units" => &[("U", 1)],
        "coulombs" => &[("Ah", 3600)],
        "lanes" => &[("lanes", 1), ("lane", 1)],
        "bits" => &[("bits", 1), ("bit", 1)],
        _ => &[],
    }
}

/// Whether a text is a number, with or without a unit of this base behind it.
pub(super) fn amount(text: &str, unit: Option<&Unit>) -> Option<Amount> {
    let text = text.trim();
    let end = text
        .char_indices()
        .find(|(at, c)| !(c.is_ascii_digit() || *c == '.' || (*at == 0 && matches!(c, '-' | '+'))))
        .map_or(text.len(), |(at, _)| at);
    let (digits, suffix) = text.split_at(end);
    let (number, of) = decimal(digits)?;
    let suffix = suffix.trim_start();
    if suffix.is_empty() {
        return Some(Amount { number, of, in_base: false });
    }
    let unit = unit?;
    let (base, ..) = unit.base;
    let (times, over) = symbols(base).iter().find_map(|(symbol, many)| {
        let prefix = suffix.strip_suffix(symbol)?;
        let (_, times, over) = PREFIXES.into_iter().find(|(own, ..)| *own == prefix)?;
        Some((times.checked_mul(*many)?, over))
    })?;
    // A percent is a hundredth of the whole that shares are counted of.
    let over = if base == "ratio" { over.checked_mul(100)? } else { over };
    Some(Amount { number: number.checked_mul(times)?, of: of.checked_mul(over)?, in_base: true })
}

/// A decimal number as a fraction.
fn decimal(text: &str) -> Option<(i128, i128)> {
    let (whole, part) = text.split_once('.').unwrap_or((text, ""));
    if part.len() > 15 || whole.len() > 20 || part.contains('.') {
        return None;
    }
    let digits = format!("{whole}{part}");
    Some((digits.parse().ok()?, 10i128.checked_pow(u32::try_from(part.len()).ok()?)?))
}

impl Amount {
    /// How a number of a field's units compares with the amount; nothing where the two cannot be
    /// compared exactly.
    pub(super) fn compare(&self, own: i128, unit: Option<&Unit>) -> Option<Ordering> {
        let (times, over) = match unit {
            Some(unit) if self.in_base => (i128::from(unit.base.1), i128::from(unit.base.2)),
            _ => (1, 1),
        };
        let left = own.checked_mul(times)?.checked_mul(self.of)?;
        let right = self.number.checked_mul(over)?;
        Some(left.cmp(&right))
    }

    /// Whether a number of a field's units is the amount, or, where that has a unit, what people write
    /// so: a disk of 4,000,787,030,016 bytes is one of 4 TB. What differs by more than half a percent
    /// is another.
    pub(super) fn is_about(&self, own: i128, unit: Option<&Unit>) -> bool {
        let (Some(unit), true) = (unit, self.in_base) else {
            return self.compare(own, unit).is_some_and(Ordering::is_eq);
        };
        let sides = || {
            let left = own.checked_mul(unit.base.1.into())?.checked_mul(self.of)?;
            let right = self.number.checked_mul(unit.base.2.into())?;
            let apart = left.checked_sub(right)?.checked_abs()?.checked_mul(200)?;
            Some(apart <= right.checked_abs()?)
        };
        sides().unwrap_or(false)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::leaf::{Bytes, KilobitsPerSecond, Megahertz, Millicelsius, Number, Seconds};

    #[rstest]
    #[case("4TB", 4_000_000_000_000, Ordering::Equal)]
    #[case("32GiB", 34_359_738_368, Ordering::Equal)]
    #[case("32 GiB", 34_359_738_367, Ordering::Less)]
    #[case("0.5KiB", 513, Ordering::Greater)]
    #[case("512", 512, Ordering::Equal)]
    #[case("512 bytes", 512, Ordering::Equal)]
    fn data(#[case] text: &str, #[case] bytes: i128, #[case] expected: Ordering) {
        let unit = Some(Bytes::UNIT);
        assert_eq!(amount(text, unit).unwrap().compare(bytes, unit), Some(expected));
    }

    #[rstest]
    #[case("2.5GHz", 2500, Megahertz::UNIT)]
    #[case("100 Mb/s", 100_000, KilobitsPerSecond::UNIT)]
    #[case("49.5°C", 49_500, Millicelsius::UNIT)]
    #[case("2h", 7200, Seconds::UNIT)]
    #[case("7200", 7200, Seconds::UNIT)]
    fn other_quantities(#[case] text: &str, #[case] number: i128, #[case] unit: &'static Unit) {
        let unit = Some(unit);
        assert_eq!(amount(text, unit).unwrap().compare(number, unit), Some(Ordering::Equal));
    }

    #[rstest]
    #[case("4TB", 4_000_787_030_016, true)]
    #[case("960GB", 960_197_124_096, true)]
    #[case("4TB", 3_640_000_000_000, false)]
    #[case("32GiB", 34_359_738_368, true)]
    #[case("34359738368", 34_359_738_369, false)]
    fn what_people_write_so(#[case] text: &str, #[case] bytes: i128, #[case] is: bool) {
        let unit = Some(Bytes::UNIT);
        assert_eq!(amount(text, unit).unwrap().is_about(bytes, unit), is);
    }

    #[rstest]
    #[case("4T")]
    #[case("TB")]
    #[case("1.2.3GB")]
    #[case("4 GHz")]
    #[case("")]
    #[case("99999999999999999999999999")]
    fn what_is_no_amount_of_data(#[case] text: &str) {
        assert_eq!(amount(text, Some(Bytes::UNIT)), None);
    }
}
