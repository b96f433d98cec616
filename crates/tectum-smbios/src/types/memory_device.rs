//! Type 17, Memory Device (clause 7.18).

use crate::{
    Field, Handle, Text,
    code::{code, flags},
    field::structure,
};

structure! {
    /// One memory socket and the module in it, if any.
    MemoryDevice = 17, "Memory Device" {
        /// The array the socket belongs to.
        0x04 array_handle: Handle,
        /// Structure that describes an error, FFFEh where none is provided, FFFFh where none is.
        0x06 error_information_handle: Handle,
        /// Width in bits with check bits; FFFFh is unknown.
        0x08 total_width_bits: u16,
        /// Width in bits of the data; FFFFh is unknown.
        0x0A data_width_bits: u16,
        /// Size: 0 none installed, FFFFh unknown, 7FFFh see the extended field, else bit 15 the
        /// unit (0 MiB, 1 KiB).
        0x0C size_code: u16,
        /// Form factor (clause 7.18.1).
        0x0E form_factor: MemoryFormFactor,
        /// The set the module must be installed in; 0 none, FFh unknown.
        0x0F device_set: u8,
        /// The socket's label.
        0x10 device_locator: Text<'a>,
        /// The bank's label.
        0x11 bank_locator: Text<'a>,
        /// The kind of memory (clause 7.18.2).
        0x12 memory_type: MemoryType,
        /// Details of the kind (clause 7.18.3).
        0x13 type_detail: MemoryTypeDetail,
        /// Highest speed in MT/s; 0 unknown, FFFFh see the extended field.
        0x15 speed_code: u16,
        /// The maker.
        0x17 manufacturer: Text<'a>,
        /// The serial number.
        0x18 serial_number: Text<'a>,
        /// The owner's inventory number.
        0x19 asset_tag: Text<'a>,
        /// The part number.
        0x1A part_number: Text<'a>,
        /// Bits 3:0 the rank; 0 is unknown.
        0x1B attributes: u8,
        /// Extended size in MiB, bits 30:0.
        0x1C extended_size: u32,
        /// Speed as configured in MT/s; 0 unknown, FFFFh see the extended field.
        0x20 configured_speed_code: u16,
        /// Smallest operating voltage in millivolts; 0 is unknown.
        0x22 minimum_voltage_mv: u16,
        /// Largest operating voltage in millivolts; 0 is unknown.
        0x24 maximum_voltage_mv: u16,
        /// Voltage as configured in millivolts; 0 is unknown.
        0x26 configured_voltage_mv: u16,
        /// Memory technology (clause 7.18.6).
        0x28 technology: MemoryTechnology,
        /// Operating modes it can work in (clause 7.18.7).
        0x29 operating_modes: MemoryModes,
        /// The module's firmware version.
        0x2B firmware_version: Text<'a>,
        /// Module manufacturer, JEP-106 bank and code (clause 7.18.8); 0 is unknown.
        0x2C module_manufacturer_id: u16,
        /// The manufacturer's product number; 0 is unknown.
        0x2E module_product_id: u16,
        /// Subsystem controller manufacturer, JEP-106; 0 is unknown.
        0x30 controller_manufacturer_id: u16,
        /// Subsystem controller product; 0 is unknown.
        0x32 controller_product_id: u16,
        /// Non-volatile part in bytes; all ones is unknown.
        0x34 non_volatile_size: u64,
        /// Volatile part in bytes; all ones is unknown.
        0x3C volatile_size: u64,
        /// Cache part in bytes; all ones is unknown.
        0x44 cache_size: u64,
        /// Logical device's size in bytes; all ones is unknown.
        0x4C logical_size: u64,
        /// Extended speed in MT/s, bits 30:0.
        0x54 extended_speed: u32,
        /// Extended configured speed in MT/s, bits 30:0.
        0x58 extended_configured_speed: u32,
        /// Power management IC's manufacturer, JEP-106; 0 is unknown.
        0x5C pmic0_manufacturer_id: u16,
        /// Power management IC's revision; FF00h is unknown.
        0x5E pmic0_revision: u16,
        /// Registering clock driver's manufacturer, JEP-106; 0 is unknown.
        0x60 rcd_manufacturer_id: u16,
        /// Registering clock driver's revision; FF00h is unknown.
        0x62 rcd_revision: u16,
    }
}

code! {
    /// Form factor of a module (clause 7.18.1).
    MemoryFormFactor(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "SIMM",
        0x04 => "SIP",
        0x05 => "Chip",
        0x06 => "DIP",
        0x07 => "ZIP",
        0x08 => "Proprietary Card",
        0x09 => "DIMM",
        0x0A => "TSOP",
        0x0B => "Row of chips",
        0x0C => "RIMM",
        0x0D => "SODIMM",
        0x0E => "SRIMM",
        0x0F => "FB-DIMM",
        0x10 => "Die",
        0x11 => "CAMM",
    }
}

