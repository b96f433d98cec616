//! Lists of vendor and device ids with their names: `pci.ids` and `usb.ids`, as a system has them in
//! `/usr/share`. A line of four hexadecimal digits is a vendor, one behind a tab a device, one behind
//! two tabs a subsystem (PCI) or an interface (USB).

use super::{Line, lines};

/// The version of a list, from its head: `2026.06.01`.
pub fn version(text: &str) -> Option<&str> {
    text.lines()
        .take(30)
        .take_while(|line| line.starts_with('#'))
        .find_map(|line| line.split_once("Version:"))
        .map(|(_, version)| version.trim())
}

/// A line of the list as numbers and a name.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Entry<'a> {
    /// A vendor.
    Vendor(u16, &'a str),
    /// A device of the vendor above.
    Device(u16, &'a str),
    /// A subsystem of the device above: its vendor and number.
    Subsystem(u16, u16, &'a str),
}

/// The vendors, devices and subsystems of a list, in its order; classes and other tables behind them
/// are not read.
pub fn entries(text: &str) -> impl Iterator<Item = (Entry<'_>, Line<'_>)> {
    lines(text)
        .filter(|line| !line.raw.starts_with('#') && !line.raw.is_empty())
        // A table of another kind begins with a letter and a blank: `C 03  Display controller`.
        .take_while(|line| {
            !matches!(line.raw.as_bytes(), [letter, b' ', ..] if letter.is_ascii_uppercase())
        })
        .filter_map(|line| Some((entry(line.raw)?, line)))
}

fn entry(raw: &str) -> Option<Entry<'_>> {
    if let Some(body) = raw.strip_prefix("\t\t") {
        let (vendor, rest) = number(body)?;
        let (device, name) = number(rest.strip_prefix(' ')?)?;
        return Some(Entry::Subsystem(vendor, device, name.trim()));
    }
    match raw.strip_prefix('\t') {
        Some(body) => number(body).map(|(id, name)| Entry::Device(id, name.trim())),
        None => number(raw).map(|(id, name)| Entry::Vendor(id, name.trim())),
    }
}

/// Four hexadecimal digits, and what stands behind them.
fn number(text: &str) -> Option<(u16, &str)> {
    let (digits, rest) = text.split_at_checked(4)?;
    (rest.starts_with(' ') && digits.bytes().all(|byte| byte.is_ascii_hexdigit())).then_some(())?;
    Some((u16::from_str_radix(digits, 16).ok()?, rest))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const LIST: &str = "#\n#\tVersion: 2026.06.01\n#\n\nf5c7  Fathom Displays\n\t0200  FD-200\n\
        \t\tf5c7 0001  Wall panel\nC 03  Display controller\n\t00  VGA\n";

    #[test]
    fn vendors_devices_and_subsystems() {
        assert_eq!(version(LIST), Some("2026.06.01"));
        let all: Vec<Entry<'_>> = entries(LIST).map(|(entry, _)| entry).collect();
        assert_eq!(
            all,
            [
                Entry::Vendor(0xF5C7, "Fathom Displays"),
                Entry::Device(0x0200, "FD-200"),
                Entry::Subsystem(0xF5C7, 1, "Wall panel"),
            ]
        );
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "[0-9a-fC# \t\n]{0,300}") {
            let _ = (version(&text), entries(&text).count());
        }
    }
}
