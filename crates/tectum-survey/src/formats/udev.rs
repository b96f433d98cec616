//! Records of the udev database (`/run/udev/data`): lines `E:KEY=value`.

use std::borrow::Cow;

use tectum_report::leaf::{Identifies, Redact, Whose};

use super::{Line, assignment::Assignment, escape::put_back, line_by_line, lines};

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

/// Writes what [`decode`] puts back, as udev does for keys that end in `_ENC`.
fn encode(value: &str) -> String {
    let mut new = String::with_capacity(value.len());
    for byte in value.bytes() {
        match byte {
            b'0'..=b'9'
            | b'a'..=b'z'
            | b'A'..=b'Z'
            | b'#'
            | b'+'
            | b'-'
            | b'.'
            | b':'
            | b'='
            | b'@'
            | b'_' => new.push(char::from(byte)),
            other => new.push_str(&format!("\\x{other:02x}")),
        }
    }
    new
}

/// What a property that sections use is; none of the others is shared.
fn meaning(key: &str) -> Option<Whose> {
    Some(match key {
        "ID_FS_TYPE"
        | "ID_PART_ENTRY_TYPE"
        | "ID_PART_TABLE_TYPE"
        | "ID_MODEL_ENC"
        | "ID_CDROM_MEDIA"
        | "ID_PART_ENTRY_SIZE"
        | "ID_PART_ENTRY_FLAGS"
        | "ID_PART_ENTRY_SCHEME" => Whose::Makers,
        "ID_FS_LABEL" | "ID_FS_LABEL_ENC" | "ID_PART_ENTRY_NAME" | "MD_DEVNAME" | "MD_NAME"
        | "DM_VG_NAME" | "DM_LV_NAME" => Whose::Owners(Identifies::Label),
        "ID_FS_UUID" | "ID_PART_ENTRY_UUID" | "ID_PART_TABLE_UUID" => {
            Whose::Owners(Identifies::Uuid)
        }
        "ID_SERIAL_SHORT" => Whose::Owners(Identifies::Serial),
        "ID_NET_NAME_ONBOARD" | "ID_NET_NAME_PATH" | "ID_NET_NAME_SLOT" | "ID_NET_NAME_MAC" => {
            Whose::Owners(Identifies::InterfaceName)
        }
        _ => return None,
    })
}

/// A record, fit to share: the properties that sections use, each made anew as what it is.
pub(crate) fn redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let one = raw.strip_prefix("E:").and_then(|rest| rest.split_once('='));
        let Some((key, value)) = one else { return String::new() };
        // Names of partitions are written with escapes too.
        let coded = key.ends_with("_ENC") || key == "ID_PART_ENTRY_NAME";
        let new = match meaning(key) {
            None => return String::new(),
            Some(Whose::Owners(kind)) if coded => encode(&by.text(kind, &decode(value))),
            Some(Whose::Owners(kind)) => by.text(kind, value),
            Some(_) => value.to_owned(),
        };
        format!("E:{key}={new}")
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
