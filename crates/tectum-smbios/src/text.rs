//! A string field: an index into the structure's string set (clause 6.1.3).

use std::borrow::Cow;

/// A string as a field names it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Text<'a> {
    /// The index that stands in the field; 0 says that there is no string.
    pub index: u8,
    /// The string's bytes; `None` for index 0 and for an index past the string set.
    pub bytes: Option<&'a [u8]>,
}

impl<'a> Text<'a> {
    /// Whether the field says that there is no string (index 0).
    pub fn is_unset(&self) -> bool {
        self.index == 0
    }

    /// Whether the index points past the structure's strings: the table contradicts itself.
    pub fn is_dangling(&self) -> bool {
        self.index != 0 && self.bytes.is_none()
    }

    /// The string where it is valid UTF-8 (of which the standard's ASCII is a part).
    pub fn as_str(&self) -> Option<&'a str> {
        std::str::from_utf8(self.bytes?).ok()
    }

    /// The string with every byte that is not part of valid UTF-8 written as `\xNN`, so that no
    /// byte is lost and none is guessed.
    pub fn escaped(&self) -> Option<Cow<'a, str>> {
        let bytes = self.bytes?;
        if let Ok(text) = std::str::from_utf8(bytes) {
            return Some(Cow::Borrowed(text));
        }
        let mut text = String::with_capacity(bytes.len() + 8);
        for chunk in bytes.utf8_chunks() {
            text.push_str(chunk.valid());
            for byte in chunk.invalid() {
                text.push_str(&format!("\\x{byte:02X}"));
            }
        }
        Some(Cow::Owned(text))
    }
}
