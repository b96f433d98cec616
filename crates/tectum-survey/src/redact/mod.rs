//! Captures fit to share: raw files in which the texts that identify are replaced wherever they
//! stand, in every form in which a raw file holds them.
//!
//! A pseudonym has as many bytes as its text, so raw firmware tables and device pages stay whole
//! when the text inside them is replaced.

use std::collections::{BTreeMap, BTreeSet};

use aho_corasick::{AhoCorasick, Input, MatchKind};
use serde_json::Value;
use tectum_report::{
    Report,
    leaf::{Identifies, Redact, Whose},
    redact::{Pseudonyms, RedactError, address},
    walk::Met,
};

/// The kinds of text that are searched for in raw files. Others would be found where they are
/// ordinary words, and stay as they are: whoever writes a redacted capture says so.
pub const SEARCHED: [Identifies; 10] = [
    Identifies::Serial,
    Identifies::Uuid,
    Identifies::WorldWideName,
    Identifies::Mac,
    Identifies::Address,
    Identifies::HostName,
    Identifies::AssetTag,
    Identifies::Label,
    Identifies::MachineId,
    Identifies::FreeText,
];

/// Texts shorter than this are replaced only where they stand by themselves, not within a word.
const ALONE: usize = 6;

/// What stands before a name or label in the files that are read. A short word of letters alone
/// (`data`, `boot`) is an ordinary word everywhere else.
const CONTEXTS: [&str; 13] = [
    "LABEL=",
    "LABEL_ENC=",
    "PARTNAME=",
    "ENTRY_NAME=",
    "SERIAL=",
    "DM_NAME=",
    "DM_VG_NAME=",
    "DM_LV_NAME=",
    "MD_DEVNAME=",
    "SERIAL_SHORT=",
    "HOSTNAME=",
    "by-label/",
    "by-partlabel/",
];

/// Where a text counts as standing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Stands {
    /// Wherever its bytes are.
    Anywhere,
    /// Where no letter or digit touches it.
    Alone,
    /// Where the word ends behind it: it has its context in front.
    InContext,
}

/// What to replace, and by what.
pub struct Redactor {
    search: AhoCorasick,
    /// For each pattern: what replaces it, and where.
    replacements: Vec<(Vec<u8>, Stands)>,
    /// Patterns that stand in a pseudonym: short labels have few of their form, so that one's
    /// pseudonym may be another's text.
    again: BTreeSet<usize>,
    /// Short words that are replaced where they are all there is.
    whole: BTreeMap<Vec<u8>, Vec<u8>>,
    /// The key, if network addresses are replaced.
    addresses: Option<Vec<u8>>,
}

impl Redactor {
    /// Collects the identifying texts of a report, but for the kinds to keep.
    ///
    /// # Errors
    /// When there are more texts than can be searched for.
    pub fn new(report: &Report, pseudonyms: &Pseudonyms) -> Result<Self, RedactError> {
        let key = pseudonyms.key();
        let mut patterns: BTreeMap<Vec<u8>, (Vec<u8>, Stands)> = BTreeMap::new();
        let mut whole = BTreeMap::new();
        report.walk(&mut |_, _, met| {
            let Met::Leaf(fact) = met else { return };
            let Whose::Owners(kind) = fact.leaf_shape().whose else { return };
            if !pseudonyms.replaces(kind) || !SEARCHED.contains(&kind) {
                return;
            }
            let texts = match fact.json() {
                Some(Value::String(text)) => vec![text],
                Some(Value::Array(items)) => {
                    items.iter().filter_map(|item| item.as_str().map(str::to_owned)).collect()
                }
                _ => Vec::new(),
            };
            for text in texts.into_iter().filter(|text| !text.trim().is_empty()) {
                let new = pseudonyms.text(kind, &text);
                if new == text {
                    continue;
                }
                if is_ordinary_word(&text) {
                    for context in CONTEXTS {
                        let form = |word: &str| format!("{context}{word}").into_bytes();
                        patterns.entry(form(&text)).or_insert((form(&new), Stands::InContext));
                    }
                    whole.insert(text.into_bytes(), new.into_bytes());
                    continue;
                }
                for (original, pseudonym) in forms(key, kind, &text, new.clone()) {
                    // What tells nothing (a loopback address) stays as it is.
                    if original == pseudonym {
                        continue;
                    }
                    // One address may begin as another does.
                    let short = original.len() < ALONE || kind == Identifies::Address;
                    let stands = if short { Stands::Alone } else { Stands::Anywhere };
                    patterns.entry(original).or_insert((pseudonym, stands));
                }
            }
        });
        let search = AhoCorasick::builder()
            .match_kind(MatchKind::LeftmostLongest)
            .build(patterns.keys())
            .map_err(|error| RedactError::Search(error.to_string()))?;
        let addresses = pseudonyms.replaces(Identifies::Address).then(|| key.to_vec());
        let replacements: Vec<(Vec<u8>, Stands)> = patterns.into_values().collect();
        let mut redactor = Self { search, replacements, again: BTreeSet::new(), whole, addresses };
        let mut again = BTreeSet::new();
        for pseudonym in
            redactor.replacements.iter().map(|(new, _)| new).chain(redactor.whole.values())
        {
            redactor.each(pseudonym, |pattern, _, _| {
                again.insert(pattern);
            });
        }
        redactor.again = again;
        Ok(redactor)
    }

