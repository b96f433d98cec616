//! Types 18 and 33, 32-bit and 64-bit Memory Error Information (clauses 7.19 and 7.34).

use crate::{code::code, field::structure};

structure! {
    /// A memory error, with 32-bit addresses.
    MemoryError32 = 18, "32-Bit Memory Error Information" {
        /// What kind of error it is.
        0x04 error_type: MemoryErrorType,
        /// How exactly it is located.
        0x05 granularity: MemoryErrorGranularity,
        /// What caused it.
        0x06 operation: MemoryErrorOperation,
        /// The vendor's syndrome; 0 is unknown.
        0x07 vendor_syndrome: u32,
        /// Address in the array; 80000000h is unknown.
        0x0B array_address: u32,
        /// Address in the device; 80000000h is unknown.
        0x0F device_address: u32,
        /// Range in bytes within which the error can be located; 80000000h is unknown.
        0x13 resolution: u32,
    }
}

structure! {
    /// A memory error, with 64-bit addresses.
    MemoryError64 = 33, "64-Bit Memory Error Information" {
        /// What kind of error it is.
        0x04 error_type: MemoryErrorType,
        /// How exactly it is located.
        0x05 granularity: MemoryErrorGranularity,
        /// What caused it.
        0x06 operation: MemoryErrorOperation,
        /// The vendor's syndrome; 0 is unknown.
        0x07 vendor_syndrome: u32,
        /// Address in the array; 8000000000000000h is unknown.
        0x0B array_address: u64,
        /// Address in the device; 8000000000000000h is unknown.
        0x13 device_address: u64,
        /// Range in bytes within which the error can be located; 80000000h is unknown.
        0x1B resolution: u32,
    }
}

code! {
    /// Kind of memory error (clause 7.19.1).
    MemoryErrorType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "OK",
        0x04 => "Bad read",
        0x05 => "Parity error",
        0x06 => "Single-bit error",
        0x07 => "Double-bit error",
        0x08 => "Multi-bit error",
        0x09 => "Nibble error",
        0x0A => "Checksum error",
        0x0B => "CRC error",
        0x0C => "Corrected single-bit error",
        0x0D => "Corrected error",
        0x0E => "Uncorrectable error",
    }
}

code! {
    /// How exactly a memory error is located (clause 7.19.2).
    MemoryErrorGranularity(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Device level",
        0x04 => "Memory partition level",
    }
}

code! {
    /// What caused a memory error (clause 7.19.3).
    MemoryErrorOperation(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Read",
        0x04 => "Write",
        0x05 => "Partial write",
    }
}
