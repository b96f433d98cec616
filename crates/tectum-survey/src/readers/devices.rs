//! Where devices sit: what a device's path in `/sys/devices` says of the buses on the way.

use std::path::Path;

use crate::source::{Lease, bytes_text, path_text};
use std::os::unix::ffi::OsStrExt;
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Term,
};

/// A device's path in `/sys/devices`, all links followed.
#[derive(Clone)]
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

    /// The place of the device on the bus that it hangs on, with the bus before it: a PCI function, a
    /// channel-attached device of IBM Z, a device on the virtual bus of Power, a platform device by
    /// the address in its name. Names that follow the order of probing (`virtio1`, `host0`) are no
    /// places, nor are the buses that a platform device stands behind.
    pub(crate) fn place(&self) -> Option<String> {
        let above = std::iter::once("").chain(self.parts.iter().map(String::as_str));
        let pairs: Vec<(&str, &str)> = above.zip(self.parts.iter().map(String::as_str)).collect();
        pairs.into_iter().rev().find_map(|(above, part)| {
            let bus = match above {
                _ if is_pci_address(part) => "pci",
                _ if is_channel_address(part) => "ccw",
                _ if is_addressed_platform_device(part) => "platform",
                "vio" | "platform" => above,
                "pnp0" => "pnp",
                _ => return None,
            };
            Some(format!("{bus} {part}"))
        })
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
                    saying!("leads-names-no-such-place", "leads to {}, which names no such place",)
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
                saying!("device-sleeps", "says that the device sleeps"),
            )
            .hint(saying!("reading-would-wake", "reading would wake it"))
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

/// Whether a name is a channel-attached device's: `0.0.0002`, of channel subsystem, subchannel set and
/// device number (`Documentation/arch/s390/driver-model.rst`).
fn is_channel_address(name: &str) -> bool {
    let parts: Vec<&str> = name.split('.').collect();
    let [system, set, number] = parts[..] else { return false };
    let hex = |text: &str| text.bytes().all(|byte| byte.is_ascii_hexdigit());
    (1..=2).contains(&system.len())
        && set.len() == 1
        && number.len() == 4
        && parts.into_iter().all(hex)
}

/// Whether a name is a platform device's with its address in front: `1c050000.mmc`.
fn is_addressed_platform_device(name: &str) -> bool {
    name.split_once('.').is_some_and(|(address, rest)| {
        address.len() >= 2
            && address.bytes().all(|byte| byte.is_ascii_hexdigit())
            && rest.starts_with(|first: char| first.is_ascii_alphabetic())
    })
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
    #[case("pci0000:00/0000:00:02.0/virtio0/block/vda", Some("pci 0000:00:02.0"))]
    #[case("css0/0.0.0002/0.0.0001/virtio2/block/vda", Some("ccw 0.0.0001"))]
    #[case("vio/71000002/host0/target0:0:0/0:0:0:0/block/sda", Some("vio 71000002"))]
    #[case(
        "platform/1c130600.virtio_mmio/virtio0/block/vda",
        Some("platform 1c130600.virtio_mmio")
    )]
    #[case(
        "platform/bus@8000000/bus@8000000:x/1c050000.mmc/mmc_host/mmc0",
        Some("platform 1c050000.mmc")
    )]
    #[case("platform/LNRO0005:12/virtio3", Some("platform LNRO0005:12"))]
    #[case("platform/coretemp.0/hwmon/hwmon2", Some("platform coretemp.0"))]
    #[case("pnp0/00:04/tty/ttyS0", Some("pnp 00:04"))]
    #[case("virtual/block/loop0", None)]
    fn a_place_is_on_the_last_bus_that_has_places(
        #[case] path: &str,
        #[case] expected: Option<&str>,
    ) {
        let parts = ["/", "sys", "devices"].into_iter().chain(path.split('/'));
        let path = DevicePath {
            path: format!("/sys/devices/{path}"),
            parts: parts.map(str::to_owned).collect(),
        };
        assert_eq!(path.place().as_deref(), expected);
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
