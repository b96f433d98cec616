//! Type 31, Boot Integrity Services entry point (clause 7.32).

use crate::{Field, bytes, field::structure};

structure! {
    /// Where the Boot Integrity Services are entered. The standard reserves the rest.
    BootIntegrity = 31, "Boot Integrity Services (BIS) Entry Point" {
        /// The checksum that makes the structure's bytes add up to zero.
        0x04 checksum: u8,
        /// Entry point for 16-bit callers, segment and offset.
        0x08 entry_16: u32,
        /// Entry point for 32-bit callers.
        0x0C entry_32: u32,
    }
}

impl<'a> BootIntegrity<'a> {
    /// Whether the structure's bytes add up to zero, as they must.
    pub fn checksum_holds(&self) -> Option<Field<'a, bool>> {
        let structure = self.structure();
        let formatted = structure.formatted();
        let raw = bytes::slice(formatted, 0x04, 1)?;
        let sum = formatted.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
        Some(Field { handle: structure.handle(), offset: 0x04, bytes: raw, value: sum == 0 })
    }
}