    /// The bytes with every identifying text replaced, each by as many bytes.
    ///
    /// Short words of letters alone are replaced where they are all there is, or stand as a name or
    /// label; elsewhere they are ordinary words.
    pub fn bytes(&self, bytes: &[u8]) -> Vec<u8> {
        if let Some((word, new)) = self.whole(bytes) {
            let mut copy = new.clone();
            copy.extend_from_slice(bytes.get(word.len()..).unwrap_or_default());
            return copy;
        }
        self.within(bytes)
    }

    /// The bytes of the file at a path, with every identifying text replaced.
    pub fn file(&self, path: &std::path::Path, bytes: &[u8]) -> Vec<u8> {
        match (&self.addresses, std::str::from_utf8(bytes)) {
            (Some(key), Ok(text)) if path.ends_with("net/fib_trie") => {
                address::every(key, text).into_bytes()
            }
            _ => self.bytes(bytes),
        }
    }

    /// The short word that bytes are, but for blanks behind it.
    fn whole<'a>(&'a self, bytes: &'a [u8]) -> Option<(&'a [u8], &'a Vec<u8>)> {
        let end = bytes.iter().rposition(|byte| !matches!(byte, b' ' | b'\n' | 0))?;
        let word = bytes.get(..=end)?;
        Some((word, self.whole.get(word)?))
    }

    /// The same, where a short word that is all there is counts as an ordinary one: names of files.
    pub fn within(&self, bytes: &[u8]) -> Vec<u8> {
        let mut copy = Vec::with_capacity(bytes.len());
        let mut done = 0;
        // A network address may get longer or shorter, which no table of bytes could bear.
        let fixed = bytes.contains(&0);
        self.each(bytes, |_, place, pseudonym| {
            copy.extend_from_slice(bytes.get(done..place.start).unwrap_or_default());
            let filled = pseudonym.iter().copied().chain(std::iter::repeat(b'0'));
            let length = if fixed { place.len() } else { pseudonym.len() };
            copy.extend(filled.take(length));
            done = place.end;
        });
        copy.extend_from_slice(bytes.get(done..).unwrap_or_default());
        copy
    }

    /// The text with every identifying text replaced.
    pub fn text(&self, text: &str) -> String {
        String::from_utf8_lossy(&self.bytes(text.as_bytes())).into_owned()
    }

    /// Whether an identifying text stands in bytes that were redacted, and is not a pseudonym there.
    pub fn still_finds(&self, bytes: &[u8]) -> bool {
        let is_new = |word: &[u8]| self.whole.values().any(|new| new == word);
        let mut found = self.whole(bytes).is_some_and(|(word, _)| !is_new(word));
        self.each(bytes, |pattern, _, _| found |= !self.again.contains(&pattern));
        found
    }

    fn each(&self, bytes: &[u8], mut met: impl FnMut(usize, std::ops::Range<usize>, &[u8])) {
        let mut from = 0;
        while let Some(found) = self.search.find(Input::new(bytes).span(from..bytes.len())) {
            let Some((pseudonym, stands)) = self.replacements.get(found.pattern().as_usize())
            else {
                break;
            };
            let word = |at: Option<usize>| {
                at.and_then(|at| bytes.get(at)).is_some_and(u8::is_ascii_alphanumeric)
            };
            let behind = word(Some(found.end()));
            // `LABEL=vault-box` is no label `vault`.
            let goes_on = matches!(bytes.get(found.end()), Some(b'-' | b'_' | b'.'));
            let within = match stands {
                Stands::Anywhere => false,
                Stands::InContext => behind || goes_on,
                Stands::Alone => behind || word(found.start().checked_sub(1)),
            };
            if within {
                from = found.start() + 1;
                continue;
            }
            met(found.pattern().as_usize(), found.range(), pseudonym);
            from = found.end();
        }
    }
}

