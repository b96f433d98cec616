//! Type 12, System Configuration Options (clause 7.13).

use crate::{Text, field::structure};

structure! {
    /// What jumpers and switches mean, as strings.
    ConfigurationOptions = 12, "System Configuration Options" {
        /// How many strings there are.
        0x04 count: u8,
    }
}

impl<'a> ConfigurationOptions<'a> {
    /// The strings, as many as the structure says; one it does not have is dangling.
    pub fn texts(&self) -> impl Iterator<Item = Text<'a>> + use<'a> {
        let structure = self.structure();
        let count = self.count().map_or(0, |field| field.value);
        (1..=count).map(move |index| structure.text(index))
    }
}
