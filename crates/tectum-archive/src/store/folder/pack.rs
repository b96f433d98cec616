//! Packed texts: each line by itself, so that of a state the sections that are asked for are unpacked and no
//! others.
//!
//! A line is a frame of Zstandard (RFC 8878). Before one that holds a section stands a skippable frame (clause
//! 3.1.2) with the section's name. Whoever unpacks the whole gets the text.

use std::{cell::RefCell, io};

use zstd::{
    bulk::{Compressor, Decompressor},
    zstd_safe::{find_frame_compressed_size, get_frame_content_size},
};

use crate::written::state::{BEHIND, is_head, lines, put_together, section_of};

/// How hard is packed: a tenth smaller takes four times as long.
const LEVEL: i32 = 3;

/// What a skippable frame begins with: one of the sixteen numbers that are kept for such.
const SKIPPABLE: [u8; 4] = 0x184D_2A57_u32.to_le_bytes();

thread_local! {
    // A look is some twenty files, and an archive many thousands: what packs them is made once.
    static PACKER: RefCell<Option<Compressor<'static>>> = const { RefCell::new(None) };
    static UNPACKER: RefCell<Option<Decompressor<'static>>> = const { RefCell::new(None) };
}

/// Packs a text.
pub(super) fn pack(text: &[u8]) -> io::Result<Vec<u8>> {
    PACKER.with_borrow_mut(|packer| {
        let packer = match packer {
            Some(packer) => packer,
            None => packer.insert(Compressor::new(LEVEL)?),
        };
        packed_by(packer, text)
    })
}

fn packed_by(packer: &mut Compressor<'_>, text: &[u8]) -> io::Result<Vec<u8>> {
    let mut packed = Vec::with_capacity(text.len() / 3);
    for line in lines(text) {
        if let Some(section) = section_of(line)
            && let Ok(length) = u32::try_from(section.len())
        {
            packed.extend_from_slice(&SKIPPABLE);
            packed.extend_from_slice(&length.to_le_bytes());
            packed.extend_from_slice(section.as_bytes());
        }
        packed.append(&mut packer.compress(line)?);
    }
    Ok(packed)
}

/// Unpacks frames, together no longer than so many bytes; nothing for one that does not say how long it is.
struct Unpacker<'a> {
    by: &'a mut Decompressor<'static>,
    left: usize,
}

impl Unpacker<'_> {
    fn frame(&mut self, frame: &[u8]) -> Option<Vec<u8>> {
        let length = usize::try_from(get_frame_content_size(frame).ok()??).ok()?;
        self.left = self.left.checked_sub(length)?;
        self.by.decompress(frame, length).ok()
    }
}

