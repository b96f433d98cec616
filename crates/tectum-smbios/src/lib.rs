//! Reads SMBIOS (DMI) firmware tables as the DMTF standard DSP0134 lays them out:
//! bytes to structures to typed records.
//!
//! The crate does no I/O, holds no `unsafe`, and takes every byte as untrusted: no input makes it
//! panic, loop for ever or allocate more than the walk's few words. Clause numbers in the
//! documentation are those of DSP0134 version 3.7.0.
//!
//! Three layers, each usable alone, and [`inspect`] for what is odd about a table as a whole:
//!
//! 1. [`EntryPoint`]: where the table is, how long, and of which version (clause 5.2);
//! 2. [`walk`]: the table's bytes to [`Structure`]s with their strings (clause 6.1);
//! 3. [`types`]: a structure to a record whose accessors give each field with the offset and the
//!    raw bytes it was read from, or `None` where the structure ends before the field.
//!
//! ```
//! use tectum_smbios::{walk, types::SystemInformation};
//!
//! // Type 1, length 8, handle 0x0100: manufacturer is string 1, product is string 2.
//! let mut table = vec![1, 8, 0x00, 0x01, 1, 2, 0, 0];
//! table.extend(b"Holm Works\0Tide 4\0\0");
//! table.extend([127, 4, 0xFF, 0xFE, 0, 0]);
//!
//! let first = walk(&table).next().unwrap().unwrap();
//! let system = SystemInformation::from_structure(first).unwrap();
//! assert_eq!(system.manufacturer().unwrap().value.as_str(), Some("Holm Works"));
//! // The structure is eight bytes long, so the UUID at offset 8 is absent, not zero.
//! assert!(system.uuid().is_none());
//! ```

mod bytes;
mod code;
mod entry_point;
mod field;
mod filler;
mod inspection;
mod structure;
mod text;
pub mod types;
mod uuid;

pub use code::Flag;
pub use entry_point::{Checksum, EntryPoint, EntryPointError, EntryPointKind};
pub use field::{DecodedField, Field, FieldSpec};
pub use filler::is_filler;
pub use inspection::{Inspection, Oddity, inspect};
pub use structure::{Handle, Structure, TableProblem, Walk, walk};
pub use text::Text;
pub use uuid::Uuid;

/// The version of the standard that a table says it follows (clause 5.2).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Version {
    /// Major version.
    pub major: u8,
    /// Minor version.
    pub minor: u8,
}

impl std::fmt::Display for Version {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}.{}", self.major, self.minor)
    }
}
