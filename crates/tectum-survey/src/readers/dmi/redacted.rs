//! The structure table, fit to share: rewritten structure by structure and field by field.

use tectum_report::leaf::{Identifies, Redact};
use tectum_smbios::{Structure, Uuid, Version, is_filler, types, walk};

/// String fields that tell one machine from all others: the structure's type, the field's offset
/// (DSP0134 clause 7), what stands there.
const IDENTIFYING: [(u8, usize, Identifies); 12] = [
    (1, 0x07, Identifies::Serial),
    (2, 0x07, Identifies::Serial),
    (2, 0x08, Identifies::AssetTag),
    (3, 0x07, Identifies::Serial),
    (3, 0x08, Identifies::AssetTag),
    (4, 0x20, Identifies::Serial),
    (4, 0x21, Identifies::AssetTag),
    (17, 0x18, Identifies::Serial),
    (17, 0x19, Identifies::AssetTag),
    (22, 0x07, Identifies::Serial),
    (39, 0x08, Identifies::Serial),
    (39, 0x09, Identifies::AssetTag),
];

/// Structures of which every string is the maker's or owner's own: OEM strings, system
/// configuration options, and what no section decodes.
fn holds_free_text(kind: u8) -> bool {
    matches!(kind, 11 | 12) || crate::sections::is_other_structure(kind)
}

/// Leaves of a structure the numbers and codes that the standard defines; UUIDs and what it does not
/// define go.
fn only_fields(kind: u8, new: &mut [u8]) {
    let kept: Vec<bool> = {
        let fields = types::fixed_fields(kind).iter().filter(|field| field.len < UUID);
        let ranges: Vec<_> = fields.map(|field| field.offset..field.offset + field.len).collect();
        (0..new.len()).map(|at| at < 4 || ranges.iter().any(|range| range.contains(&at))).collect()
    };
    for (byte, kept) in new.iter_mut().zip(kept) {
        if !kept {
            *byte = 0;
        }
    }
}

/// Bytes of a UUID.
const UUID: usize = 16;

/// The table with every identifying text made anew where it stands. What no section decodes is
/// emptied, so that it holds no more than the copy says.
pub(crate) fn table(bytes: &[u8], version: Version, by: &dyn Redact) -> Vec<u8> {
    let mut new = vec![0; bytes.len()];
    for structure in walk(bytes).filter_map(Result::ok) {
        let formatted = formatted(&structure, version, by);
        let at = structure.offset();
        put(&mut new, at, &formatted);
        put(&mut new, at + formatted.len(), &strings(&structure, by));
    }
    new
}

fn put(new: &mut [u8], at: usize, bytes: &[u8]) {
    if let Some(place) = new.get_mut(at..at + bytes.len()) {
        place.copy_from_slice(bytes);
    }
}

fn formatted(structure: &Structure<'_>, version: Version, by: &dyn Redact) -> Vec<u8> {
    let mut new = structure.formatted().to_vec();
    match structure.kind() {
        kind if crate::sections::is_other_structure(kind) => only_fields(kind, &mut new),
        1 => {
            if let Some(place) = new.get_mut(0x08..0x18)
                && let Ok(own) = <[u8; 16]>::try_from(&*place)
            {
                uuid(place, Uuid(own), version, by);
            }
        }
        22 => {
            if let Some(place) = new.get_mut(0x10..0x12)
                && let Ok(own) = <[u8; 2]>::try_from(&*place)
                && own != [0, 0]
            {
                let text = format!("0x{:04X}", u16::from_le_bytes(own));
                let fresh = by.text(Identifies::Serial, &text);
                let number =
                    fresh.strip_prefix("0x").and_then(|it| u16::from_str_radix(it, 16).ok());
                place.copy_from_slice(&number.unwrap_or(0).to_le_bytes());
            }
        }
        42 => host_interface(&mut new),
        _ => {}
    }
    new
}

/// A UUID in the order of the table's version (clause 7.2.1), unless it is one that says nothing.
fn uuid(place: &mut [u8], own: Uuid, version: Version, by: &dyn Redact) {
    if own.says_nothing() {
        return;
    }
    let text = by.text(Identifies::Uuid, &own.to_text(version)).replace('-', "");
    let fresh = hex::decode(text).ok().and_then(|bytes| <[u8; 16]>::try_from(bytes).ok());
    // Which bytes stand where is its own inverse.
    let turned =
        fresh.and_then(|bytes| hex::decode(Uuid(bytes).to_text(version).replace('-', "")).ok());
    match turned {
        Some(bytes) if bytes.len() == place.len() => place.copy_from_slice(&bytes),
        _ => place.fill(0),
    }
}

/// What an interface to a management controller is reached by may be an address or a name: the kinds
/// of device and protocol stay (clause 7.43).
fn host_interface(new: &mut [u8]) {
    let length = usize::from(new.get(5).copied().unwrap_or(0));
    let empty = |new: &mut [u8], from: usize, to: usize| {
        let to = to.min(new.len());
        if let Some(place) = new.get_mut(from..to) {
            place.fill(0);
        }
    };
    empty(new, 7, 6 + length);
    let count = usize::from(new.get(6 + length).copied().unwrap_or(0));
    let mut at = 7 + length;
    for _ in 0..count {
        let Some(own) = new.get(at + 1).copied() else { break };
        empty(new, at + 2, at + 2 + usize::from(own));
        at += 2 + usize::from(own);
    }
    empty(new, at, new.len());
}

fn strings(structure: &Structure<'_>, by: &dyn Redact) -> Vec<u8> {
    let kind = structure.kind();
    let mut new = Vec::with_capacity(structure.string_bytes().len());
    for (index, own) in structure.strings().enumerate() {
        let named = IDENTIFYING.iter().find(|(of, offset, _)| {
            let field = structure.formatted().get(*offset);
            *of == kind && field.is_some_and(|field| usize::from(*field) == index + 1)
        });
        let what = match named {
            Some((_, _, what)) => Some(*what),
            None if holds_free_text(kind) => Some(Identifies::FreeText),
            None => None,
        };
        match what {
            Some(what) => new.extend(text_anew(own, what, by)),
            None => new.extend_from_slice(own),
        }
        new.push(0);
    }
    // The walk gives the strings without the zero byte that ends the last of them, or all of it.
    new.truncate(structure.string_bytes().len());
    new
}

/// A string, its blanks kept; one that says nothing stays.
fn text_anew(own: &[u8], what: Identifies, by: &dyn Redact) -> Vec<u8> {
    let Ok(text) = std::str::from_utf8(own) else {
        // The pseudonym of what it is shown as would be longer than its place.
        return vec![b'?'; own.len()];
    };
    let said = text.trim();
    if said.is_empty() || is_filler(said) {
        return own.to_vec();
    }
    let fresh = by.text(what, said);
    match fresh.len() == said.len() {
        true => text.replacen(said, &fresh, 1).into_bytes(),
        false => vec![b'?'; own.len()],
    }
}
