//! Type 27, Cooling Device (clause 7.28).

use super::ProbeStatus;
use crate::{Field, Handle, Text, code::code, field::structure};

structure! {
    /// A fan or another cooling device.
    CoolingDevice = 27, "Cooling Device" {
        /// The temperature probe that watches what it cools, FFFFh where there is none.
        0x04 temperature_probe_handle: Handle,
        /// Bits 7:5 the status, 4:0 the type.
        0x06 type_and_status: u8,
        /// The cooling unit group it belongs to; 0 is none.
        0x07 cooling_unit_group: u8,
        /// The maker's own double word.
        0x08 oem_defined: u32,
        /// Nominal speed in revolutions a minute; 8000h is unknown or does not rotate.
        0x0C nominal_speed_rpm: u16,
        /// What it is.
        0x0E description: Text<'a>,
    }
}

code! {
    /// Kind of cooling device (clause 7.28.1).
    CoolingType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Fan",
        0x04 => "Centrifugal Blower",
        0x05 => "Chip Fan",
        0x06 => "Cabinet Fan",
        0x07 => "Power Supply Fan",
        0x08 => "Heat Pipe",
        0x09 => "Integrated Refrigeration",
        0x10 => "Active Cooling",
        0x11 => "Passive Cooling",
    }
}

impl<'a> CoolingDevice<'a> {
    /// What kind it is.
    pub fn device_type(&self) -> Option<Field<'a, CoolingType>> {
        Some(self.type_and_status()?.map(|raw| CoolingType(raw & 0x1F)))
    }

    /// Its status.
    pub fn status(&self) -> Option<Field<'a, ProbeStatus>> {
        Some(self.type_and_status()?.map(|raw| ProbeStatus(raw >> 5)))
    }
}
