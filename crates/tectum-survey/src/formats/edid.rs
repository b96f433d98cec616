//! What a display says of itself (VESA Enhanced EDID Standard, release A, revision 2), as the kernel
//! shows it in a connector's `edid`.

use tectum_report::leaf::{Identifies, Redact};

use crate::source::bytes_text;

/// The base block of an EDID.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Display {
    /// The maker's three letters, as the registry of PNP ids gives them out.
    pub maker: String,
    /// The maker's number for the product.
    pub product: u16,
    /// The serial number in the header; 0 where there is none.
    pub serial_number: u32,
    /// The serial number as a text.
    pub serial_text: Option<String>,
    /// The display's name.
    pub name: Option<String>,
    /// Week in which it was made, from 1; `None` where it does not say.
    pub week: Option<u8>,
    /// Year in which it was made, or the model's.
    pub year: u16,
    /// Version and revision of the structure.
    pub version: (u8, u8),
    /// Whether it takes a digital signal.
    pub digital: bool,
    /// Width and height of the picture in centimetres; `None` where it has no fixed size.
    pub size_cm: Option<(u8, u8)>,
    /// The timing that it likes best.
    pub preferred: Option<Mode>,
    /// Extension blocks that it says follow.
    pub extensions: u8,
    /// Whether the bytes of the base block add up to a multiple of 256.
    pub checksum_holds: bool,
}

/// A timing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Mode {
    /// Pixels in a line.
    pub width: u16,
    /// Lines.
    pub height: u16,
    /// Pictures in a thousand seconds.
    pub millihertz: u64,
    /// Whether a picture comes in two halves.
    pub interlaced: bool,
}

/// Length of a block.
pub const BLOCK: usize = 128;

const MAGIC: [u8; 8] = [0, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0];

impl Display {
    /// Reads the base block; `None` where the bytes do not begin with one.
    pub fn parse(bytes: &[u8]) -> Option<Self> {
        let block: &[u8; BLOCK] = bytes.first_chunk()?;
        if !block.starts_with(&MAGIC) {
            return None;
        }
        let &[
            _,
            _,
            _,
            _,
            _,
            _,
            _,
            _,
            m1,
            m2,
            p1,
            p2,
            s1,
            s2,
            s3,
            s4,
            week,
            year,
            version,
            revision,
            input,
            width,
            height,
            ..,
        ] = block;
        // Where there is no height there is an aspect ratio in its stead.
        let size_cm = (width != 0 && height != 0).then_some((width, height));
        Some(Self {
            maker: maker(u16::from_be_bytes([m1, m2])),
            product: u16::from_le_bytes([p1, p2]),
            serial_number: u32::from_le_bytes([s1, s2, s3, s4]),
            serial_text: text(block, 0xFF),
            name: text(block, 0xFC),
            // 255 says that the year is the model's.
            week: (1..=54).contains(&week).then_some(week),
            year: 1990 + u16::from(year),
            version: (version, revision),
            digital: input & 0x80 != 0,
            size_cm,
            preferred: descriptors(block).next().and_then(mode),
            extensions: block.get(126).copied().unwrap_or(0),
            checksum_holds: block.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte)) == 0,
        })
    }
}

/// Three letters, five bits each, A being 1.
fn maker(code: u16) -> String {
    [10, 5, 0]
        .into_iter()
        .map(|shift| match u8::try_from(code >> shift & 0x1F) {
            Ok(letter @ 1..=26) => char::from(b'A' + letter - 1),
            _ => '?',
        })
        .collect()
}

/// The four descriptors of 18 bytes.
fn descriptors(block: &[u8; BLOCK]) -> impl Iterator<Item = &[u8]> {
    [54, 72, 90, 108].into_iter().filter_map(|at| block.get(at..at + 18))
}

/// The text of the first descriptor of a kind: up to a line feed, blanks behind it cut.
fn text(block: &[u8; BLOCK], tag: u8) -> Option<String> {
    let descriptor = descriptors(block).find(|it| it.starts_with(&[0, 0, 0, tag]))?;
    let text = descriptor.get(5..)?.split(|byte| *byte == 0x0A).next()?;
    let text = bytes_text(text).trim_matches(|c: char| c == '\0' || c.is_whitespace()).to_owned();
    (!text.is_empty()).then_some(text)
}

/// A detailed timing (clause 3.10.2).
fn mode(descriptor: &[u8]) -> Option<Mode> {
    let byte = |at: usize| descriptor.get(at).copied().map(u16::from);
    let clock = u64::from(byte(0)? | byte(1)? << 8) * 10_000;
    if clock == 0 {
        return None;
    }
    let width = byte(2)? | (byte(4)? & 0xF0) << 4;
    let blank = byte(3)? | (byte(4)? & 0x0F) << 8;
    let height = byte(5)? | (byte(7)? & 0xF0) << 4;
    let vertical = byte(6)? | (byte(7)? & 0x0F) << 8;
    let all = u64::from(width + blank) * u64::from(height + vertical);
    Some(Mode {
        width,
        height,
        millihertz: (clock * 1000).checked_div(all)?,
        interlaced: byte(17)? & 0x80 != 0,
    })
}

