//! Type 0, BIOS Information (clause 7.1).

use crate::{Field, Text, code::flags, field::structure};

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
        /// Characteristics (clause 7.1.1).
        0x0A characteristics: BiosCharacteristics,
        /// Characteristics extension byte 1 (clause 7.1.2.1).
        0x12 extension_1: BiosExtension1,
        /// Characteristics extension byte 2 (clause 7.1.2.2).
        0x13 extension_2: BiosExtension2,
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

flags! {
    /// What the firmware can do (clause 7.1.1).
    BiosCharacteristics(u64) {
        0 => "Reserved",
        1 => "Reserved",
        2 => "Unknown",
        3 => "BIOS characteristics are not supported",
        4 => "ISA is supported",
        5 => "MCA is supported",
        6 => "EISA is supported",
        7 => "PCI is supported",
        8 => "PC card (PCMCIA) is supported",
        9 => "Plug and Play is supported",
        10 => "APM is supported",
        11 => "BIOS is upgradeable (Flash)",
        12 => "BIOS shadowing is allowed",
        13 => "VL-VESA is supported",
        14 => "ESCD support is available",
        15 => "Boot from CD is supported",
        16 => "Selectable boot is supported",
        17 => "BIOS ROM is socketed",
        18 => "Boot from PC card (PCMCIA) is supported",
        19 => "EDD specification is supported",
        20 => "Int 13h: Japanese floppy for NEC 9800 1.2 MB is supported",
        21 => "Int 13h: Japanese floppy for Toshiba 1.2 MB is supported",
        22 => "Int 13h: 5.25\"/360 KB floppy services are supported",
        23 => "Int 13h: 5.25\"/1.2 MB floppy services are supported",
        24 => "Int 13h: 3.5\"/720 KB floppy services are supported",
        25 => "Int 13h: 3.5\"/2.88 MB floppy services are supported",
        26 => "Int 5h, print screen service is supported",
        27 => "Int 9h, 8042 keyboard services are supported",
        28 => "Int 14h, serial services are supported",
        29 => "Int 17h, printer services are supported",
        30 => "Int 10h, CGA/Mono video services are supported",
        31 => "NEC PC-98",
    }
}

flags! {
    /// More of what the firmware can do, byte 1 (clause 7.1.2.1).
    BiosExtension1(u8) {
        0 => "ACPI is supported",
        1 => "USB Legacy is supported",
        2 => "AGP is supported",
        3 => "I2O boot is supported",
        4 => "LS-120 SuperDisk boot is supported",
        5 => "ATAPI ZIP drive boot is supported",
        6 => "1394 boot is supported",
        7 => "Smart battery is supported",
    }
}

flags! {
    /// More of what the firmware can do, byte 2 (clause 7.1.2.2).
    BiosExtension2(u8) {
        0 => "BIOS Boot Specification is supported",
        1 => "Function key-initiated network service boot is supported",
        2 => "Targeted content distribution is enabled",
        3 => "UEFI Specification is supported",
        4 => "SMBIOS table describes a virtual machine",
        5 => "Manufacturing mode is supported",
        6 => "Manufacturing mode is enabled",
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
        // Before SMBIOS 3.1 there is no extended field, and FFh is 256 times 64 KiB.
        let Some(extended) = self.extended_rom_size() else {
            return Some(code.map(|_| RomSize::Bytes(16 << 20)));
        };
        Some(extended.map(|raw| {
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
        Some(self.extension_2()?.map(|bits| bits.0 & 0x08 != 0))
    }

    /// Whether extension byte 2 says that the table describes a virtual machine.
    pub fn is_virtual_machine(&self) -> Option<Field<'a, bool>> {
        Some(self.extension_2()?.map(|bits| bits.0 & 0x10 != 0))
    }
}
