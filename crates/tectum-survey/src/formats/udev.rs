//! Records of the udev database (`/run/udev/data`): lines `E:KEY=value`.

use std::borrow::Cow;

use super::{Line, assignment::Assignment, escape::put_back, lines};

/// The properties of a record.
pub fn properties(text: &str) -> Vec<Assignment<'_>> {
    lines(text)
        .filter_map(|line: Line<'_>| {
            let (key, value) = line.raw.strip_prefix("E:")?.split_once('=')?;
            Some(Assignment { key, value: Cow::Borrowed(value), line })
        })
        .collect()
}

/// Puts back what keys that end in `_ENC` write as `\xNN`.
pub fn decode(value: &str) -> String {
    crate::source::bytes_text(&decode_bytes(value)).into_owned()
}

/// The same, as bytes.
pub(crate) fn decode_bytes(value: &str) -> Vec<u8> {
    let digit = |byte: u8| char::from(byte).to_digit(16);
    put_back(value.as_bytes(), |code| match code {
        [b'x', high, low] => u8::try_from(digit(high)? << 4 | digit(low)?).ok(),
        _ => None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn coded_bytes_are_put_back() {
        assert_eq!(decode(r"cold\x20store\x2f\xc3\xa9\x"), "cold store/é\\x");
        assert_eq!(decode("\\x41é\\"), "Aé\\");
    }

    #[test]
    fn only_properties_are_read() {
        let text = "S:disk/by-id/x\nE:ID_FS_TYPE=ext4\nE:broken\nV:1\n";
        let found = properties(text);
        assert_eq!(found.len(), 1);
        assert_eq!(
            (found[0].key, &*found[0].value, found[0].line.number),
            ("ID_FS_TYPE", "ext4", 2)
        );
    }
}
