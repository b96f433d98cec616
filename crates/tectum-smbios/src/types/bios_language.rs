//! Type 13, BIOS Language Information (clause 7.14).

use crate::{Field, Text, bytes, field::structure};

structure! {
    /// The languages that the firmware speaks.
    BiosLanguage = 13, "BIOS Language Information" {
        /// How many languages there are.
        0x04 count: u8,
        /// Bit 0: language names in the short form.
        0x05 flags: u8,
    }
}

impl<'a> BiosLanguage<'a> {
    /// The languages, as many as the structure says.
    pub fn languages(&self) -> impl Iterator<Item = Text<'a>> + use<'a> {
        let structure = self.structure();
        let count = self.count().map_or(0, |field| field.value);
        (1..=count).map(move |index| structure.text(index))
    }

    /// The language it speaks now.
    pub fn current(&self) -> Option<Field<'a, Text<'a>>> {
        let structure = self.structure();
        let raw = bytes::slice(structure.formatted(), 0x15, 1)?;
        let index = raw.first().copied()?;
        Some(Field {
            handle: structure.handle(),
            offset: 0x15,
            bytes: raw,
            value: structure.text(index),
        })
    }

    /// Whether language names are in the short form (bit 0): `frCA` rather than `fr|CA|iso8859-1`.
    pub fn is_abbreviated(&self) -> Option<Field<'a, bool>> {
        Some(self.flags()?.map(|flags| flags & 0x01 != 0))
    }
}
