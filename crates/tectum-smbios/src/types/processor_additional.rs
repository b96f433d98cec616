//! Type 44, Processor Additional Information (clause 7.45).

use crate::{Handle, code::code, field::structure};

structure! {
    /// More about a processor, by its architecture.
    ProcessorAdditional = 44, "Processor Additional Information" {
        /// The processor (type 4).
        0x04 processor_handle: Handle,
        /// Length of the architecture's own block in bytes.
        0x06 block_length: u8,
        /// Which architecture it is.
        0x07 architecture: ProcessorArchitecture,
    }
}

code! {
    /// Architecture of a processor (clause 7.45.2).
    ProcessorArchitecture(u8) {
        0x01 => "IA32 (x86)",
        0x02 => "x64 (x86-64, Intel64, AMD64, EM64T)",
        0x03 => "Intel Itanium architecture",
        0x04 => "32-bit ARM (Aarch32)",
        0x05 => "64-bit ARM (Aarch64)",
        0x06 => "32-bit RISC-V (RV32)",
        0x07 => "64-bit RISC-V (RV64)",
        0x08 => "128-bit RISC-V (RV128)",
        0x09 => "32-bit LoongArch (LoongArch32)",
        0x0A => "64-bit LoongArch (LoongArch64)",
    }
}

impl<'a> ProcessorAdditional<'a> {
    /// The architecture's own data, as much as the structure holds.
    pub fn data(&self) -> &'a [u8] {
        let length = self.block_length().map_or(0, |field| usize::from(field.value));
        let rest = self.structure().formatted().get(0x08..).unwrap_or_default();
        rest.get(..length.min(rest.len())).unwrap_or_default()
    }
}
