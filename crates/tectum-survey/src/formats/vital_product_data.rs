//! Vital product data pages of SCSI devices (SPC-6 clause 7.7, SBC-5 clause 6.6, SAT-5 clause
//! 12.4.2), as the kernel keeps them in `device/vpd_pg80` and its like.

use tectum_report::leaf::{Identifies, Redact};

use crate::source::bytes_text;

/// The text of a unit serial number page (80h), trimmed; `None` where it is another page.
pub fn unit_serial_number(page: &[u8]) -> Option<String> {
    let body = body(page, 0x80)?;
    Some(trimmed(body))
}

/// What the ATA information page (89h) says of the drive: it holds the drive's own identify data.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AtaInformation {
    /// Model, in full.
    pub model: String,
    /// Serial number.
    pub serial: String,
    /// Firmware revision.
    pub firmware_revision: String,
}

/// Reads an ATA information page (89h); `None` where it is another page or too short.
pub fn ata_information(page: &[u8]) -> Option<AtaInformation> {
    let body = body(page, 0x89)?;
    // IDENTIFY (PACKET) DEVICE data begin at byte 60 of the page (SAT-5 table 183).
    let identify = body.get(56..)?;
    let words = |first: usize, last: usize| {
        identify.get(first * 2..(last + 1) * 2).map(|bytes| trimmed(&swapped(bytes)))
    };
    // Words of the identify data: ACS-4 clause 7.13.6.
    Some(AtaInformation {
        model: words(27, 46)?,
        serial: words(10, 19)?,
        firmware_revision: words(23, 26)?,
    })
}

/// What the block device characteristics page (B1h) says of the drive (SBC-5 clause 6.6.2).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct BlockCharacteristics {
    /// Turns a minute; 0 where nothing turns; `None` where the drive does not say.
    pub rotation_rpm: Option<u64>,
    /// Nominal width in the trade's inches; `None` where the drive does not say.
    pub form_factor: Option<&'static str>,
}

/// Reads a block device characteristics page; `None` where it is another page or too short.
pub fn block_characteristics(page: &[u8]) -> Option<BlockCharacteristics> {
    let [high, low, _, form, ..] = *body(page, 0xB1)? else { return None };
    Some(BlockCharacteristics {
        rotation_rpm: match u16::from_be_bytes([high, low]) {
            1 => Some(0),
            rate @ 0x0401..=0xFFFE => Some(u64::from(rate)),
            _ => None,
        },
        form_factor: match form & 0x0F {
            1 => Some("5.25 inch"),
            2 => Some("3.5 inch"),
            3 => Some("2.5 inch"),
            4 => Some("1.8 inch"),
            5 => Some("less than 1.8 inch"),
            _ => None,
        },
    })
}

/// The surest id of the logical unit in a device identification page (83h, SPC-6 clause 7.7.6), in
/// the kernel's form: `naa.…`, `eui.…`, a SCSI name, `t10.…`; `None` where there is none.
pub fn designator(page: &[u8]) -> Option<String> {
    let mut rest = body(page, 0x83)?;
    let mut best: Option<(u8, String)> = None;
    while let Some([code_set, kind, _, length]) = rest.first_chunk() {
        let Some(id) = rest.get(4..4 + usize::from(*length)) else { break };
        rest = rest.get(4 + id.len()..).unwrap_or_default();
        // Only what designates the logical unit, not a port or the whole target.
        if kind & 0x30 != 0 || id.is_empty() {
            continue;
        }
        let text = || code_set & 0x0F != 1;
        let found = match kind & 0x0F {
            3 if !text() => (0, format!("naa.{}", hex::encode(id))),
            2 if !text() => (1, format!("eui.{}", hex::encode(id))),
            8 => (2, trimmed(id)),
            1 if text() => (3, format!("t10.{}", trimmed(id))),
            _ => continue,
        };
        if best.as_ref().is_none_or(|(rank, _)| found.0 < *rank) {
            best = Some(found);
        }
    }
    best.map(|(_, id)| id)
}

/// What the block limits page (B0h) says (SBC-5 clause 6.6.4).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct BlockLimits {
    /// Blocks in a transfer that suits the device best; `None` where it does not say.
    pub optimal_transfer_blocks: Option<u64>,
}

/// Reads a block limits page; `None` where it is another page or too short.
pub fn block_limits(page: &[u8]) -> Option<BlockLimits> {
    let blocks =
        body(page, 0xB0)?.get(8..12)?.first_chunk().map(|four| u32::from_be_bytes(*four))?;
    Some(BlockLimits { optimal_transfer_blocks: (blocks != 0).then(|| u64::from(blocks)) })
}

