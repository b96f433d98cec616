//! Type 45, Firmware Inventory Information (clause 7.46).

use crate::{
    Field, Handle, Text,
    code::{code, flags},
    field::structure,
};

structure! {
    /// One piece of firmware of the machine.
    FirmwareInventory = 45, "Firmware Inventory Information" {
        /// What it is called.
        0x04 component_name: Text<'a>,
        /// Its version, in the form that the next field says.
        0x05 version: Text<'a>,
        /// The version's form (clause 7.46.1).
        0x06 version_format: u8,
        /// Its id, in the form that the next field says.
        0x07 firmware_id: Text<'a>,
        /// The id's form (clause 7.46.2).
        0x08 firmware_id_format: u8,
        /// Release date, as in RFC 3339 or free text.
        0x09 release_date: Text<'a>,
        /// The maker.
        0x0A manufacturer: Text<'a>,
        /// The oldest version that it can be set back to.
        0x0B lowest_supported_version: Text<'a>,
        /// Size of the image in bytes; all ones is unknown.
        0x0C image_size_raw: u64,
        /// Characteristics (clause 7.46.3).
        0x14 characteristics: FirmwareCharacteristics,
        /// Its state.
        0x16 state: FirmwareState,
        /// How many handles of associated components follow.
        0x17 associated_count: u8,
    }
}

code! {
    /// State of a piece of firmware (clause 7.46.4).
    FirmwareState(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Disabled",
        0x04 => "Enabled",
        0x05 => "Absent",
        0x06 => "StandbyOffline",
        0x07 => "StandbySpare",
        0x08 => "UnavailableOffline",
    }
}

flags! {
    /// What can be done with a piece of firmware (clause 7.46.3).
    FirmwareCharacteristics(u16) {
        0 => "Updatable",
        1 => "Write-Protected",
    }
}

impl<'a> FirmwareInventory<'a> {
    /// Size of the image in bytes; `None` also where the firmware does not know it.
    pub fn image_size_bytes(&self) -> Option<Field<'a, u64>> {
        self.image_size_raw().filter(|size| size.value != u64::MAX)
    }

    /// The structures of what it belongs to, as many as the structure holds.
    pub fn associated_handles(&self) -> impl Iterator<Item = Handle> + use<'a> {
        let count = self.associated_count().map_or(0, |field| usize::from(field.value));
        super::handles(&self.structure(), 0x18, count)
    }
}
