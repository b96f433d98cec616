//! The entry point: where the structure table lies and which version it follows (clause 5.2).

use crate::{Version, bytes};

/// Which of the two published entry points was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum EntryPointKind {
    /// `_SM_`, 32-bit (clause 5.2.1).
    Bits32,
    /// `_SM3_`, 64-bit (clause 5.2.2).
    Bits64,
}

/// Whether an entry point's checksum holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Checksum {
    /// All bytes add up to zero, as they must.
    Holds,
    /// The bytes add up to this instead of zero. What stands in the entry point is still readable.
    Off(u8),
}

/// A decoded entry point.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EntryPoint {
    /// Which layout it has.
    pub kind: EntryPointKind,
    /// The version of the standard the table follows.
    pub version: Version,
    /// The document revision of the standard (`_SM3_` only).
    pub document_revision: Option<u8>,
    /// The table's length in bytes: exact for `_SM_`, the largest possible for `_SM3_`.
    pub table_length: u32,
    /// The table's physical address.
    pub table_address: u64,
    /// How many structures the table holds (`_SM_` only).
    pub structure_count: Option<u16>,
    /// The size of the largest structure in bytes, strings included (`_SM_` only).
    pub largest_structure: Option<u16>,
    /// The checksum over the whole entry point.
    pub checksum: Checksum,
    /// The checksum over the part that begins with `_DMI_` (`_SM_` only).
    pub intermediate_checksum: Option<Checksum>,
}

/// Why bytes are no entry point.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum EntryPointError {
    /// Neither anchor stands at the beginning.
    #[error("no `_SM_` or `_SM3_` anchor at the beginning; found bytes {found:02x?}")]
    NoAnchor {
        /// The bytes that stand there, five at the most.
        found: Vec<u8>,
    },
    /// Fewer bytes than the layout needs.
    #[error("the entry point needs {needed} bytes and has {found}")]
    TooShort {
        /// Bytes that the layout needs.
        needed: usize,
        /// Bytes that were given.
        found: usize,
    },
}

impl EntryPoint {
    /// Reads an entry point that begins at the first byte, as the kernel publishes it in
    /// `/sys/firmware/dmi/tables/smbios_entry_point`.
    ///
    /// # Errors
    /// When no anchor stands at the beginning or the bytes end early. A checksum that does not
    /// hold is told in the result, not an error: what is readable is read.
    pub fn parse(input: &[u8]) -> Result<Self, EntryPointError> {
        if input.starts_with(b"_SM3_") {
            Self::bits64(input).ok_or(EntryPointError::TooShort { needed: 24, found: input.len() })
        } else if input.starts_with(b"_SM_") {
            Self::bits32(input).ok_or(EntryPointError::TooShort { needed: 31, found: input.len() })
        } else {
            Err(EntryPointError::NoAnchor { found: input.iter().take(5).copied().collect() })
        }
    }

    fn bits32(input: &[u8]) -> Option<Self> {
        // Revision 2.1 of the standard gave the length as 1Eh by mistake where 1Fh was meant.
        let declared = usize::from(bytes::byte(input, 0x05)?).max(0x1F);
        Some(Self {
            kind: EntryPointKind::Bits32,
            version: Version { major: bytes::byte(input, 0x06)?, minor: bytes::byte(input, 0x07)? },
            document_revision: None,
            table_length: u32::from(bytes::word(input, 0x16)?),
            table_address: u64::from(bytes::dword(input, 0x18)?),
            structure_count: Some(bytes::word(input, 0x1C)?),
            largest_structure: Some(bytes::word(input, 0x08)?),
            checksum: checksum(bytes::slice(input, 0, declared.min(input.len()))?),
            // The last byte, the BCD revision, is where some tables end a byte early.
            intermediate_checksum: Some(checksum(input.get(0x10..input.len().min(0x1F))?)),
        })
    }

    fn bits64(input: &[u8]) -> Option<Self> {
        let declared = usize::from(bytes::byte(input, 0x06)?).max(0x18);
        Some(Self {
            kind: EntryPointKind::Bits64,
            version: Version { major: bytes::byte(input, 0x07)?, minor: bytes::byte(input, 0x08)? },
            document_revision: Some(bytes::byte(input, 0x09)?),
            table_length: bytes::dword(input, 0x0C)?,
            table_address: bytes::qword(input, 0x10)?,
            structure_count: None,
            largest_structure: None,
            checksum: checksum(bytes::slice(input, 0, declared.min(input.len()))?),
            intermediate_checksum: None,
        })
    }
}

fn checksum(covered: &[u8]) -> Checksum {
    match covered.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte)) {
        0 => Checksum::Holds,
        sum => Checksum::Off(sum),
    }
}
