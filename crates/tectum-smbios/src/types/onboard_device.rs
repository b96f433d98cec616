//! Type 41, Onboard Devices Extended Information (clause 7.42).

use super::OnBoardDeviceType;
use crate::{Field, Text, field::structure};

structure! {
    /// A device on the board, with its bus address.
    OnboardDeviceExtended = 41, "Onboard Devices Extended Information" {
        /// The label on the board.
        0x04 reference_designation: Text<'a>,
        /// Bit 7 enabled, bits 6:0 the kind (clause 7.42.1).
        0x05 type_and_status: u8,
        /// Its number among those of its kind.
        0x06 instance: u8,
        /// PCI segment group; FFFFh where it has none.
        0x07 segment_group: u16,
        /// PCI bus; FFh where it has none.
        0x09 bus: u8,
        /// PCI device in bits 7:3, function in bits 2:0; FFh where it has none.
        0x0A device_function: u8,
    }
}

impl<'a> OnboardDeviceExtended<'a> {
    /// What kind of device it is.
    pub fn device_type(&self) -> Option<Field<'a, OnBoardDeviceType>> {
        Some(self.type_and_status()?.map(|raw| OnBoardDeviceType(raw & 0x7F)))
    }

    /// Whether it is enabled.
    pub fn is_enabled(&self) -> Option<Field<'a, bool>> {
        Some(self.type_and_status()?.map(|raw| raw & 0x80 != 0))
    }

    /// Its PCI address, as `0000:01:00.0`; `None` where it has none.
    pub fn pci_address(&self) -> Option<Field<'a, String>> {
        let segment = self.segment_group()?;
        let (bus, device) = (self.bus()?.value, self.device_function()?.value);
        super::pci_address(segment, bus, device)
    }
}
