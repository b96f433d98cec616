//! Numbers as kernel files write them.

/// A decimal integer, blanks around it ignored.
pub fn decimal(text: &str) -> Option<u64> {
    text.trim().parse().ok()
}

/// A decimal integer that may be negative.
pub fn signed(text: &str) -> Option<i64> {
    text.trim().parse().ok()
}

/// A temperature in thousandths of a degree Celsius that something can have. Absolute zero and tens of
/// thousands of degrees are how devices write that they have no such limit (NVM Express Base
/// Specification, features "temperature threshold": 0 K and 65,535 K).
pub fn millicelsius(text: &str) -> Option<i64> {
    signed(text).filter(|value| (-273_000..=2_000_000).contains(value))
}

/// A clock rate in kilohertz that a processor can have; the largest number that fits is how some
/// drivers write that there is no limit.
pub fn kilohertz(text: &str) -> Option<u64> {
    decimal(text).filter(|value| *value < 100_000_000)
}

/// A hexadecimal integer, with or without `0x`.
pub fn hexadecimal(text: &str) -> Option<u64> {
    let text = text.trim();
    let digits = text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")).unwrap_or(text);
    // A sign would be taken by the standard library's parser.
    if digits.starts_with('+') {
        return None;
    }
    u64::from_str_radix(digits, 16).ok()
}

/// `0` or `1`, as flags in sysfs are written.
pub fn flag(text: &str) -> Option<bool> {
    match text.trim() {
        "0" => Some(false),
        "1" => Some(true),
        _ => None,
    }
}

/// A size such as `32K`, `12288K` or `2M`, in bytes (`/sys/devices/system/cpu/cpu*/cache`).
pub fn size_with_unit(text: &str) -> Option<u64> {
    let text = text.trim();
    let (digits, shift) = match text.as_bytes().last()? {
        b'K' => (text.strip_suffix('K')?, 10),
        b'M' => (text.strip_suffix('M')?, 20),
        b'G' => (text.strip_suffix('G')?, 30),
        _ => (text, 0),
    };
    digits.parse::<u64>().ok()?.checked_mul(1 << shift)
}

/// A count of kibibytes such as `2001564 kB`, in bytes (`/proc/meminfo`).
pub fn kibibytes(text: &str) -> Option<u64> {
    let digits = text.trim().strip_suffix("kB")?.trim_end();
    digits.parse::<u64>().ok()?.checked_mul(1024)
}

/// The whole part of a decimal number such as `2499.995`: rounded down.
pub fn whole_part(text: &str) -> Option<u64> {
    let text = text.trim();
    let (whole, fraction) = text.split_once('.').unwrap_or((text, "0"));
    if fraction.is_empty() || !fraction.bytes().all(|byte| byte.is_ascii_digit()) {
        return None;
    }
    whole.parse().ok()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("49850\n", Some(49_850))]
    #[case("-40000", Some(-40_000))]
    #[case("-273150", None)]
    #[case("65261850", None)]
    fn temperatures(#[case] text: &str, #[case] expected: Option<i64>) {
        assert_eq!(millicelsius(text), expected);
    }

    #[rstest]
    #[case("3600000", Some(3_600_000))]
    #[case("9223372036854775807", None)]
    fn clock_rates(#[case] text: &str, #[case] expected: Option<u64>) {
        assert_eq!(kilohertz(text), expected);
    }

    #[rstest]
    #[case("32K", Some(32 << 10))]
    #[case("2M\n", Some(2 << 20))]
    #[case("512", Some(512))]
    #[case("K", None)]
    #[case("", None)]
    #[case("18446744073709551615K", None)]
    #[case("é", None)]
    fn a_size_with_unit_is_exact_or_nothing(#[case] text: &str, #[case] bytes: Option<u64>) {
        assert_eq!(size_with_unit(text), bytes);
    }

    #[rstest]
    #[case("0x1AF4\n", Some(0x1AF4))]
    #[case("ff", Some(255))]
    #[case("0x", None)]
    #[case("+1", None)]
    #[case("0x1ffffffffffffffff", None)]
    fn hexadecimal_takes_a_prefix_or_none(#[case] text: &str, #[case] value: Option<u64>) {
        assert_eq!(hexadecimal(text), value);
    }

    #[rstest]
    #[case("2499.995", Some(2499))]
    #[case("1800", Some(1800))]
    #[case("1.", None)]
    #[case("1.x", None)]
    fn fractions_are_dropped(#[case] text: &str, #[case] value: Option<u64>) {
        assert_eq!(whole_part(text), value);
    }
}