/// Does something with what unpacks up to so many bytes.
fn unpacking<T>(most: usize, work: impl FnOnce(&mut Unpacker<'_>) -> Option<T>) -> Option<T> {
    UNPACKER.with_borrow_mut(|unpacker| {
        let by = match unpacker {
            Some(unpacker) => unpacker,
            None => unpacker.insert(Decompressor::new().ok()?),
        };
        work(&mut Unpacker { by, left: most })
    })
}

/// The whole text, no longer than so many bytes; nothing where its frames do not say how long they are, or
/// cannot be unpacked.
pub(super) fn unpacked(packed: &[u8], most: usize) -> Option<Vec<u8>> {
    unpacking(most, |unpacker| {
        let mut text = Vec::new();
        let mut rest = packed;
        while !rest.is_empty() {
            let behind = next_name(rest).map_or(rest, |(_, behind)| behind);
            let (frame, behind) = next_frame(behind)?;
            let mut own = unpacker.frame(frame)?;
            match text.is_empty() {
                true => text = own,
                false => text.append(&mut own),
            }
            rest = behind;
        }
        Some(text)
    })
}

/// The text with these sections alone, no longer than so many bytes; nothing where it was packed otherwise, or
/// cannot be unpacked.
pub(super) fn unpacked_in_part(packed: &[u8], sections: &[&str], most: usize) -> Option<Vec<u8>> {
    unpacking(most, |unpacker| {
        let (head, mut rest) = next_frame(packed)?;
        let head = unpacker.frame(head).filter(|line| is_head(line))?;
        let mut wanted = Vec::new();
        while let Some((section, behind)) = next_name(rest) {
            let (frame, behind) = next_frame(behind)?;
            if sections.contains(&section) {
                let line = unpacker.frame(frame);
                wanted.push(line.filter(|line| section_of(line) == Some(section))?);
            }
            rest = behind;
        }
        let (frame, rest) = next_frame(rest)?;
        let ends = rest.is_empty() && unpacker.frame(frame)? == BEHIND;
        ends.then(|| put_together(&head, &wanted))
    })
}

/// A frame, and what stands behind it.
fn next_frame(packed: &[u8]) -> Option<(&[u8], &[u8])> {
    packed.split_at_checked(find_frame_compressed_size(packed).ok()?)
}

/// The name in a skippable frame, and what stands behind it.
fn next_name(packed: &[u8]) -> Option<(&str, &[u8])> {
    let (length, rest) = packed.strip_prefix(&SKIPPABLE)?.split_first_chunk::<4>()?;
    let (name, rest) = rest.split_at_checked(usize::try_from(u32::from_le_bytes(*length)).ok()?)?;
    Some((std::str::from_utf8(name).ok()?, rest))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;
    use serde_json::json;

    use super::*;
    use crate::written::State;

    const MOST: usize = 1 << 20;

    fn text() -> Vec<u8> {
        let inventory =
            json!({"cpu": {"cores": 4}, "memory": {"modules": []}, "os": {"name": "x\ny"}});
        State::new(inventory, "sha256:00".to_owned()).text().unwrap()
    }

    #[rstest]
    #[case(&["memory"])]
    #[case(&["os", "cpu"])]
    #[case(&[])]
    fn sections_are_unpacked_as_they_are_cut_out_of_the_text(#[case] sections: &[&str]) {
        let packed = pack(&text()).unwrap();
        let expected = State::text_in_part(&text(), sections);
        assert!(expected.is_some());
        assert_eq!(unpacked_in_part(&packed, sections, MOST), expected);
        assert_eq!(zstd::decode_all(&packed[..]).unwrap(), text());
        assert_eq!(unpacked(&packed, MOST), Some(text()));
        assert_eq!(unpacked(&packed, 8), None);
    }

    #[rstest]
    fn what_was_packed_otherwise_or_is_longer_than_it_may_be_is_not_unpacked_in_part() {
        let at_once = zstd::encode_all(&text()[..], 3).unwrap();
        assert_eq!(unpacked_in_part(&at_once, &["os"], MOST), None);
        let packed = pack(&text()).unwrap();
        assert_eq!(unpacked_in_part(&packed, &["os"], 8), None);
        // The name before a section is another than its own.
        let at = packed.windows(6).position(|bytes| bytes == b"memory").unwrap();
        let mut renamed = packed.clone();
        renamed[at..at + 6].copy_from_slice(b"sensor");
        assert_eq!(unpacked_in_part(&renamed, &["sensor"], MOST), None);
    }

    proptest! {
        #[test]
        fn bytes_that_are_damaged_are_unpacked_to_a_text_or_not_at_all(
            at in 0_usize..400, byte: u8, end in 0_usize..400,
        ) {
            let mut packed = pack(&text()).unwrap();
            let at = at % packed.len();
            packed[at] = byte;
            packed.truncate(packed.len().max(1) - end % packed.len());
            if let Some(part) = unpacked_in_part(&packed, &["os"], MOST) {
                prop_assert!(part.len() <= MOST);
            }
            if let Some(whole) = unpacked(&packed, MOST) {
                prop_assert_eq!(zstd::decode_all(&packed[..]).ok(), Some(whole));
            }
        }
    }
}
