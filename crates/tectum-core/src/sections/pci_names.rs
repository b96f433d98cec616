//! Names of PCI functions, by the list of PCI ids that the program carries.

use pci_ids::FromId;

/// A vendor's name.
pub(super) fn vendor(vendor: u16) -> Option<&'static str> {
    pci_ids::Vendor::from_id(vendor).map(pci_ids::Vendor::name)
}

/// A device's name.
pub(super) fn device(vendor: u16, device: u16) -> Option<&'static str> {
    pci_ids::Device::from_vid_pid(vendor, device).map(pci_ids::Device::name)
}

/// A function's name: the device's with its vendor's before it, or the vendor's alone.
pub(super) fn function(vendor: u16, device: u16) -> Option<String> {
    let maker = self::vendor(vendor)?;
    Some(match self::device(vendor, device) {
        Some(name) => format!("{maker} {name}"),
        None => format!("{maker}, device {device:04x}"),
    })
}