/// How a device sets space aside, by its logical block provisioning page (B2h, SBC-5 clause 6.6.7).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Provisioning {
    /// It does not say, or all of it is set aside.
    Unsaid,
    /// Resources are set aside for the whole.
    Resource,
    /// What is written takes space; there may be less than it says.
    Thin,
}

/// Reads a logical block provisioning page; `None` where it is another page or too short.
pub fn provisioning(page: &[u8]) -> Option<Provisioning> {
    Some(match body(page, 0xB2)?.get(2)? & 0x07 {
        1 => Provisioning::Resource,
        2 => Provisioning::Thin,
        _ => Provisioning::Unsaid,
    })
}

/// The part of a page behind its header, no longer than the header says.
fn body(page: &[u8], code: u8) -> Option<&[u8]> {
    let [_, found, high, low] = *page.first_chunk()?;
    if found != code {
        return None;
    }
    let rest = page.get(4..)?;
    let length = usize::from(u16::from_be_bytes([high, low])).min(rest.len());
    rest.get(..length)
}

/// ATA writes two characters a word, the first in the upper half.
fn swapped(bytes: &[u8]) -> Vec<u8> {
    bytes.chunks_exact(2).flat_map(|pair| pair.iter().rev().copied()).collect()
}

fn trimmed(bytes: &[u8]) -> String {
    let end = bytes.iter().position(|byte| *byte == 0).unwrap_or(bytes.len());
    bytes_text(bytes.get(..end).unwrap_or_default()).trim().to_owned()
}

/// A page, fit to share: serial numbers and designators are made anew where they stand, limits stay,
/// all else is emptied; `None` for a page that no section reads.
pub(crate) fn redacted(page: &[u8], by: &dyn Redact) -> Option<Vec<u8>> {
    let [_, code, ..] = *page.first_chunk::<4>()?;
    let length = body(page, code)?.len();
    let mut new = page.get(..4 + length)?.to_vec();
    match code {
        0x80 => text_anew(new.get_mut(4..)?, by, Identifies::Serial),
        0x83 => designators_anew(new.get_mut(4..)?, by)?,
        0x89 => {
            let mut kept = vec![0; new.len()];
            kept.get_mut(..4)?.copy_from_slice(page.get(..4)?);
            // Words 10 to 19, 23 to 26 and 27 to 46 of the identify data.
            for (first, last, serial) in [(10, 19, true), (23, 26, false), (27, 46, false)] {
                let range = 60 + first * 2..60 + (last + 1) * 2;
                let Some(words) = new.get(range.clone()) else { continue };
                let mut text = swapped(words);
                if serial {
                    text_anew(&mut text, by, Identifies::Serial);
                }
                kept.get_mut(range)?.copy_from_slice(&swapped(&text));
            }
            new = kept;
        }
        0xB0..=0xB2 => {}
        _ => return None,
    }
    Some(new)
}

/// A text in its field: made anew where it stands, its blanks kept.
fn text_anew(field: &mut [u8], by: &dyn Redact, kind: Identifies) {
    let said = trimmed(field);
    let end = field.iter().position(|byte| *byte == 0).unwrap_or(field.len());
    // What stands behind the end of the text is no part of it.
    field.get_mut(end..).unwrap_or_default().fill(0);
    let fresh = said_anew(&said, by, kind);
    let start = field.windows(said.len().max(1)).position(|part| part == said.as_bytes());
    match start.and_then(|start| field.get_mut(start..start + said.len())) {
        Some(place) if place.len() == fresh.len() => place.copy_from_slice(fresh.as_bytes()),
        _ => field.fill(b' '),
    }
}

/// A text as what it is, but for one that says nothing.
fn said_anew(said: &str, by: &dyn Redact, kind: Identifies) -> String {
    if tectum_smbios::is_filler(said) { said.to_owned() } else { by.text(kind, said) }
}

