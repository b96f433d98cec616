//! Type 40, Additional Information (clause 7.41).

use crate::{Handle, Text, field::structure};

structure! {
    /// More about fields of other structures.
    AdditionalInformation = 40, "Additional Information" {
        /// How many entries follow.
        0x04 entry_count: u8,
    }
}

/// More about one field of another structure (clause 7.41.1).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AdditionalEntry<'a> {
    /// The structure it is about.
    pub referenced_handle: Handle,
    /// The offset of the field it is about.
    pub referenced_offset: u8,
    /// What there is to say.
    pub text: Text<'a>,
    /// The value that stands for the field's, by the field's size.
    pub value: &'a [u8],
}

impl<'a> AdditionalInformation<'a> {
    /// The entries, as many as the structure holds whole.
    pub fn entries(&self) -> impl Iterator<Item = AdditionalEntry<'a>> + use<'a> {
        let structure = self.structure();
        let mut rest = structure.formatted().get(5..).unwrap_or_default();
        let count = self.entry_count().map_or(0, |field| usize::from(field.value));
        (0..count).map_while(move |_| {
            let length = usize::from(*rest.first()?);
            // An entry shorter than its own head would never end.
            let entry = rest.get(..length).filter(|_| length >= 5)?;
            rest = rest.get(length..).unwrap_or_default();
            match entry {
                [_, low, high, offset, string, value @ ..] => Some(AdditionalEntry {
                    referenced_handle: Handle(u16::from_le_bytes([*low, *high])),
                    referenced_offset: *offset,
                    text: structure.text(*string),
                    value,
                }),
                _ => None,
            }
        })
    }
}
