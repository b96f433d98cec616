//! Texts that firmware carries instead of an answer.

/// Fillers compared without regard to case, blanks and punctuation.
const FILLERS: &[&str] = &[
    "tobefilledbyoem",
    "tobefilledbymanufacturer",
    "tobefilled",
    "filledbyoem",
    "fillbyoem",
    "oem",
    "byoem",
    "oemserialnumber",
    "defaultstring",
    "default",
    "notspecified",
    "unspecified",
    "notavailable",
    "notapplicable",
    "notprovided",
    "notpresent",
    "notdefined",
    "undefined",
    "notsettable",
    "none",
    "null",
    "na",
    "nil",
    "unknown",
    "unknow",
    "empty",
    "placeholder",
    "invalid",
    "tbd",
    "noasset",
    "noassettag",
    "noassetinformation",
    "assettag",
    "noserial",
    "noserialnumber",
    "serialnumber",
    "partnumber",
    "nodimm",
    "systemmanufacturer",
    "systemproductname",
    "systemserialnumber",
    "systemversion",
    "systemsku",
    "systemskunumber",
    "systemfamily",
    "productname",
    "chassismanufacturer",
    "chassisserialnumber",
    "chassisversion",
    "chassisassettag",
    "baseboardserialnumber",
    "baseboardassettag",
    "baseboardversion",
    "boardserialnumber",
    "boardassettag",
    "manufacturer",
    "sku",
    "family",
];

/// Digits as they are typed where nobody knew any.
const COUNTED: &str = "012345678901234567890";

/// Fillers that stand with a short number behind them.
const NUMBERED: &[&str] = &[
    "assettagnum",
    "assettagnumber",
    "assettag",
    "banklabel",
    "devicename",
    "manufacturer",
    "modulepartnumber",
    "modulemanufacturer",
    "modulemanufacturerid",
    "moduleserialnumber",
    "partnum",
    "partnumber",
    "productname",
    "sernum",
    "serialnum",
    "serialnumber",
    "serial",
    "skunumber",
    "version",
];

/// Whether a text is one that firmware carries where nobody filled in an answer.
///
/// A text of one character over and over that is no letter (`00000000`, `........`, `-`) counts as
/// filler too, and so does one of nothing but `x` or `f`, as blank memory is written.
///
/// ```
/// assert!(tectum_smbios::is_filler("To be filled by O.E.M."));
/// assert!(tectum_smbios::is_filler("00000000"));
/// assert!(tectum_smbios::is_filler("SerNum0"));
/// assert!(!tectum_smbios::is_filler("FK-R7-004417"));
/// assert!(!tectum_smbios::is_filler("0"), "a single digit may well be a version");
/// ```
pub fn is_filler(text: &str) -> bool {
    let trimmed = text.trim();
    let mut characters = trimmed.chars();
    if let Some(first) = characters.next() {
        let repeated = characters.all(|character| character == first);
        let blank = !first.is_alphanumeric()
            || (matches!(first, '0' | 'x' | 'X' | 'f' | 'F') && trimmed.len() >= 4);
        if repeated && blank {
            return true;
        }
    }
    let folded: String = trimmed
        .chars()
        .filter(|character| character.is_alphanumeric())
        .flat_map(char::to_lowercase)
        .collect();
    if FILLERS.contains(&folded.as_str()) {
        return true;
    }
    is_counted(&folded) || is_numbered(trimmed)
}

/// Whether a text is digits in a row (`1234567890`), perhaps behind a few letters (`SSN12345678901234567`).
fn is_counted(folded: &str) -> bool {
    let digits = folded.trim_start_matches(|sign: char| sign.is_ascii_lowercase());
    let letters = folded.len() - digits.len();
    // So short a row may well be somebody's number.
    digits.len() >= if letters == 0 { 8 } else { 10 } && letters <= 5 && COUNTED.contains(digits)
}

/// Whether a text is what evaluation firmware numbers where nobody filled anything in: `Manufacturer0`, `SerNum1`, and
/// with the place before it `A1_PartNum0`.
fn is_numbered(text: &str) -> bool {
    let (place, name) = text.rsplit_once('_').unwrap_or(("", text));
    let folded: String = name
        .chars()
        .filter(|character| character.is_alphanumeric())
        .flat_map(char::to_lowercase)
        .collect();
    let noun = folded.trim_end_matches(|sign: char| sign.is_ascii_digit());
    let digits = folded.len() - noun.len();
    (1..=2).contains(&digits)
        && NUMBERED.contains(&noun)
        && !name.contains('.')
        && place.split('_').all(is_place)
}

/// Whether a text may say where something sits: `A1`, `DIMM`, `Array1`; nothing does too.
fn is_place(text: &str) -> bool {
    let letters = text.trim_end_matches(|sign: char| sign.is_ascii_digit());
    text.len() <= 8 && letters.chars().all(|sign| sign.is_ascii_alphabetic())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("Fill By OEM")]
    #[case("To Be Filled By O.E.M.")]
    #[case("Default string")]
    #[case("Base Board Asset Tag")]
    #[case("Chassis Serial Number")]
    #[case("1234567890")]
    #[case("0123456789")]
    #[case("123456789")]
    #[case("12345678")]
    #[case("SSN12345678901234567")]
    #[case("MB-1234567890")]
    #[case("Asset-1234567890")]
    #[case("SerNum00")]
    #[case("Manufacturer0")]
    #[case("ModulePartNumber01")]
    #[case("A1_SerNum0")]
    #[case("Array1_PartNumber0")]
    #[case("DIMM_B2_AssetTagNum3")]
    #[case("Asset Tag 1")]
    #[case("xxxxxxxx")]
    #[case("........")]
    fn what_nobody_filled_in(#[case] text: &str) {
        assert!(is_filler(text), "{text}");
    }

    /// What somebody wrote is told, and in a copy to share it is not left as it is.
    #[rstest]
    #[case("FK-R7-004417")]
    #[case("0")]
    #[case("1234567")]
    #[case("123456788")]
    #[case("LW-12345678")]
    #[case("SERIAL0012345")]
    #[case("Asset Tag 4711")]
    #[case("Version 1.0")]
    #[case("Version 2.17")]
    #[case("RACK-B07_SerNum1")]
    #[case("1A-2_PartNum0")]
    #[case("QA_12")]
    fn what_somebody_wrote(#[case] text: &str) {
        assert!(!is_filler(text), "{text}");
    }
}
