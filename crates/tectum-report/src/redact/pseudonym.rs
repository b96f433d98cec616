//! Pseudonyms of plain texts: of the same form, a digit for a digit, a letter for a letter.

use ring::hmac::{Context, HMAC_SHA256, Key};

use crate::leaf::{Identifies, volume_part};

/// Layers of logical volumes, as device-mapper names them.
const LAYERS: [&str; 16] = [
    "cdata", "cmeta", "corig", "cow", "cpool", "cvol", "imeta", "mimage", "mlog", "pool", "real",
    "tdata", "tmeta", "tpool", "vdata", "vpool",
];

/// What makes pseudonyms of texts, of a key of any length.
pub(super) fn key(bytes: &[u8]) -> Key {
    Key::new(HMAC_SHA256, bytes)
}

/// A text of the same form, by the key alone.
pub fn pseudonym(key_bytes: &[u8], kind: Identifies, text: &str) -> String {
    same_form(&key(key_bytes), kind, text)
}

pub(super) fn same_form(key: &Key, kind: Identifies, text: &str) -> String {
    // A prefix that says what kind of name it is, is no secret.
    let number = kind == Identifies::Serial
        && text.strip_prefix("0x").is_some_and(|digits| {
            !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_hexdigit())
        });
    let keep = match kind {
        Identifies::WorldWideName => text.find('.').map_or(0, |dot| dot + 1),
        _ if number => 2,
        _ => 0,
    };
    let (prefix, rest) = text.split_at_checked(keep).unwrap_or(("", text));
    // What layer of a logical volume it is, device-mapper writes behind the volume's id.
    let (rest, suffix) = match rest.rsplit_once('-') {
        Some((id, layer)) if kind == Identifies::Uuid && LAYERS.contains(&layer) => {
            (id, rest.get(id.len()..).unwrap_or_default())
        }
        // That it is a part of another volume, LVM writes behind the volume's name.
        _ if kind == Identifies::Label => {
            let at = volume_part(rest).unwrap_or(rest.len());
            rest.split_at_checked(at).unwrap_or((rest, ""))
        }
        _ => (rest, ""),
    };
    let folded = rest.to_ascii_lowercase();
    let hex = rest.chars().all(|c| c.is_ascii_hexdigit() || matches!(c, '-' | ':' | '.'));
    let hex = hex
        && matches!(
            kind,
            Identifies::Uuid | Identifies::MachineId | Identifies::WorldWideName | Identifies::Mac
        );
    let hex = hex || number;
    // One number written with dashes and without is one number.
    let folded = if hex { folded.replace('-', "") } else { folded };
    for round in 0u32..16 {
        let mut stream = Stream::new(key, &folded, round);
        let mut new: String = rest.chars().map(|character| stream.like(character, hex)).collect();
        if kind == Identifies::Mac {
            new = of_one_station(rest, new);
        }
        if new != rest {
            return format!("{prefix}{new}{suffix}");
        }
    }
    text.to_owned()
}

/// An endless stream of bytes that follows from a key and a text. The text is gone over once, however
/// long the stream: what it becomes is the key to the rest.
struct Stream {
    seed: Key,
    block: u64,
    bytes: Vec<u8>,
}

impl Stream {
    fn new(own: &Key, text: &str, round: u32) -> Self {
        let seed = key(&digest(own, &[&round.to_be_bytes(), text.as_bytes()]));
        Self { seed, block: 0, bytes: Vec::new() }
    }

    fn next(&mut self) -> u32 {
        if self.bytes.len() < 2 {
            self.bytes.extend(digest(&self.seed, &[&self.block.to_be_bytes()]));
            self.block += 1;
        }
        let high = self.bytes.pop().unwrap_or(0);
        let low = self.bytes.pop().unwrap_or(0);
        u32::from(high) << 8 | u32::from(low)
    }

