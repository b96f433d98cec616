//! Names of PCI functions and classes, by the list of PCI ids that the program carries.

use pci_ids::FromId;

/// A vendor's name.
pub(crate) fn vendor(vendor: u16) -> Option<&'static str> {
    pci_ids::Vendor::from_id(vendor).map(pci_ids::Vendor::name)
}

/// A device's name.
pub(crate) fn device(vendor: u16, device: u16) -> Option<&'static str> {
    pci_ids::Device::from_vid_pid(vendor, device).map(pci_ids::Device::name)
}

/// A subsystem's name.
pub(crate) fn subsystem(
    vendor: u16,
    device: u16,
    sub_vendor: u16,
    sub_device: u16,
) -> Option<&'static str> {
    let device = pci_ids::Device::from_vid_pid(vendor, device)?;
    device
        .subsystems()
        .find(|entry| entry.subvendor() == sub_vendor && entry.subdevice() == sub_device)
        .map(pci_ids::SubSystem::name)
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
    let [_, class, subclass, interface] = code.to_be_bytes();
    let sub = pci_ids::Subclass::from_cid_sid(class, subclass);
    ClassWords {
        class: pci_ids::Class::from_id(class).map(pci_ids::Class::name),
        subclass: sub.map(pci_ids::Subclass::name),
        interface: sub.and_then(|sub| {
            sub.prog_ifs().find(|it| it.id() == interface).map(pci_ids::ProgIf::name)
        }),
    }
}
