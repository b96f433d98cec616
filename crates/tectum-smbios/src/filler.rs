//! Texts that firmware carries instead of an answer.

/// Fillers compared without regard to case, blanks and punctuation.
const FILLERS: &[&str] = &[
    "tobefilledbyoem",
    "tobefilledbymanufacturer",
    "tobefilled",
    "filledbyoem",
    "oem",
    "byoem",
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
    "empty",
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
    "productname",
    "chassismanufacturer",
    "chassisserialnumber",
    "chassisversion",
    "baseboardserialnumber",
    "boardserialnumber",
    "manufacturer",
    "sku",
    "family",
    "123456789",
    "0123456789",
    "1234567890",
];

/// Fillers that stand with a number behind them.
const NUMBERED: &[&str] = &[
    "assettagnum",
    "assettag",
    "banklabel",
    "devicename",
    "manufacturer",
    "modulepartnumber",
    "modulemanufacturer",
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
    // Evaluation firmware numbers what nobody filled in: `Manufacturer0`, `SerNum1`.
    let name = folded.trim_end_matches(|c: char| c.is_ascii_digit());
    name.len() < folded.len() && NUMBERED.contains(&name)
}
