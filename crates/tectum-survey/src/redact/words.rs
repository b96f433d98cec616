//! Files of one value: what they may keep.

use tectum_report::leaf::{Identifies, Redact};
use tectum_smbios::{Uuid, is_filler};

/// The most of a file of terms that is kept, in bytes.
const LONGEST_TERM: usize = 64 << 10;

/// Words that stand beside numbers in the kernel's files: units, and that there is none.
const BESIDE_NUMBERS: [&str; 30] = [
    "B",
    "kB",
    "KB",
    "MB",
    "GB",
    "KiB",
    "MiB",
    "GiB",
    "K",
    "M",
    "G",
    "k",
    "ms",
    "us",
    "ns",
    "s",
    "Hz",
    "MHz",
    "GT",
    "Gb",
    "Gbit",
    "Gbps",
    "Mb",
    "PCIe",
    "Unknown",
    "none",
    "max",
    "min",
    "x1",
    "<unknown>",
];

/// Numbers, with their units, and nothing else.
pub(super) fn numbers(text: &str) -> Option<String> {
    let parts = |c: char| c.is_whitespace() || ",;/:()[]-+=".contains(c);
    let number = |word: &str| {
        let digits = word
            .strip_prefix("0x")
            .filter(|hex| !hex.is_empty() && hex.bytes().all(|byte| byte.is_ascii_hexdigit()));
        let decimal = word.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
        word.is_empty() || digits.is_some() || decimal || BESIDE_NUMBERS.contains(&word)
    };
    text.split(parts).all(|word| number(word.trim_matches('\0'))).then(|| text.to_owned())
}

/// Words of a maker's, firmware's or kernel's.
pub(super) fn term(text: &str) -> Option<String> {
    (text.len() <= LONGEST_TERM).then(|| text.to_owned())
}

/// The one value of a file as what it is, blanks around it kept; what says nothing stays.
pub(super) fn value(text: &str, kind: Identifies, by: &dyn Redact) -> String {
    let said = text.trim_matches(|c: char| c.is_whitespace() || c == '\0');
    // An address of zeros is none.
    let zeros = kind == Identifies::Mac && said.bytes().all(|byte| matches!(byte, b'0' | b':'));
    let no_uuid =
        kind == Identifies::Uuid && Uuid::from_text(said).is_some_and(|uuid| uuid.says_nothing());
    // What stands in an image before its first start (machine-id(5)).
    let no_id = kind == Identifies::MachineId && said == "uninitialized";
    if said.is_empty() || is_filler(said) || zeros || no_uuid || no_id {
        return text.to_owned();
    }
    text.replacen(said, &by.text(kind, said), 1)
}

/// The value of a module's parameter, where the survey tells it.
pub(super) fn parameter(text: &str) -> String {
    if crate::sections::is_harmless_parameter(text.trim()) {
        text.to_owned()
    } else {
        "left out\n".to_owned()
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use rstest::rstest;
    use tectum_report::redact::Pseudonyms;

    use super::*;

    /// What nobody filled in names nobody, and a name made up for it would say that somebody did.
    #[rstest]
    #[case(Identifies::Uuid, "03000200-0400-0500-0006-000700080009\n", true)]
    #[case(Identifies::Uuid, "ffffffff-ffff-ffff-ffff-ffffffffffff\n", true)]
    #[case(Identifies::Uuid, "8b0a5d1e-3c57-4f5e-9d1a-77c0a1e4b201\n", false)]
    #[case(Identifies::MachineId, "uninitialized\n", true)]
    #[case(Identifies::MachineId, "00000000000000000000000000000000\n", true)]
    #[case(Identifies::MachineId, "0f5e1c77a1c04d8e9b3a6d2f4c8b1e90\n", false)]
    #[case(Identifies::Serial, "To be filled by O.E.M.\n", true)]
    #[case(Identifies::Serial, "Serial 0012345\n", false)]
    fn what_says_nothing_stays(#[case] kind: Identifies, #[case] text: &str, #[case] stays: bool) {
        let by = Pseudonyms::new(b"key", &BTreeSet::new());
        assert_eq!(value(text, kind, &by) == text, stays);
    }

    #[rstest]
    #[case("42\n", true)]
    #[case("8.0 GT/s PCIe\n", true)]
    #[case("0-3,8\n", true)]
    #[case("0x1af4\n", true)]
    #[case("", true)]
    #[case("deadbeef\n", false)]
    #[case("harbour 7\n", false)]
    #[case("0xharbour", false)]
    fn only_numbers_are_numbers(#[case] text: &str, #[case] kept: bool) {
        assert_eq!(numbers(text).is_some(), kept);
    }
}
