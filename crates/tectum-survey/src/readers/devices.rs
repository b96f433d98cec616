//! Where devices sit: what a device's path in `/sys/devices` says of the buses on the way.

use std::path::Path;

use crate::source::{Lease, bytes_text, path_text};
use std::os::unix::ffi::OsStrExt;
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::Term,
};

/// A device's path in `/sys/devices`, all links followed.
pub(crate) struct DevicePath {
    /// The path, as text.
    pub(crate) path: String,
    /// Its parts.
    pub(crate) parts: Vec<String>,
}

impl DevicePath {
    /// The device that a link of sysfs leads to.
    pub(crate) fn follow(lease: &Lease, link: &str) -> Result<Self, Gap> {
        let target = lease
            .resolve(Path::new(link))
            .map_err(|error| crate::readers::file::refused(&error))?;
        Ok(Self {
            path: path_text(&target).into_owned(),
            parts: target.iter().map(|part| bytes_text(part.as_bytes()).into_owned()).collect(),
        })
    }

    /// The address of the last PCI function on the way.
    pub(crate) fn pci_address(&self) -> Option<&str> {
        self.parts.iter().rev().map(String::as_str).find(|part| is_pci_address(part))
    }

    /// The part that stands below the last one for which `test` holds.
    pub(crate) fn below(&self, test: impl Fn(&str) -> bool) -> Option<&str> {
        let at = self.parts.iter().rposition(|part| test(part))?;
        self.parts.get(at + 1).map(String::as_str)
    }

    /// The last part for which `test` holds.
    pub(crate) fn last(&self, test: impl Fn(&str) -> bool) -> Option<&str> {
        self.parts.iter().rev().map(String::as_str).find(|part| test(part))
    }

    /// The path down to and with the last part for which `test` holds.
    pub(crate) fn down_to(&self, test: impl Fn(&str) -> bool) -> Option<String> {
        let at = self.parts.iter().rposition(|part| test(part))?;
        let parts = self.parts.get(1..=at)?;
        Some(parts.iter().fold(String::new(), |path, part| path + "/" + part))
    }

    /// A fact read off the path.
    pub(crate) fn fact(&self, link: &str, rule: Saying, value: Option<String>) -> Fact<Term> {
        match value {
            Some(value) => Fact::known(
                Term(value),
                Evidence::new(link.into(), rule).place("link").raw(&self.path),
            ),
            None => Fact::gap(
                Gap::new(Why::NotProvided).tried(
                    link.into(),
                    Saying::new(
                        "leads-names-no-such-place",
                        "leads to {}, which names no such place",
                    )
                    .with(self.path.to_string()),
                ),
            ),
        }
    }
}

/// Why a device is not asked for what it measures: it sleeps, and asking would wake it
/// (`Documentation/ABI/testing/sysfs-devices-power`).
pub(crate) fn sleeps(lease: &Lease, folder: &str) -> Option<Gap> {
    let file = crate::readers::file::File::read(lease, format!("{folder}/power/runtime_status"));
    (file.text().trim() == "suspended").then(|| {
        Gap::new(Why::NotProvided)
            .tried(
                std::sync::Arc::clone(file.path()),
                Saying::new("device-sleeps", "says that the device sleeps"),
            )
            .hint(Saying::new("reading-would-wake", "reading would wake it"))
    })
}

/// Whether a name is a PCI function's: `0000:00:1f.2`.
pub(crate) fn is_pci_address(name: &str) -> bool {
    let Some((rest, function)) = name.rsplit_once('.') else { return false };
    let mut parts = rest.split(':');
    let hex = |part: Option<&str>, from: usize, to: usize| {
        part.is_some_and(|part| {
            (from..=to).contains(&part.len()) && part.bytes().all(|byte| byte.is_ascii_hexdigit())
        })
    };
    hex(parts.next(), 4, 8)
        && hex(parts.next(), 2, 2)
        && hex(parts.next(), 2, 2)
        && parts.next().is_none()
        && matches!(function.as_bytes(), [b'0'..=b'7'])
}

/// Whether a name is a prefix with a number behind it: `host7`.
pub(crate) fn is_numbered(name: &str, prefix: &str) -> bool {
    name.strip_prefix(prefix)
        .is_some_and(|rest| !rest.is_empty() && rest.bytes().all(|byte| byte.is_ascii_digit()))
}

/// Whether a name is a USB device's below a root hub: `2-1.4`.
pub(crate) fn is_usb_device(name: &str) -> bool {
    let Some((bus, ports)) = name.split_once('-') else { return false };
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    digits(bus) && ports.split('.').all(digits)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("0000:00:1f.2", true)]
    #[case("10000:e1:00.0", true)]
    #[case("pci0000:00", false)]
    #[case("0000:00:1f.8", false)]
    #[case("1c130600.virtio_mmio", false)]
    #[case("1:0:0:0", false)]
    fn pci_addresses_are_told_from_other_names(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_pci_address(name), is);
    }

    #[rstest]
    #[case("2-1", true)]
    #[case("3-1.4.2", true)]
    #[case("2-1:1.0", false)]
    #[case("usb2", false)]
    fn usb_devices_are_told_from_other_names(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_usb_device(name), is);
    }
}
