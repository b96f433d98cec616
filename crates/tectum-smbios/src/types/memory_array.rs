//! Type 16, Physical Memory Array (clause 7.17).

use crate::{Field, Handle, code::code, field::structure};

structure! {
    /// A set of memory sockets that work together.
    PhysicalMemoryArray = 16, "Physical Memory Array" {
        /// Where the array sits (clause 7.17.1).
        0x04 location: ArrayLocation,
        /// What it is used for (clause 7.17.2).
        0x05 usage: ArrayUse,
        /// Error correction (clause 7.17.3).
        0x06 error_correction: ArrayEcc,
        /// Largest capacity in KiB; 80000000h says that the extended field holds it.
        0x07 maximum_capacity_kib: u32,
        /// Structure that describes an error, FFFEh where none is provided, FFFFh where none is.
        0x0B error_information_handle: Handle,
        /// Number of sockets.
        0x0D device_count: u16,
        /// Largest capacity in bytes.
        0x0F extended_maximum_capacity: u64,
    }
}

code! {
    /// Location of a memory array (clause 7.17.1).
    ArrayLocation(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "System board or motherboard",
        0x04 => "ISA add-on card",
        0x05 => "EISA add-on card",
        0x06 => "PCI add-on card",
        0x07 => "MCA add-on card",
        0x08 => "PCMCIA add-on card",
        0x09 => "Proprietary add-on card",
        0x0A => "NuBus",
        0xA0 => "PC-98/C20 add-on card",
        0xA1 => "PC-98/C24 add-on card",
        0xA2 => "PC-98/E add-on card",
        0xA3 => "PC-98/Local bus add-on card",
        0xA4 => "CXL add-on card",
    }
}

code! {
    /// Use of a memory array (clause 7.17.2).
    ArrayUse(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "System memory",
        4 => "Video memory",
        5 => "Flash memory",
        6 => "Non-volatile RAM",
        7 => "Cache memory",
    }
}

code! {
    /// Error correction of a memory array (clause 7.17.3).
    ArrayEcc(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "None",
        4 => "Parity",
        5 => "Single-bit ECC",
        6 => "Multi-bit ECC",
        7 => "CRC",
    }
}

impl<'a> PhysicalMemoryArray<'a> {
    /// The largest capacity in bytes, from the extended field where the short one says so.
    pub fn maximum_capacity_bytes(&self) -> Option<Field<'a, u64>> {
        let short = self.maximum_capacity_kib()?;
        if short.value == 0x8000_0000 {
            return self.extended_maximum_capacity();
        }
        Some(short.map(|kib| u64::from(kib) << 10))
    }
}