code! {
    /// Kind of memory (clause 7.18.2).
    MemoryType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "DRAM",
        0x04 => "EDRAM",
        0x05 => "VRAM",
        0x06 => "SRAM",
        0x07 => "RAM",
        0x08 => "ROM",
        0x09 => "FLASH",
        0x0A => "EEPROM",
        0x0B => "FEPROM",
        0x0C => "EPROM",
        0x0D => "CDRAM",
        0x0E => "3DRAM",
        0x0F => "SDRAM",
        0x10 => "SGRAM",
        0x11 => "RDRAM",
        0x12 => "DDR",
        0x13 => "DDR2",
        0x14 => "DDR2 FB-DIMM",
        0x18 => "DDR3",
        0x19 => "FBD2",
        0x1A => "DDR4",
        0x1B => "LPDDR",
        0x1C => "LPDDR2",
        0x1D => "LPDDR3",
        0x1E => "LPDDR4",
        0x1F => "Logical non-volatile device",
        0x20 => "HBM",
        0x21 => "HBM2",
        0x22 => "DDR5",
        0x23 => "LPDDR5",
        0x24 => "HBM3",
    }
}

code! {
    /// Memory technology (clause 7.18.6).
    MemoryTechnology(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "DRAM",
        0x04 => "NVDIMM-N",
        0x05 => "NVDIMM-F",
        0x06 => "NVDIMM-P",
        0x07 => "Intel Optane persistent memory",
        0x08 => "MRDIMM",
    }
}

flags! {
    /// Details of the kind of memory (clause 7.18.3).
    MemoryTypeDetail(u16) {
        0 => "Reserved",
        1 => "Other",
        2 => "Unknown",
        3 => "Fast-paged",
        4 => "Static column",
        5 => "Pseudo-static",
        6 => "RAMBUS",
        7 => "Synchronous",
        8 => "CMOS",
        9 => "EDO",
        10 => "Window DRAM",
        11 => "Cache DRAM",
        12 => "Non-volatile",
        13 => "Registered (Buffered)",
        14 => "Unbuffered (Unregistered)",
        15 => "LRDIMM",
    }
}

flags! {
    /// Operating modes of a module (clause 7.18.7).
    MemoryModes(u16) {
        0 => "Reserved",
        1 => "Other",
        2 => "Unknown",
        3 => "Volatile memory",
        4 => "Byte-accessible persistent memory",
        5 => "Block-accessible persistent memory",
    }
}

/// A socket's size field in its four meanings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MemorySize {
    /// No module in the socket.
    NotInstalled,
    /// A module whose size the firmware does not know.
    Unknown,
    /// So many bytes.
    Bytes(u64),
}

/// A speed field in its two meanings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MemorySpeed {
    /// The firmware does not know it.
    Unknown,
    /// So many million transfers a second.
    MegaTransfers(u32),
}

impl<'a> MemoryDevice<'a> {
    /// The module's size, from the extended field where the short one says so.
    pub fn size(&self) -> Option<Field<'a, MemorySize>> {
        let short = self.size_code()?;
        match short.value {
            0 => Some(short.map(|_| MemorySize::NotInstalled)),
            0xFFFF => Some(short.map(|_| MemorySize::Unknown)),
            0x7FFF => Some(
                self.extended_size()?
                    .map(|mib| MemorySize::Bytes(u64::from(mib & 0x7FFF_FFFF) << 20)),
            ),
            raw => {
                let unit = if raw & 0x8000 == 0 { 20 } else { 10 };
                Some(short.map(|_| MemorySize::Bytes(u64::from(raw & 0x7FFF) << unit)))
            }
        }
    }

    /// The highest speed, from the extended field where the short one says so.
    pub fn speed(&self) -> Option<Field<'a, MemorySpeed>> {
        speed(self.speed_code()?, self.extended_speed())
    }

    /// The speed as configured, from the extended field where the short one says so.
    pub fn configured_speed(&self) -> Option<Field<'a, MemorySpeed>> {
        speed(self.configured_speed_code()?, self.extended_configured_speed())
    }

    /// The module's rank; `None` also where the firmware does not know it.
    pub fn rank(&self) -> Option<Field<'a, u8>> {
        let field = self.attributes()?.map(|raw| raw & 0x0F);
        (field.value != 0).then_some(field)
    }
}

fn speed<'a>(
    short: Field<'a, u16>,
    long: Option<Field<'a, u32>>,
) -> Option<Field<'a, MemorySpeed>> {
    match short.value {
        0 => Some(short.map(|_| MemorySpeed::Unknown)),
        0xFFFF => Some(long?.map(|raw| match raw & 0x7FFF_FFFF {
            0 => MemorySpeed::Unknown,
            mts => MemorySpeed::MegaTransfers(mts),
        })),
        mts => Some(short.map(|_| MemorySpeed::MegaTransfers(u32::from(mts)))),
    }
}
