//! Type 6, Memory Module Information (clause 7.7), obsolete since version 2.1.

use crate::{Field, Text, code::flags, field::structure};

structure! {
    /// A memory module. Type 17 took its place.
    MemoryModuleInformation = 6, "Memory Module Information" {
        /// The socket's label.
        0x04 socket_designation: Text<'a>,
        /// The banks it is connected to.
        0x05 bank_connections: u8,
        /// Speed in nanoseconds; 0 is unknown.
        0x06 current_speed_ns: u8,
        /// Kinds of memory (clause 7.7.1).
        0x07 memory_types: OldMemoryTypes,
        /// Installed size (clause 7.7.2): bits 6:0 a power of 2 in MiB, bit 7 two banks.
        0x09 installed_size_code: u8,
        /// Enabled size, written alike.
        0x0A enabled_size_code: u8,
        /// Errors.
        0x0B error_status: OldModuleErrors,
    }
}

flags! {
    /// Kinds of memory in the old structures (clause 7.7.1).
    OldMemoryTypes(u16) {
        0 => "Other",
        1 => "Unknown",
        2 => "Standard",
        3 => "Fast Page Mode",
        4 => "EDO",
        5 => "Parity",
        6 => "ECC",
        7 => "SIMM",
        8 => "DIMM",
        9 => "Burst EDO",
        10 => "SDRAM",
    }
}

flags! {
    /// Errors of a module (clause 7.7, offset 0Bh).
    OldModuleErrors(u8) {
        0 => "Uncorrectable errors received for the module",
        1 => "Correctable errors received for the module",
        2 => "Error status should be obtained from the event log",
    }
}

/// A module's size as the old structure gives it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum OldModuleSize {
    /// So many bytes.
    Bytes(u64),
    /// The firmware cannot tell.
    NotDeterminable,
    /// A module that is not enabled.
    NotEnabled,
    /// No module.
    NotInstalled,
}

impl<'a> MemoryModuleInformation<'a> {
    /// The installed size.
    pub fn installed_size(&self) -> Option<Field<'a, OldModuleSize>> {
        Some(self.installed_size_code()?.map(size))
    }

    /// The enabled size.
    pub fn enabled_size(&self) -> Option<Field<'a, OldModuleSize>> {
        Some(self.enabled_size_code()?.map(size))
    }
}

fn size(code: u8) -> OldModuleSize {
    match code & 0x7F {
        0x7D => OldModuleSize::NotDeterminable,
        0x7E => OldModuleSize::NotEnabled,
        0x7F => OldModuleSize::NotInstalled,
        // More than 2^63 bytes is no size.
        power => match 1u64.checked_shl(20 + u32::from(power)) {
            Some(bytes) if power < 43 => OldModuleSize::Bytes(bytes),
            _ => OldModuleSize::NotDeterminable,
        },
    }
}
