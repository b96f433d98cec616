//! Types 34, 35 and 36: management devices, their components and thresholds (clauses 7.35 to 7.37).

use crate::{Handle, Text, code::code, field::structure};

structure! {
    /// A device that watches others.
    ManagementDevice = 34, "Management Device" {
        /// What it is.
        0x04 description: Text<'a>,
        /// Which chip it is.
        0x05 device_type: ManagementDeviceType,
        /// Its address, by the kind of address.
        0x06 address: u32,
        /// What kind of address it is.
        0x0A address_type: ManagementAddressType,
    }
}

structure! {
    /// A probe or cooling device of a management device.
    ManagementDeviceComponent = 35, "Management Device Component" {
        /// What it is.
        0x04 description: Text<'a>,
        /// The management device.
        0x05 management_device_handle: Handle,
        /// The probe or cooling device.
        0x07 component_handle: Handle,
        /// The thresholds, FFFFh where it has none.
        0x09 threshold_handle: Handle,
    }
}

structure! {
    /// Thresholds of a component, in its units; 8000h is not available.
    ManagementThresholds = 36, "Management Device Threshold Data" {
        /// Lower, not critical.
        0x04 lower_non_critical: u16,
        /// Upper, not critical.
        0x06 upper_non_critical: u16,
        /// Lower, critical.
        0x08 lower_critical: u16,
        /// Upper, critical.
        0x0A upper_critical: u16,
        /// Lower, beyond recovery.
        0x0C lower_non_recoverable: u16,
        /// Upper, beyond recovery.
        0x0E upper_non_recoverable: u16,
    }
}

code! {
    /// Which chip a management device is (clause 7.35.1).
    ManagementDeviceType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "National Semiconductor LM75",
        0x04 => "National Semiconductor LM78",
        0x05 => "National Semiconductor LM79",
        0x06 => "National Semiconductor LM80",
        0x07 => "National Semiconductor LM81",
        0x08 => "Analog Devices ADM9240",
        0x09 => "Dallas Semiconductor DS1780",
        0x0A => "Maxim 1617",
        0x0B => "Genesys GL518SM",
        0x0C => "Winbond W83781D",
        0x0D => "Holtek HT82H791",
    }
}

code! {
    /// Kind of a management device's address (clause 7.35.2).
    ManagementAddressType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "I/O Port",
        0x04 => "Memory",
        0x05 => "SM Bus",
    }
}
