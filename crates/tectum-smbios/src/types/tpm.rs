//! Type 43, TPM Device (clause 7.44).

use crate::{Field, Text, bytes, code::flags, field::structure};

structure! {
    /// The Trusted Platform Module.
    TpmDevice = 43, "TPM Device" {
        /// Major version of the TPM specification: 1 or 2.
        0x08 major_version: u8,
        /// Minor version.
        0x09 minor_version: u8,
        /// Firmware version, by the specification's version.
        0x0A firmware_version_1: u32,
        /// More of the firmware version, for TPM 2.0.
        0x0E firmware_version_2: u32,
        /// What the maker calls it.
        0x12 description: Text<'a>,
        /// Characteristics (clause 7.44.1).
        0x13 characteristics: TpmCharacteristics,
        /// The maker's own double word.
        0x1B oem_defined: u32,
    }
}

flags! {
    /// How a TPM's family can be configured (clause 7.44.1).
    TpmCharacteristics(u64) {
        0 => "Reserved",
        1 => "Reserved",
        2 => "TPM device characteristics are not supported",
        3 => "Family configurable via firmware update",
        4 => "Family configurable via platform software support",
        5 => "Family configurable via OEM proprietary mechanism",
    }
}

impl<'a> TpmDevice<'a> {
    /// The vendor's id: up to four letters; `None` also where they are no ASCII.
    pub fn vendor_id(&self) -> Option<Field<'a, &'a str>> {
        let structure = self.structure();
        let raw = bytes::slice(structure.formatted(), 0x04, 4)?;
        let end = raw.iter().position(|byte| *byte == 0).unwrap_or(raw.len());
        let text = std::str::from_utf8(raw.get(..end)?).ok()?;
        let printable = text.bytes().all(|byte| byte.is_ascii_graphic() || byte == b' ');
        printable.then(|| Field {
            handle: structure.handle(),
            offset: 0x04,
            bytes: raw,
            value: text.trim_end(),
        })
    }
}
