//! Speeds of links as the kernel writes them.

/// A lane's speed such as `8.0 GT/s PCIe`, in millions of transfers a second
/// (`Documentation/ABI/testing/sysfs-bus-pci`).
pub fn transfers(text: &str) -> Option<u64> {
    let (number, unit) = text.trim().split_once(' ')?;
    unit.starts_with("GT/s").then(|| thousandths(number))?
}

/// A bit rate such as `6.0 Gbps` or `12.0 Gbit`, in millions of bits a second
/// (`Documentation/ABI/testing/sysfs-ata`, `sysfs-class-sas_phy`).
pub fn gigabits(text: &str) -> Option<u64> {
    let (number, unit) = text.trim().split_once(' ')?;
    matches!(unit, "Gbps" | "Gbit").then(|| thousandths(number))?
}

/// A bit rate in millions of bits a second such as `480` or `1.5`, in thousands of bits a second
/// (`Documentation/ABI/testing/sysfs-bus-usb`).
pub fn kilobits(text: &str) -> Option<u64> {
    thousandths(text.trim())
}

/// A decimal number in thousandths; what stands behind the third digit is dropped.
fn thousandths(text: &str) -> Option<u64> {
    let (whole, fraction) = text.split_once('.').unwrap_or((text, "0"));
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    if !digits(whole) || !digits(fraction) {
        return None;
    }
    let mut part = 0;
    for place in 0..3 {
        let digit = fraction.as_bytes().get(place).map_or(0, |byte| u64::from(byte - b'0'));
        part = part * 10 + digit;
    }
    whole.parse::<u64>().ok()?.checked_mul(1000)?.checked_add(part)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("2.5 GT/s PCIe", Some(2500))]
    #[case("16.0 GT/s", Some(16_000))]
    #[case("Unknown", None)]
    #[case("Unknown speed", None)]
    #[case("8.0 Gbps", None)]
    fn lanes(#[case] text: &str, #[case] speed: Option<u64>) {
        assert_eq!(transfers(text), speed);
    }

    #[rstest]
    #[case("6.0 Gbps", Some(6000))]
    #[case("12.0 Gbit", Some(12_000))]
    #[case("22.5 Gbit", Some(22_500))]
    #[case("<unknown>", None)]
    fn bit_rates(#[case] text: &str, #[case] rate: Option<u64>) {
        assert_eq!(gigabits(text), rate);
    }

    #[rstest]
    #[case("1.5", Some(1500))]
    #[case("12", Some(12_000))]
    #[case("20000", Some(20_000_000))]
    #[case("", None)]
    #[case("-1", None)]
    fn bus_speeds(#[case] text: &str, #[case] rate: Option<u64>) {
        assert_eq!(kilobits(text), rate);
    }
}
