//! Names of PCI functions and classes, by the list of PCI ids that the program carries.

use super::id_table::{Numbered, name};

/// A vendor's name.
pub(crate) fn vendor(vendor: u16) -> Option<&'static str> {
    name(Numbered::PciVendor, &[vendor])
}

/// A device's name.
pub(crate) fn device(vendor: u16, device: u16) -> Option<&'static str> {
    name(Numbered::PciDevice, &[vendor, device])
}

/// A subsystem's name.
pub(crate) fn subsystem(
    vendor: u16,
    device: u16,
    sub_vendor: u16,
    sub_device: u16,
) -> Option<&'static str> {
    name(Numbered::PciSubsystem, &[vendor, device, sub_vendor, sub_device])
}

/// A function's name: the device's with its vendor's before it, or the vendor's alone.
pub(crate) fn function(vendor: u16, device: u16) -> Option<String> {
    let maker = self::vendor(vendor)?;
    Some(match self::device(vendor, device) {
        Some(name) => format!("{maker} {name}"),
        None => format!("{maker}, device {device:04x}"),
    })
}

/// The words of a class code: class, subclass, programming interface.
pub(crate) struct ClassWords {
    pub(crate) class: Option<&'static str>,
    pub(crate) subclass: Option<&'static str>,
    pub(crate) interface: Option<&'static str>,
}

/// What a class code says, by the PCI Code and ID Assignment Specification.
pub(crate) fn class(code: u32) -> ClassWords {
    let [_, class, subclass, interface] = code.to_be_bytes().map(u16::from);
    ClassWords {
        class: name(Numbered::PciClass, &[class]),
        subclass: name(Numbered::PciSubclass, &[class, subclass]),
        interface: name(Numbered::PciInterface, &[class, subclass, interface]),
    }
}
