//! Type 7, Cache Information (clause 7.8).

use crate::{
    Field, Text,
    code::{code, flags},
    field::structure,
};

structure! {
    /// One processor cache as the firmware describes it.
    CacheInformation = 7, "Cache Information" {
        /// The socket's or cache's designation.
        0x04 socket_designation: Text<'a>,
        /// Bits 2:0 level less one, 3 socketed, 6:5 location, 7 enabled, 9:8 operational mode.
        0x05 configuration: u16,
        /// Largest size (clause 7.8.1): bit 15 the unit (0 1 KiB, 1 64 KiB), FFFFh see size 2.
        0x07 maximum_size_code: u16,
        /// Installed size, written alike; 0 says that none is installed.
        0x09 installed_size_code: u16,
        /// Supported SRAM types (clause 7.8.2).
        0x0B supported_sram: SramTypes,
        /// Current SRAM type.
        0x0D current_sram: SramTypes,
        /// Speed in nanoseconds; 0 is unknown.
        0x0F speed_ns: u8,
        /// Error correction (clause 7.8.3).
        0x10 error_correction: CacheEcc,
        /// What it caches (clause 7.8.4).
        0x11 cache_type: CacheType,
        /// Associativity (clause 7.8.5).
        0x12 associativity: CacheAssociativity,
        /// Largest size 2: bit 31 the unit (0 1 KiB, 1 64 KiB).
        0x13 maximum_size_2: u32,
        /// Installed size 2, written alike.
        0x17 installed_size_2: u32,
    }
}

code! {
    /// Error correction of a cache (clause 7.8.3).
    CacheEcc(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "None",
        4 => "Parity",
        5 => "Single-bit ECC",
        6 => "Multi-bit ECC",
    }
}

code! {
    /// What a cache holds (clause 7.8.4).
    CacheType(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Instruction",
        4 => "Data",
        5 => "Unified",
    }
}

code! {
    /// Associativity of a cache (clause 7.8.5).
    CacheAssociativity(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Direct Mapped",
        4 => "2-way Set-Associative",
        5 => "4-way Set-Associative",
        6 => "Fully Associative",
        7 => "8-way Set-Associative",
        8 => "16-way Set-Associative",
        9 => "12-way Set-Associative",
        10 => "24-way Set-Associative",
        11 => "32-way Set-Associative",
        12 => "48-way Set-Associative",
        13 => "64-way Set-Associative",
        14 => "20-way Set-Associative",
    }
}

code! {
    /// Where a cache sits (clause 7.8, offset 05h, bits 6:5).
    CacheLocation(u8) {
        0 => "Internal",
        1 => "External",
        2 => "Reserved",
        3 => "Unknown",
    }
}

code! {
    /// How a cache writes (clause 7.8, offset 05h, bits 9:8).
    CacheMode(u8) {
        0 => "Write Through",
        1 => "Write Back",
        2 => "Varies with Memory Address",
        3 => "Unknown",
    }
}

flags! {
    /// Kinds of SRAM (clause 7.8.2).
    SramTypes(u16) {
        0 => "Other",
        1 => "Unknown",
        2 => "Non-Burst",
        3 => "Burst",
        4 => "Pipeline Burst",
        5 => "Synchronous",
        6 => "Asynchronous",
    }
}

/// A cache's size in bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CacheSize(pub u64);

impl<'a> CacheInformation<'a> {
    /// What stands in bits of the configuration and in fields that belong together, as words.
    pub(super) fn decoded_bits(&self) -> Vec<crate::DecodedField<'a>> {
        let yes_or_no = |yes: bool| if yes { "yes" } else { "no" }.to_owned();
        let size = |size: CacheSize| format!("{} bytes", size.0);
        let fields = [
            ("level", self.level().map(|field| field.map(|level| level.to_string()))),
            ("enabled", self.is_enabled().map(|field| field.map(yes_or_no))),
            ("socketed", self.is_socketed().map(|field| field.map(yes_or_no))),
            ("location", self.location().map(|field| field.map(|place| place.to_string()))),
            ("mode", self.operational_mode().map(|field| field.map(|mode| mode.to_string()))),
            ("installed", self.installed_size().map(|field| field.map(size))),
            ("maximum", self.maximum_size().map(|field| field.map(size))),
        ];
        let named = |(name, field): (&str, Option<_>)| {
            Some(crate::DecodedField { name: name.to_owned(), field: field? })
        };
        fields.into_iter().filter_map(named).collect()
    }

    /// The cache's level, counted from 1.
    pub fn level(&self) -> Option<Field<'a, u8>> {
        Some(self.configuration()?.map(|raw| (raw & 0x07) as u8 + 1))
    }

    /// Where it sits.
    pub fn location(&self) -> Option<Field<'a, CacheLocation>> {
        Some(self.configuration()?.map(|raw| CacheLocation((raw >> 5 & 0x03) as u8)))
    }

    /// How it writes.
    pub fn operational_mode(&self) -> Option<Field<'a, CacheMode>> {
        Some(self.configuration()?.map(|raw| CacheMode((raw >> 8 & 0x03) as u8)))
    }

    /// Whether it sits in a socket.
    pub fn is_socketed(&self) -> Option<Field<'a, bool>> {
        Some(self.configuration()?.map(|raw| raw & 0x08 != 0))
    }

    /// Whether it was enabled at boot.
    pub fn is_enabled(&self) -> Option<Field<'a, bool>> {
        Some(self.configuration()?.map(|raw| raw & 0x80 != 0))
    }

    /// The installed size, from the second field where the first cannot hold it.
    pub fn installed_size(&self) -> Option<Field<'a, CacheSize>> {
        size(self.installed_size_code()?, self.installed_size_2())
    }

    /// The largest size that can be installed.
    pub fn maximum_size(&self) -> Option<Field<'a, CacheSize>> {
        size(self.maximum_size_code()?, self.maximum_size_2())
    }
}

fn size<'a>(short: Field<'a, u16>, long: Option<Field<'a, u32>>) -> Option<Field<'a, CacheSize>> {
    if short.value == 0xFFFF {
        let unit = |raw: u32| if raw >> 31 == 1 { 16 } else { 10 };
        return Some(long?.map(|raw| CacheSize(u64::from(raw & 0x7FFF_FFFF) << unit(raw))));
    }
    let unit = |raw: u16| if raw >> 15 == 1 { 16 } else { 10 };
    Some(short.map(|raw| CacheSize(u64::from(raw & 0x7FFF) << unit(raw))))
}
