//! Type 0, BIOS Information (clause 7.1).

use crate::{Field, Text, field::structure};

structure! {
    /// The platform firmware: maker, version, date and capabilities.
    BiosInformation = 0, "BIOS Information" {
        /// The firmware vendor's name.
        0x04 vendor: Text<'a>,
        /// The firmware's version, free text.
        0x05 version: Text<'a>,
        /// Segment of the firmware's starting address; 0 on UEFI systems.
        0x06 starting_segment: u16,
        /// Release date as `mm/dd/yyyy` (`mm/dd/yy` means 19yy).
        0x08 release_date: Text<'a>,
        /// ROM size n, meaning 64 KiB × (n + 1); FFh says that the extended field holds it.
        0x09 rom_size_code: u8,
        /// Characteristics, one bit each (clause 7.1.1).
        0x0A characteristics: u64,
        /// Characteristics extension byte 1 (clause 7.1.2.1).
        0x12 extension_1: u8,
        /// Characteristics extension byte 2 (clause 7.1.2.2); bit 3 says UEFI is supported, bit 4
        /// that the table describes a virtual machine.
        0x13 extension_2: u8,
        /// Major release of the firmware; FFh where it has none.
        0x14 major_release: u8,
        /// Minor release of the firmware; FFh where it has none.
        0x15 minor_release: u8,
        /// Major release of the embedded controller's firmware; FFh where it cannot be upgraded.
        0x16 controller_major_release: u8,
        /// Minor release of the embedded controller's firmware; FFh where it cannot be upgraded.
        0x17 controller_minor_release: u8,
        /// Extended ROM size: bits 15:14 the unit (0 MiB, 1 GiB), bits 13:0 the size.
        0x18 extended_rom_size: u16,
    }
}

/// The ROM's size as the two fields for it give it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RomSize {
    /// So many bytes.
    Bytes(u64),
    /// The extended field uses a unit that the standard reserves; its raw value.
    ReservedUnit(u16),
}

impl<'a> BiosInformation<'a> {
    /// The ROM's size, from the extended field where the byte says so.
    pub fn rom_size(&self) -> Option<Field<'a, RomSize>> {
        let code = self.rom_size_code()?;
        if code.value != 0xFF {
            return Some(code.map(|n| RomSize::Bytes((u64::from(n) + 1) << 16)));
        }
        Some(self.extended_rom_size()?.map(|raw| {
            let size = u64::from(raw & 0x3FFF);
            match raw >> 14 {
                0 => RomSize::Bytes(size << 20),
                1 => RomSize::Bytes(size << 30),
                _ => RomSize::ReservedUnit(raw),
            }
        }))
    }

    /// Whether extension byte 2 says that UEFI is supported.
    pub fn supports_uefi(&self) -> Option<Field<'a, bool>> {
        Some(self.extension_2()?.map(|bits| bits & 0x08 != 0))
    }

    /// Whether extension byte 2 says that the table describes a virtual machine.
    pub fn is_virtual_machine(&self) -> Option<Field<'a, bool>> {
        Some(self.extension_2()?.map(|bits| bits & 0x10 != 0))
    }
}