/// Whether a text is a short word of letters alone.
fn is_ordinary_word(text: &str) -> bool {
    text.len() < ALONE && text.chars().all(char::is_alphabetic)
}

/// A text in every form in which it can stand in a raw file, each with its pseudonym.
fn forms(key: &[u8], kind: Identifies, text: &str, pseudonym: String) -> Vec<(Vec<u8>, Vec<u8>)> {
    if let (Identifies::Address, Ok(address)) = (kind, text.parse()) {
        return address::forms(key, text, address);
    }
    let mut forms = vec![(text.as_bytes().to_vec(), pseudonym.as_bytes().to_vec())];
    let mut both = |change: &dyn Fn(&str) -> Vec<u8>| {
        let (original, new) = (change(text), change(&pseudonym));
        // Only forms that keep the length can stand in for one another.
        if original.len() == new.len() && original.len() >= 3 {
            forms.push((original, new));
        }
    };
    both(&|text| text.to_ascii_uppercase().into_bytes());
    both(&|text| text.to_ascii_lowercase().into_bytes());
    if text.contains(' ') {
        both(&|text| text.replace(' ', "\\x20").into_bytes());
        both(&|text| text.replace(' ', "\\040").into_bytes());
        both(&|text| text.replace(' ', "_").into_bytes());
    }
    if kind == Identifies::Mac {
        // Names that are made of the address have it without colons.
        both(&|text| text.replace(':', "").into_bytes());
    }
    if text.len() >= 4 {
        // Within the hexadecimal of an NVMe name.
        both(&|text| hex::encode(text).into_bytes());
        // As ATA writes it: two characters a word, swapped.
        both(&|text| swapped(text.as_bytes()));
    }
    if kind == Identifies::Serial && text.len() == 10 {
        // A number of four bytes, as a display keeps it, the lowest first.
        both(&|text| {
            let number = text.strip_prefix("0x").and_then(|it| u32::from_str_radix(it, 16).ok());
            number.map(|number| number.to_le_bytes().to_vec()).unwrap_or_default()
        });
    }
    if matches!(kind, Identifies::Uuid | Identifies::MachineId | Identifies::WorldWideName) {
        both(&|text| text.replace('-', "").into_bytes());
        both(&|text| binary(text).unwrap_or_default());
        both(&|text| binary(text).map(|bytes| swapped(&bytes)).unwrap_or_default());
        both(&|text| {
            let mut bytes = binary(text).unwrap_or_default();
            if bytes.len() == 16 {
                for range in [0..4, 4..6, 6..8] {
                    if let Some(field) = bytes.get_mut(range) {
                        field.reverse();
                    }
                }
            }
            bytes
        });
    }
    forms
}

/// The bytes that a text of hexadecimal digits stands for, behind a prefix such as `naa.`.
fn binary(text: &str) -> Option<Vec<u8>> {
    let digits = text.split_once('.').map_or(text, |(_, rest)| rest).replace('-', "");
    if digits.len() < 16 || !digits.len().is_multiple_of(2) {
        return None;
    }
    digits
        .as_bytes()
        .chunks_exact(2)
        .map(|pair| u8::from_str_radix(std::str::from_utf8(pair).ok()?, 16).ok())
        .collect()
}

fn swapped(bytes: &[u8]) -> Vec<u8> {
    let mut padded = bytes.to_vec();
    if !padded.len().is_multiple_of(2) {
        padded.push(b' ');
    }
    padded.chunks_exact(2).flat_map(|pair| pair.iter().rev().copied()).collect()
}
