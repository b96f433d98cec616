//! Type 11, OEM Strings (clause 7.12).

use crate::{Text, field::structure};

structure! {
    /// Free-form strings of the maker.
    OemStrings = 11, "OEM Strings" {
        /// How many strings there are.
        0x04 count: u8,
    }
}

impl<'a> OemStrings<'a> {
    /// The strings, as many as the structure says; one it does not have is dangling.
    pub fn texts(&self) -> impl Iterator<Item = Text<'a>> + use<'a> {
        let structure = self.structure();
        let count = self.count().map_or(0, |field| field.value);
        (1..=count).map(move |index| structure.text(index))
    }
}