fn designators_anew(mut rest: &mut [u8], by: &dyn Redact) -> Option<()> {
    while let Some([code_set, kind, _, length]) = rest.first_chunk().copied() {
        let length = usize::from(length);
        if rest.len() < 4 + length {
            rest.fill(0);
            break;
        }
        let (one, behind) = std::mem::take(&mut rest).split_at_mut(4 + length);
        rest = behind;
        let (head, id) = one.split_at_mut(4);
        *head.get_mut(2)? = 0;
        let binary = code_set & 0x0F == 1;
        let prefix = match (kind & 0x0F, binary) {
            (3, true) => "naa.",
            (2, true) => "eui.",
            (8, _) => "",
            (1, false) => "t10.",
            _ => {
                id.fill(0);
                continue;
            }
        };
        if kind & 0x30 != 0 {
            id.fill(0);
        } else if binary && !prefix.is_empty() {
            let text =
                by.text(Identifies::WorldWideName, &format!("{prefix}{}", hex::encode(&*id)));
            let fresh = hex::decode(text.strip_prefix(prefix)?).ok()?;
            id.copy_from_slice(fresh.get(..id.len())?);
        } else {
            let said = trimmed(id);
            let fresh = by.text(Identifies::WorldWideName, &format!("{prefix}{said}"));
            let fresh = fresh.strip_prefix(prefix)?;
            let start = id.windows(said.len().max(1)).position(|part| part == said.as_bytes());
            match start.and_then(|start| id.get_mut(start..start + said.len())) {
                Some(place) if place.len() == fresh.len() => {
                    place.copy_from_slice(fresh.as_bytes())
                }
                _ => id.fill(b' '),
            }
        }
    }
    Some(())
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn a_serial_number_page_gives_its_text() {
        let mut page = vec![0, 0x80, 0, 8];
        page.extend(b"  AB-1  more");
        assert_eq!(unit_serial_number(&page).as_deref(), Some("AB-1"));
        page[1] = 0x83;
        assert_eq!(unit_serial_number(&page), None);
    }

    #[test]
    fn a_characteristics_page_gives_rotation_and_width() {
        let page = |rate: u16, form: u8| {
            let [high, low] = rate.to_be_bytes();
            block_characteristics(&[0, 0xB1, 0, 0x3C, high, low, 0, form, 0])
        };
        let said = |rate, form| page(rate, form).map(|it| (it.rotation_rpm, it.form_factor));
        assert_eq!(said(7200, 2), Some((Some(7200), Some("3.5 inch"))));
        assert_eq!(said(1, 0x13), Some((Some(0), Some("2.5 inch"))));
        assert_eq!(said(0, 0), Some((None, None)));
        assert_eq!(said(0x0400, 9), Some((None, None)), "reserved");
        assert_eq!(block_characteristics(&[0, 0xB1, 0, 0x3C, 1]), None);
    }

    #[test]
    fn the_surest_id_of_the_logical_unit_is_taken() {
        let mut page = vec![0, 0x83, 0, 35];
        page.extend([2, 1, 0, 7]);
        page.extend(b"T10 ID ");
        page.extend([1, 3, 0, 8, 0x50, 0, 0xc5, 0, 0xa1, 0xb2, 0xc3, 0xd4]);
        page.extend([1, 0x13, 0, 8, 0x60, 0, 0xc5, 0, 0xa1, 0xb2, 0xc3, 0xd4]);
        assert_eq!(designator(&page).as_deref(), Some("naa.5000c500a1b2c3d4"));
        page[3] = 11;
        assert_eq!(designator(&page).as_deref(), Some("t10.T10 ID"), "no longer than it says");
        page[3] = 10;
        assert_eq!(designator(&page), None, "a designator that is cut is none");
    }

    #[test]
    fn limits_and_provisioning() {
        let mut page = vec![0, 0xB0, 0, 0x3C];
        page.resize(64, 0);
        assert_eq!(block_limits(&page).unwrap().optimal_transfer_blocks, None);
        page[14] = 1;
        assert_eq!(block_limits(&page).unwrap().optimal_transfer_blocks, Some(256));
        assert_eq!(provisioning(&[0, 0xB2, 0, 4, 0, 0xE4, 2, 0]), Some(Provisioning::Thin));
        assert_eq!(provisioning(&[0, 0xB2, 0, 4, 0, 0, 1, 0]), Some(Provisioning::Resource));
        assert_eq!(provisioning(&[0, 0xB2, 0, 1, 0]), None);
    }

    proptest! {
        #[test]
        fn no_page_makes_it_panic(mut page in proptest::collection::vec(any::<u8>(), 0..700)) {
            let _ = unit_serial_number(&page);
            if let Some(code) = page.get_mut(1) {
                *code = 0x89;
            }
            let _ = ata_information(&page);
            if let Some(code) = page.get_mut(1) {
                *code = 0xB1;
            }
            let _ = block_characteristics(&page);
            for code in [0x83, 0xB0, 0xB2] {
                if let Some(found) = page.get_mut(1) {
                    *found = code;
                }
                let _ = (designator(&page), block_limits(&page), provisioning(&page));
            }
        }
    }
}
