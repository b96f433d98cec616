//! Packs the names of PCI, USB and JEP-106 numbers into one text and one table without pointers, so that a
//! program that looks nothing up does not pay for them when it starts.
//!
//! A record of the table is its key, where its name begins in the text, and how long it is. A key is
//! a byte that says what is numbered and four numbers of 16 bits; records are sorted by key. All
//! numbers are big-endian, so that keys sort as bytes.

use std::{
    collections::{BTreeMap, HashMap},
    env, fs, io,
    path::Path,
};

use usb_ids::FromId;

/// What is numbered; `readers/id_table.rs` has the same.
mod kind {
    pub(super) const PCI_VENDOR: u8 = 1;
    pub(super) const PCI_DEVICE: u8 = 2;
    pub(super) const PCI_SUBSYSTEM: u8 = 3;
    pub(super) const PCI_CLASS: u8 = 4;
    pub(super) const PCI_SUBCLASS: u8 = 5;
    pub(super) const PCI_INTERFACE: u8 = 6;
    pub(super) const USB_VENDOR: u8 = 7;
    pub(super) const USB_DEVICE: u8 = 8;
    pub(super) const USB_CLASS: u8 = 9;
    pub(super) const JEP_106: u8 = 10;
}

fn main() -> io::Result<()> {
    let mut names: BTreeMap<(u8, [u16; 4]), &str> = BTreeMap::new();
    let mut put = |kind: u8, numbers: [u16; 4], name: &'static str| {
        // The first of two with one number stands, as in the lists.
        names.entry((kind, numbers)).or_insert(name);
    };
    for vendor in pci_ids::Vendors::iter() {
        put(kind::PCI_VENDOR, [vendor.id(), 0, 0, 0], vendor.name());
        for device in vendor.devices() {
            put(kind::PCI_DEVICE, [vendor.id(), device.id(), 0, 0], device.name());
            for sub in device.subsystems() {
                let numbers = [vendor.id(), device.id(), sub.subvendor(), sub.subdevice()];
                put(kind::PCI_SUBSYSTEM, numbers, sub.name());
            }
        }
    }
    for class in pci_ids::Classes::iter() {
        let number = u16::from(class.id());
        put(kind::PCI_CLASS, [number, 0, 0, 0], class.name());
        for sub in class.subclasses() {
            let subclass = u16::from(sub.id());
            put(kind::PCI_SUBCLASS, [number, subclass, 0, 0], sub.name());
            for interface in sub.prog_ifs() {
                let numbers = [number, subclass, u16::from(interface.id()), 0];
                put(kind::PCI_INTERFACE, numbers, interface.name());
            }
        }
    }
    for vendor in usb_ids::Vendors::iter() {
        put(kind::USB_VENDOR, [vendor.id(), 0, 0, 0], vendor.name());
        for device in vendor.devices() {
            put(kind::USB_DEVICE, [vendor.id(), device.id(), 0, 0], device.name());
        }
    }
    for class in (0..=u8::MAX).filter_map(usb_ids::Class::from_id) {
        put(kind::USB_CLASS, [u16::from(class.id()), 0, 0, 0], class.name());
    }

    // Without their parity bits.
    for (bank, code) in (0..0x80).flat_map(|bank| (0..0x80).map(move |code| (bank, code))) {
        if let Some(name) = jep106::JEP106Code::new(bank, code).get() {
            put(kind::JEP_106, [u16::from(bank), u16::from(code), 0, 0], name);
        }
    }

    let mut text = String::new();
    let mut table = Vec::new();
    let mut begins: HashMap<&str, u32> = HashMap::new();
    for ((kind, numbers), name) in names {
        let begin = match begins.get(name) {
            Some(begin) => *begin,
            None => {
                let begin = u32::try_from(text.len()).map_err(io::Error::other)?;
                text.push_str(name);
                begins.insert(name, begin);
                begin
            }
        };
        table.push(kind);
        table.extend(numbers.iter().flat_map(|number| number.to_be_bytes()));
        table.extend(begin.to_be_bytes());
        table.extend(u16::try_from(name.len()).map_err(io::Error::other)?.to_be_bytes());
    }
    let out = env::var_os("OUT_DIR").ok_or_else(|| io::Error::other("OUT_DIR is not set"))?;
    fs::write(Path::new(&out).join("id_names.txt"), text)?;
    fs::write(Path::new(&out).join("id_table.bin"), table)?;
    println!("cargo::rerun-if-changed=build.rs");
    Ok(())
}
