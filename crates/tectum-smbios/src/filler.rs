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

/// Whether a text is one that firmware carries where nobody filled in an answer.
///
/// A text of one character over and over that is no letter (`00000000`, `........`, `-`) counts as
/// filler too, and so does one of nothing but `x` or `f`, as blank memory is written.
///
/// ```
/// assert!(tectum_smbios::is_filler("To be filled by O.E.M."));
/// assert!(tectum_smbios::is_filler("00000000"));
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
    FILLERS.contains(&folded.as_str())
}
