//! Packed files of looks: each line by itself, so that the pieces that are asked for are unpacked and no others.
//!
//! A line is a frame of Zstandard (RFC 8878). Before one that holds a piece or a list stands a skippable frame
//! (clause 3.1.2) with its tag. Whoever unpacks the whole gets the text.

use std::{cell::RefCell, io};

use zstd::{
    bulk::{Compressor, Decompressor},
    zstd_safe::{find_frame_compressed_size, get_frame_content_size},
};

/// How hard is packed: a twentieth smaller takes twice as long.
const LEVEL: i32 = 1;

/// What a skippable frame begins with: one of the sixteen numbers that are kept for such.
const SKIPPABLE: [u8; 4] = 0x184D_2A57_u32.to_le_bytes();

thread_local! {
    // A look is some twenty lines, and an archive many thousands: what packs them is made once.
    static PACKER: RefCell<Option<Compressor<'static>>> = const { RefCell::new(None) };
    static UNPACKER: RefCell<Option<Decompressor<'static>>> = const { RefCell::new(None) };
}

/// What is told of a line before it: what kind it is, and the first bytes of its digest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Tag(pub(super) [u8; 9]);

/// Packs a line, behind its tag.
pub(super) fn pack(to: &mut Vec<u8>, tag: Option<Tag>, line: &[u8]) -> io::Result<()> {
    if let Some(Tag(tag)) = tag {
        to.extend_from_slice(&SKIPPABLE);
        to.extend_from_slice(&9_u32.to_le_bytes());
        to.extend_from_slice(&tag);
    }
    PACKER.with_borrow_mut(|packer| {
        let packer = match packer {
            Some(packer) => packer,
            None => {
                let mut new = Compressor::new(LEVEL)?;
                // A frame that is damaged is none, whatever it would be unpacked to.
                new.include_checksum(true)?;
                packer.insert(new)
            }
        };
        to.append(&mut packer.compress(line)?);
        Ok(())
    })
}

/// The lines of a packed file, each with its tag and yet packed; the last is nothing where the rest is damaged.
pub(super) fn frames(packed: &[u8]) -> impl Iterator<Item = Option<(Option<Tag>, &[u8])>> {
    let mut rest = Some(packed);
    std::iter::from_fn(move || {
        let own = rest.take().filter(|own| !own.is_empty())?;
        let (tag, own) = match next_tag(own) {
            Some((tag, behind)) => (Some(tag), behind),
            None => (None, own),
        };
        let cut = find_frame_compressed_size(own).ok().and_then(|end| own.split_at_checked(end));
        Some(cut.map(|(frame, behind)| {
            rest = Some(behind);
            (tag, frame)
        }))
    })
}

fn next_tag(packed: &[u8]) -> Option<(Tag, &[u8])> {
    let (length, rest) = packed.strip_prefix(&SKIPPABLE)?.split_first_chunk::<4>()?;
    let (tag, rest) = rest.split_first_chunk::<9>()?;
    (u32::from_le_bytes(*length) == 9).then_some((Tag(*tag), rest))
}

/// The line in a frame, no longer than so many bytes; nothing where it does not say how long it is, or cannot be
/// unpacked.
pub(super) fn unpack(frame: &[u8], most: usize) -> Option<Vec<u8>> {
    let length = usize::try_from(get_frame_content_size(frame).ok()??).ok()?;
    if length > most {
        return None;
    }
    UNPACKER.with_borrow_mut(|unpacker| {
        let by = match unpacker {
            Some(unpacker) => unpacker,
            None => unpacker.insert(Decompressor::new().ok()?),
        };
        by.decompress(frame, length).ok()
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    const LINES: [(Option<Tag>, &[u8]); 3] = [
        (None, b"{\"number\":1}\n"),
        (Some(Tag(*b"s12345678")), b"{\"section\":\"os\"}\n"),
        (Some(Tag(*b"s87654321")), b"{\"section\":\"cpu\"}\n"),
    ];

    fn packed() -> Vec<u8> {
        let mut packed = Vec::new();
        LINES.iter().for_each(|(tag, line)| pack(&mut packed, *tag, line).unwrap());
        packed
    }

    fn told(packed: &[u8]) -> Vec<(Option<Tag>, Option<Vec<u8>>)> {
        frames(packed).flatten().map(|(tag, frame)| (tag, unpack(frame, 1 << 20))).collect()
    }

    #[rstest]
    fn lines_come_back_with_their_tags_and_the_whole_is_the_text() {
        let expected: Vec<_> =
            LINES.iter().map(|(tag, line)| (*tag, Some(line.to_vec()))).collect();
        assert_eq!(told(&packed()), expected);
        let text: Vec<u8> = LINES.iter().flat_map(|(_, line)| line.to_vec()).collect();
        assert_eq!(zstd::decode_all(&packed()[..]).unwrap(), text);
        let (_, frame) =
            frames(&packed()).next().unwrap().map(|(tag, own)| (tag, own.to_vec())).unwrap();
        assert_eq!(unpack(&frame, 8), None, "longer than it may be");
    }

    #[rstest]
    fn of_what_is_cut_off_the_lines_before_are_left() {
        let packed = packed();
        let cut = packed.get(..packed.len() - 2).unwrap();
        assert_eq!(told(cut).len(), 2);
        assert!(frames(cut).last().unwrap().is_none());
    }

    proptest! {
        #[test]
        fn damaged_bytes_are_unpacked_to_lines_or_not_at_all(at: prop::sample::Index, byte: u8) {
            let mut packed = packed();
            let at = at.index(packed.len());
            packed[at] = byte;
            let told = told(&packed);
            prop_assert!(told.len() <= 4 && told.iter().flat_map(|(_, line)| line).all(|line| line.len() <= 1 << 20));
        }
    }
}
