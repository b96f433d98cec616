//! Type 22, Portable Battery (clause 7.23).

use crate::{Field, Text, code::code, field::structure};

structure! {
    /// A battery.
    PortableBattery = 22, "Portable Battery" {
        /// Where it sits.
        0x04 location: Text<'a>,
        /// The maker.
        0x05 manufacturer: Text<'a>,
        /// The day it was made; where it is unset, the smart battery date may hold it.
        0x06 manufacture_date: Text<'a>,
        /// The serial number; where it is unset, the smart battery serial number may hold it.
        0x07 serial_number: Text<'a>,
        /// What it is called.
        0x08 device_name: Text<'a>,
        /// What it is made of (clause 7.23.1); 2 says that the smart battery field holds it.
        0x09 chemistry: BatteryChemistry,
        /// Design capacity in mWh divided by the multiplier; 0 is unknown.
        0x0A design_capacity_raw: u16,
        /// Design voltage in millivolts; 0 is unknown.
        0x0C design_voltage_mv: u16,
        /// Version of the Smart Battery Data Specification it follows.
        0x0E sbds_version: Text<'a>,
        /// Largest error of the capacity in percent; FFh is unknown.
        0x0F maximum_error_percent: u8,
        /// Smart battery serial number.
        0x10 sbds_serial_number: u16,
        /// Smart battery date: bits 15:9 year from 1980, 8:5 month, 4:0 day.
        0x12 sbds_manufacture_date: u16,
        /// Smart battery chemistry.
        0x14 sbds_chemistry: Text<'a>,
        /// What the design capacity is multiplied by.
        0x15 design_capacity_multiplier: u8,
        /// The maker's own double word.
        0x16 oem_specific: u32,
    }
}

code! {
    /// What a battery is made of (clause 7.23.1).
    BatteryChemistry(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Lead Acid",
        0x04 => "Nickel Cadmium",
        0x05 => "Nickel metal hydride",
        0x06 => "Lithium-ion",
        0x07 => "Zinc air",
        0x08 => "Lithium Polymer",
    }
}

impl<'a> PortableBattery<'a> {
    /// Design capacity in milliwatt-hours; `None` also where the firmware does not know it.
    pub fn design_capacity_mwh(&self) -> Option<Field<'a, u32>> {
        let raw = self.design_capacity_raw()?;
        let times = self.design_capacity_multiplier().map_or(1, |field| u32::from(field.value));
        (raw.value != 0).then(|| raw.map(|raw| u32::from(raw) * times.max(1)))
    }

    /// The smart battery date as year, month and day; `None` also where it is no date.
    pub fn sbds_date(&self) -> Option<Field<'a, (u16, u8, u8)>> {
        let raw = self.sbds_manufacture_date()?;
        let (year, month, day) =
            (1980 + (raw.value >> 9), (raw.value >> 5 & 0x0F) as u8, (raw.value & 0x1F) as u8);
        ((1..=12).contains(&month) && day > 0).then(|| raw.map(|_| (year, month, day)))
    }
}
