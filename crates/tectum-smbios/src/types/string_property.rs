//! Type 46, String Property (clause 7.47).

use crate::{Handle, Text, code::code, field::structure};

structure! {
    /// A string that another structure has no field for.
    StringProperty = 46, "String Property" {
        /// What the string says.
        0x04 property_id: StringPropertyId,
        /// The string.
        0x06 value: Text<'a>,
        /// The structure it belongs to.
        0x07 parent_handle: Handle,
    }
}

code! {
    /// What a string property says (clause 7.47.1); 32768 to 49151 are the vendor's, 49152 on the
    /// product's.
    StringPropertyId(u16) {
        1 => "UEFI device path",
    }
}
