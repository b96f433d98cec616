//! The system UUID (clause 7.2.1).

use crate::Version;

/// Sixteen bytes as they stand in the table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Uuid(pub [u8; 16]);

/// What firmware carries where nobody gave the machine a UUID, in network order. Machines that have one of these are not
/// one machine.
const FILLERS: [u128; 7] = [
    // 2 to 9, each in two bytes.
    0x0002_0003_0004_0005_0006_0007_0008_0009,
    0x0011_2233_4455_6677_8899_AABB_CCDD_EEFF,
    0x0123_4567_89AB_CDEF_0123_4567_89AB_CDEF,
    0x1111_1111_2222_3333_4444_5555_5555_5555,
    0x1234_5678_1234_1234_1234_1234_5678_9ABC,
    0x1234_5678_1234_5678_1234_5678_1234_5678,
    0x1234_5678_1234_5678_90AB_CDDE_EFAA_BBCC,
];

impl Uuid {
    /// The UUID in a text, whose bytes stand as they are written; nothing for another text.
    pub fn from_text(text: &str) -> Option<Self> {
        let digits: Vec<char> = text.trim().chars().filter(|sign| *sign != '-').collect();
        let mut bytes = [0; 16];
        if digits.len() != 2 * bytes.len() {
            return None;
        }
        for (byte, pair) in bytes.iter_mut().zip(digits.chunks(2)) {
            let value = pair.iter().try_fold(0, |all, sign| Some(all * 16 + sign.to_digit(16)?))?;
            *byte = u8::try_from(value).ok()?;
        }
        Some(Self(bytes))
    }

    /// Whether it tells no machine from another: all bits set or clear (clause 7.2.1: "not currently present in the
    /// system, but it can be set" is all ones, "not present" all zeros), one byte over and over, or what firmware carries
    /// where nobody filled it in, in whichever order of bytes.
    pub fn says_nothing(&self) -> bool {
        let alike = self.0.iter().all(|byte| Some(byte) == self.0.first());
        let known = |bytes: [u8; 16]| FILLERS.contains(&u128::from_be_bytes(bytes));
        alike || known(self.0) || known(self.turned())
    }

    /// The same with its first three fields in the other order of bytes.
    fn turned(&self) -> [u8; 16] {
        let mut bytes = self.0;
        for range in [0..4, 4..6, 6..8] {
            if let Some(field) = bytes.get_mut(range) {
                field.reverse();
            }
        }
        bytes
    }

    /// The UUID as text, lower case, in the byte order of the table's version: from 2.6 on the
    /// first three fields are little-endian, before it all bytes stand in network order.
    pub fn to_text(&self, version: Version) -> String {
        let little_endian = version >= (Version { major: 2, minor: 6 });
        let bytes = if little_endian { self.turned() } else { self.0 };
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
