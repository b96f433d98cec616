//! Type 2, Baseboard (or Module) Information (clause 7.3).

use crate::{
    Handle, Text,
    code::{code, flags},
    field::structure,
};

structure! {
    /// One circuit board: system board, riser, blade.
    BaseboardInformation = 2, "Baseboard Information" {
        /// The maker.
        0x04 manufacturer: Text<'a>,
        /// The product's name.
        0x05 product: Text<'a>,
        /// The version.
        0x06 version: Text<'a>,
        /// The serial number.
        0x07 serial_number: Text<'a>,
        /// The owner's inventory number.
        0x08 asset_tag: Text<'a>,
        /// Feature flags (clause 7.3.1).
        0x09 feature_flags: BoardFeatures,
        /// Where in its chassis the board sits, free text.
        0x0A location_in_chassis: Text<'a>,
        /// The chassis it sits in.
        0x0B chassis_handle: Handle,
        /// What kind of board it is (clause 7.3.2).
        0x0D board_type: BoardType,
        /// How many handles of contained objects follow.
        0x0E contained_count: u8,
    }
}

flags! {
    /// What a board is and can (clause 7.3.1).
    BoardFeatures(u8) {
        0 => "Hosting board",
        1 => "Requires at least one daughter board or auxiliary card",
        2 => "Removable",
        3 => "Replaceable",
        4 => "Hot swappable",
    }
}

code! {
    /// Kind of board (clause 7.3.2).
    BoardType(u8) {
        1 => "Unknown",
        2 => "Other",
        3 => "Server Blade",
        4 => "Connectivity Switch",
        5 => "System Management Module",
        6 => "Processor Module",
        7 => "I/O Module",
        8 => "Memory Module",
        9 => "Daughter board",
        10 => "Motherboard",
        11 => "Processor/Memory Module",
        12 => "Processor/IO Module",
        13 => "Interconnect board",
    }
}

impl<'a> BaseboardInformation<'a> {
    /// The handles of the structures that the board holds.
    pub fn contained_handles(&self) -> impl Iterator<Item = Handle> + use<'a> {
        let count = self.contained_count().map_or(0, |field| usize::from(field.value));
        super::handles(&self.structure(), 0x0F, count)
    }
}
