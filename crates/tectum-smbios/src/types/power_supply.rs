//! Type 39, System Power Supply (clause 7.40).

use crate::{Field, Handle, Text, code::code, field::structure};

structure! {
    /// One power supply.
    SystemPowerSupply = 39, "System Power Supply" {
        /// The power unit group it belongs to; 0 is none.
        0x04 power_unit_group: u8,
        /// Where it sits.
        0x05 location: Text<'a>,
        /// What it is called.
        0x06 device_name: Text<'a>,
        /// The maker.
        0x07 manufacturer: Text<'a>,
        /// The serial number.
        0x08 serial_number: Text<'a>,
        /// The owner's inventory number.
        0x09 asset_tag: Text<'a>,
        /// The model's part number.
        0x0A model_part_number: Text<'a>,
        /// The revision.
        0x0B revision_level: Text<'a>,
        /// Largest sustained output in watts; 8000h is unknown.
        0x0C max_power_capacity_watts: u16,
        /// Characteristics (clause 7.40.1).
        0x0E characteristics: u16,
        /// Its input voltage probe, FFFFh where it has none.
        0x10 input_voltage_probe_handle: Handle,
        /// Its cooling device, FFFFh where it has none.
        0x12 cooling_device_handle: Handle,
        /// Its input current probe, FFFFh where it has none.
        0x14 input_current_probe_handle: Handle,
    }
}

impl<'a> SystemPowerSupply<'a> {
    /// Largest sustained output in watts; `None` also where the firmware does not know it.
    pub fn max_power_watts(&self) -> Option<Field<'a, u16>> {
        self.max_power_capacity_watts().filter(|watts| watts.value != 0x8000)
    }

    /// Whether it can be swapped while the machine runs (bit 0).
    pub fn is_hot_replaceable(&self) -> Option<Field<'a, bool>> {
        Some(self.characteristics()?.map(|bits| bits & 0x01 != 0))
    }

    /// Whether it is there (bit 1).
    pub fn is_present(&self) -> Option<Field<'a, bool>> {
        Some(self.characteristics()?.map(|bits| bits & 0x02 != 0))
    }

    /// Whether it is unplugged from the wall (bit 2).
    pub fn is_unplugged(&self) -> Option<Field<'a, bool>> {
        Some(self.characteristics()?.map(|bits| bits & 0x04 != 0))
    }

    /// Its status (bits 9:7).
    pub fn status(&self) -> Option<Field<'a, SupplyStatus>> {
        Some(self.characteristics()?.map(|bits| SupplyStatus((bits >> 7 & 0x07) as u8)))
    }

    /// Its type (bits 13:10).
    pub fn supply_type(&self) -> Option<Field<'a, SupplyType>> {
        Some(self.characteristics()?.map(|bits| SupplyType((bits >> 10 & 0x0F) as u8)))
    }

    /// How it switches between input voltages (bits 6:3).
    pub fn voltage_switching(&self) -> Option<Field<'a, VoltageSwitching>> {
        Some(self.characteristics()?.map(|bits| VoltageSwitching((bits >> 3 & 0x0F) as u8)))
    }
}

code! {
    /// Status of a power supply (clause 7.40.1, bits 9:7).
    SupplyStatus(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "OK",
        4 => "Non-critical",
        5 => "Critical; power supply has failed and has been taken off-line",
    }
}

code! {
    /// Kind of power supply (clause 7.40.1, bits 13:10).
    SupplyType(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Linear",
        4 => "Switching",
        5 => "Battery",
        6 => "UPS",
        7 => "Converter",
        8 => "Regulator",
    }
}

code! {
    /// How a power supply switches between input voltages (clause 7.40.1, bits 6:3).
    VoltageSwitching(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Manual",
        4 => "Auto-switch",
        5 => "Wide range",
        6 => "Not applicable",
    }
}
