//! Type 5, Memory Controller Information (clause 7.6), obsolete since version 2.1.

use super::OldMemoryTypes;
use crate::{
    Handle,
    code::{code, flags},
    field::structure,
};

structure! {
    /// A memory controller. Types 16 and 17 took its place.
    MemoryController = 5, "Memory Controller Information" {
        /// Error detection (clause 7.6.1).
        0x04 error_detecting_method: ErrorDetecting,
        /// Error correction (clause 7.6.2).
        0x05 error_correcting_capability: ErrorCorrecting,
        /// Interleave that it can (clause 7.6.3).
        0x06 supported_interleave: Interleave,
        /// Interleave as it is.
        0x07 current_interleave: Interleave,
        /// Largest module: 2 to the power of this, in MiB.
        0x08 maximum_module_size: u8,
        /// Speeds that it can (clause 7.6.4).
        0x09 supported_speeds: ControllerSpeeds,
        /// Kinds of memory that it can (clause 7.7.1).
        0x0B supported_memory_types: OldMemoryTypes,
        /// Voltages of its modules.
        0x0D module_voltage: ModuleVoltages,
        /// How many slots it has; their handles follow.
        0x0E slot_count: u8,
    }
}

code! {
    /// How errors are detected (clause 7.6.1).
    ErrorDetecting(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "None",
        0x04 => "8-bit Parity",
        0x05 => "32-bit ECC",
        0x06 => "64-bit ECC",
        0x07 => "128-bit ECC",
        0x08 => "CRC",
    }
}

flags! {
    /// How errors are corrected (clause 7.6.2).
    ErrorCorrecting(u8) {
        0 => "Other",
        1 => "Unknown",
        2 => "None",
        3 => "Single-Bit Error Correcting",
        4 => "Double-Bit Error Correcting",
        5 => "Error Scrubbing",
    }
}

code! {
    /// Interleave (clause 7.6.3).
    Interleave(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "One-Way Interleave",
        0x04 => "Two-Way Interleave",
        0x05 => "Four-Way Interleave",
        0x06 => "Eight-Way Interleave",
        0x07 => "Sixteen-Way Interleave",
    }
}

flags! {
    /// Speeds that a memory controller can (clause 7.6.4).
    ControllerSpeeds(u16) {
        0 => "Other",
        1 => "Unknown",
        2 => "70ns",
        3 => "60ns",
        4 => "50ns",
    }
}

flags! {
    /// Voltages of a memory controller's modules (clause 7.6, offset 0Dh).
    ModuleVoltages(u8) {
        0 => "5V",
        1 => "3.3V",
        2 => "2.9V",
    }
}

impl<'a> MemoryController<'a> {
    /// The handles of the memory modules (type 6) it controls, as many as the structure holds.
    pub fn module_handles(&self) -> impl Iterator<Item = Handle> + use<'a> {
        let count = self.slot_count().map_or(0, |field| usize::from(field.value));
        super::handles(&self.structure(), 0x0F, count)
    }
}
