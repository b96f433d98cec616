//! MAC addresses: the one in use, and the permanent one that is the hardware's own.

use super::interface::Interface;
use crate::readers::{
    devices::{DevicePath, is_usb_device},
    file::File,
    sayings,
};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::MacAddress,
    model::MacOrigin,
};

/// A MAC address. One of zeros is none, and neither is the end of a tunnel, an IP address that the kernel writes in the
/// same way (`net/ipv4/ip_gre.c`: 4 octets; `net/ipv6/ip6_tunnel.c`: 16).
pub(super) fn mac(file: &File) -> Fact<MacAddress> {
    file.text_fact().and_then(|text: MacAddress| {
        if text.chars().all(|c| matches!(c, '0' | ':')) {
            return Err(Gap::new(Why::NotApplicable)
                .hint(saying!("address-zeros-none", "an address of zeros is none")));
        }
        match text.split(':').count() {
            4 | 16 => Err(Gap::new(Why::NotApplicable).hint(saying!(
                "tunnel-end-no-mac-address",
                "it is the IP address of a tunnel's end"
            ))),
            _ => Ok(text),
        }
    })
}

/// The hardware's own address: the one in use where it is that, or what bonding keeps of it.
pub(super) fn permanent_mac(
    one: &Interface<'_>,
    mac: &Fact<MacAddress>,
    origin: &Fact<MacOrigin>,
) -> Fact<MacAddress> {
    if one.device.is_none() {
        return Fact::not_applicable(sayings::NO_DEVICE_STANDS_BEHIND);
    }
    let kept = one.file("bonding_slave/perm_hwaddr");
    if kept.bytes().is_ok() {
        return self::mac(&kept);
    }
    match origin.value() {
        Some(MacOrigin::Hardware) => mac.clone().with_evidence_of(origin),
        Some(_) => Fact::gap(Gap::new(Why::NotProvided).tried(
            format!("{}/addr_assign_type", one.folder).into(),
            saying!(
                "address-use-not-hardware",
                "says that the address in use is not the hardware's",
            ),
        )),
        None => Fact::gap(origin.missing().cloned().unwrap_or(Gap::new(Why::NotProvided))),
    }
}

/// Where a device sits, in a form that does not change with the order of probing.
pub(super) fn parent(device: &DevicePath) -> Option<String> {
    if let Some(usb) = device.last(is_usb_device) {
        return Some(format!("usb {usb}"));
    }
    device.place().or_else(|| device.parts.last().map(|last| format!("platform {last}")))
}
