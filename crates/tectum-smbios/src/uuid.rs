//! The system UUID (clause 7.2.1).

use crate::Version;

/// Sixteen bytes as they stand in the table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Uuid(pub [u8; 16]);

impl Uuid {
    /// All bits set: the firmware has no UUID and none can be set (clause 7.2.1: "not currently
    /// present in the system, but it can be set" is all ones, "not present" all zeros).
    pub fn is_all_ones(&self) -> bool {
        self.0.iter().all(|byte| *byte == 0xFF)
    }

    /// All bits clear.
    pub fn is_all_zeros(&self) -> bool {
        self.0.iter().all(|byte| *byte == 0)
    }

    /// The UUID as text, lower case, in the byte order of the table's version: from 2.6 on the
    /// first three fields are little-endian, before it all bytes stand in network order.
    pub fn to_text(&self, version: Version) -> String {
        let mut bytes = self.0;
        if version >= (Version { major: 2, minor: 6 }) {
            for range in [0..4, 4..6, 6..8] {
                if let Some(field) = bytes.get_mut(range) {
                    field.reverse();
                }
            }
        }
        let mut text = String::with_capacity(36);
        for (index, byte) in bytes.iter().enumerate() {
            if matches!(index, 4 | 6 | 8 | 10) {
                text.push('-');
            }
            text.push_str(&format!("{byte:02x}"));
        }
        text
    }
}
