//! Type 5, Memory Controller Information (clause 7.6), obsolete since version 2.1.

use crate::{Handle, field::structure};

structure! {
    /// A memory controller. Types 16 and 17 took its place.
    MemoryController = 5, "Memory Controller Information" {
        /// Error detection (clause 7.6.1).
        0x04 error_detecting_method: u8,
        /// Error correction, one bit each (clause 7.6.2).
        0x05 error_correcting_capability: u8,
        /// Interleave that it can (clause 7.6.3).
        0x06 supported_interleave: u8,
        /// Interleave as it is.
        0x07 current_interleave: u8,
        /// Largest module: 2 to the power of this, in MiB.
        0x08 maximum_module_size: u8,
        /// Speeds that it can, one bit each (clause 7.6.4).
        0x09 supported_speeds: u16,
        /// Kinds of memory that it can, one bit each.
        0x0B supported_memory_types: u16,
        /// Voltages of its modules, one bit each.
        0x0D module_voltage: u8,
        /// How many slots it has; their handles follow.
        0x0E slot_count: u8,
    }
}

impl<'a> MemoryController<'a> {
    /// The handles of the memory modules (type 6) it controls, as many as the structure holds.
    pub fn module_handles(&self) -> impl Iterator<Item = Handle> + use<'a> {
        let count = self.slot_count().map_or(0, |field| usize::from(field.value));
        super::handles(&self.structure(), 0x0F, count)
    }
}
