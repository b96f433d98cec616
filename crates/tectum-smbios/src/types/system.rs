//! Type 1, System Information (clause 7.2).

use crate::{Text, Uuid, code::code, field::structure};

structure! {
    /// The system as its maker sells it.
    SystemInformation = 1, "System Information" {
        /// The maker.
        0x04 manufacturer: Text<'a>,
        /// The product's name.
        0x05 product_name: Text<'a>,
        /// The product's version.
        0x06 version: Text<'a>,
        /// The serial number.
        0x07 serial_number: Text<'a>,
        /// The universally unique id (clause 7.2.1).
        0x08 uuid: Uuid,
        /// What woke the system last (clause 7.2.2).
        0x18 wake_up_type: WakeUpType,
        /// The configuration for sale.
        0x19 sku_number: Text<'a>,
        /// The family the product belongs to.
        0x1A family: Text<'a>,
    }
}

code! {
    /// What caused the system to power up (clause 7.2.2).
    WakeUpType(u8) {
        0 => "Reserved",
        1 => "Other",
        2 => "Unknown",
        3 => "APM Timer",
        4 => "Modem Ring",
        5 => "LAN Remote",
        6 => "Power Switch",
        7 => "PCI PME#",
        8 => "AC Power Restored",
    }
}