    /// A character of the same kind and length in bytes.
    fn like(&mut self, character: char, hex: bool) -> char {
        let from = |first: u32, count: u32, number: u32| {
            char::from_u32(first + number % count).unwrap_or(character)
        };
        match character {
            '0'..='9' | 'a'..='f' if hex => {
                char::from_digit(self.next() % 16, 16).unwrap_or(character)
            }
            'A'..='F' if hex => {
                char::from_digit(self.next() % 16, 16).unwrap_or(character).to_ascii_uppercase()
            }
            '0'..='9' => from(u32::from(b'0'), 10, self.next()),
            'a'..='z' => from(u32::from(b'a'), 26, self.next()),
            'A'..='Z' => from(u32::from(b'A'), 26, self.next()),
            sign if !sign.is_alphanumeric() => sign,
            other => match other.len_utf8() {
                2 => from(0xC0, 0x40, self.next()),
                3 => from(0x3041, 0x50, self.next()),
                _ => from(0x1F600, 0x40, self.next()),
            },
        }
    }
}

/// The two lowest bits of a MAC address's first octet say whether it is of one station and whether its
/// maker gave it out (IEEE 802-2014 clause 8.2.2): they say nothing of which one, and stay.
fn of_one_station(old: &str, new: String) -> String {
    let digit = |text: &str| text.chars().nth(1).and_then(|digit| digit.to_digit(16));
    let (Some(was), Some(is)) = (digit(old), digit(&new)) else { return new };
    let kept = char::from_digit(is & 0b1100 | was & 0b0011, 16).unwrap_or('0');
    new.chars().enumerate().map(|(at, digit)| if at == 1 { kept } else { digit }).collect()
}

/// HMAC-SHA-256 (RFC 2104) of some pieces.
pub(super) fn digest(key: &Key, pieces: &[&[u8]]) -> Vec<u8> {
    let mut mac = Context::with_key(key);
    for piece in pieces {
        mac.update(piece);
    }
    mac.sign().as_ref().to_vec()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(Identifies::Serial, "MS-F2240-00731")]
    #[case(Identifies::Uuid, "5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c33")]
    #[case(Identifies::WorldWideName, "naa.5000a1b2c3d40417")]
    #[case(Identifies::Label, "Åse €")]
    #[case(Identifies::HostName, "vm")]
    fn a_pseudonym_has_the_form_of_its_text(#[case] kind: Identifies, #[case] text: &str) {
        let new = pseudonym(b"key", kind, text);
        assert_ne!(new, text);
        assert_eq!(new, pseudonym(b"key", kind, text), "the same key gives the same");
        assert_ne!(new, pseudonym(b"another", kind, text));
        assert_eq!(new.len(), text.len());
        let form =
            |text: &str| -> Vec<bool> { text.chars().map(|c| c.is_alphanumeric()).collect() };
        assert_eq!(form(&new), form(text));
        if kind == Identifies::WorldWideName {
            assert!(new.starts_with("naa.") && new[4..].chars().all(|c| c.is_ascii_hexdigit()));
        }
    }

    /// Of what layer a volume is, is no secret, and what it is called is.
    #[rstest]
    #[case(Identifies::Label, "tide-home_rimage_0", "_rimage_0")]
    #[case(Identifies::Label, "pool_tdata", "_tdata")]
    #[case(Identifies::Uuid, "LVM-5b8f3c02-tpool", "-tpool")]
    fn what_layer_it_is_stays(#[case] kind: Identifies, #[case] text: &str, #[case] layer: &str) {
        let new = pseudonym(b"key", kind, text);
        let own = text.strip_suffix(layer).unwrap();
        assert!(new.ends_with(layer) && !new.starts_with(own), "{new}");
    }

    #[test]
    fn a_mac_address_stays_one_of_one_station() {
        for key in 0u8..40 {
            let new = pseudonym(&[key], Identifies::Mac, "02:5c:a7:00:00:41");
            let first = u8::from_str_radix(&new[..2], 16).unwrap();
            assert_eq!(first & 0b11, 0b10, "{new}");
        }
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic_or_grow(text in "\\PC{0,40}") {
            for kind in [
                Identifies::Serial,
                Identifies::Uuid,
                Identifies::WorldWideName,
                Identifies::Label,
            ] {
                prop_assert_eq!(pseudonym(b"k", kind, &text).len(), text.len());
            }
        }
    }
}