/// The serial number in the header counts only where it has so many different bytes.
pub(crate) fn counts(serial_number: u32) -> bool {
    let mut bytes = serial_number.to_le_bytes().to_vec();
    bytes.retain(|byte| *byte != 0);
    bytes.sort_unstable();
    bytes.dedup();
    bytes.len() >= 3
}

/// The base block, fit to share: serial numbers are made anew, descriptors and extension blocks that
/// no section reads are emptied.
pub(crate) fn redacted(bytes: &[u8], by: &dyn Redact) -> Option<Vec<u8>> {
    let read = Display::parse(bytes)?;
    let mut new = bytes.get(..BLOCK)?.to_vec();
    if counts(read.serial_number) {
        let text = by.text(Identifies::Serial, &format!("0x{:08x}", read.serial_number));
        let number = u32::from_str_radix(text.strip_prefix("0x")?, 16).ok()?;
        new.get_mut(12..16)?.copy_from_slice(&number.to_le_bytes());
    }
    for at in [54, 72, 90, 108] {
        let descriptor = new.get_mut(at..at + 18)?;
        match *descriptor.first_chunk()? {
            [0, 0, 0, 0xFF, _] => {
                let text = descriptor.get_mut(5..)?;
                let end = text.iter().position(|byte| *byte == 0x0A).unwrap_or(text.len());
                let own = text.get_mut(..end)?;
                let said = bytes_text(own).trim_matches(['\0', ' ']).to_owned();
                let fresh = by.text(Identifies::Serial, &said);
                let start = own.iter().position(|byte| !matches!(byte, 0 | b' ')).unwrap_or(0);
                // A text of other bytes than letters does not fit where it stood.
                let place = own.get_mut(start..start + said.len());
                match place.filter(|_| fresh.len() == said.len()) {
                    Some(place) => place.copy_from_slice(fresh.as_bytes()),
                    None => own.fill(b' '),
                }
            }
            // A name, limits, or a timing.
            [0, 0, 0, 0xFC | 0xFD, _] => {}
            [0, 0, ..] => {
                descriptor.fill(0);
                *descriptor.get_mut(3)? = 0x10;
            }
            _ => {}
        }
    }
    // The sum holds again, or not again.
    let sum = new.get(..BLOCK - 1)?.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
    *new.last_mut()? = sum.wrapping_neg().wrapping_add(u8::from(!read.checksum_holds));
    new.resize(bytes.len(), 0);
    Some(new)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn block() -> Vec<u8> {
        let mut block = vec![0u8; 128];
        block[..8].copy_from_slice(&MAGIC);
        // S, C, T: 19, 3, 20.
        let code: u16 = 19 << 10 | 3 << 5 | 20;
        block[8..10].copy_from_slice(&code.to_be_bytes());
        block[10..12].copy_from_slice(&0x2718u16.to_le_bytes());
        block[12..16].copy_from_slice(&0x0102_0304u32.to_le_bytes());
        block[16..24].copy_from_slice(&[12, 34, 1, 4, 0xA5, 60, 34, 120]);
        // 1920 by 1080 at 148.5 MHz, 280 and 45 blank.
        block[54..72].copy_from_slice(&[
            0x02, 0x3A, 0x80, 0x18, 0x71, 0x38, 0x2D, 0x40, 0x58, 0x2C, 0x45, 0, 0, 0, 0, 0, 0,
            0x1E,
        ]);
        block[72..90].copy_from_slice(b"\0\0\0\xFC\0Tide Wall\n   ");
        block[90..108].copy_from_slice(b"\0\0\0\xFF\0SC-0042\n     ");
        let sum = block.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
        block[127] = 0u8.wrapping_sub(sum);
        block
    }

    #[test]
    fn a_display_says_who_it_is() {
        let display = Display::parse(&block()).unwrap();
        assert_eq!((display.maker.as_str(), display.product), ("SCT", 0x2718));
        assert_eq!(display.name.as_deref(), Some("Tide Wall"));
        assert_eq!(display.serial_text.as_deref(), Some("SC-0042"));
        assert_eq!(display.serial_number, 0x0102_0304);
        assert_eq!((display.week, display.year), (Some(12), 2024));
        assert_eq!(display.size_cm, Some((60, 34)));
        assert!(display.digital && display.checksum_holds);
        let mode = display.preferred.unwrap();
        assert_eq!((mode.width, mode.height, mode.millihertz), (1920, 1080, 60_000));
    }

    #[test]
    fn what_is_no_base_block_is_nothing() {
        assert_eq!(Display::parse(&block()[..127]), None);
        assert_eq!(Display::parse(&[1; 128]), None);
        let mut wrong = block();
        wrong[127] ^= 1;
        assert!(!Display::parse(&wrong).unwrap().checksum_holds);
    }

    proptest! {
        #[test]
        fn no_bytes_make_it_panic(mut bytes in proptest::collection::vec(any::<u8>(), 0..300)) {
            let _ = Display::parse(&bytes);
            if let Some(head) = bytes.get_mut(..8) {
                head.copy_from_slice(&MAGIC);
            }
            let _ = Display::parse(&bytes);
        }
    }
}
