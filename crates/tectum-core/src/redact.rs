//! Copies fit to share: identifying text replaced by pseudonyms that still match one another.
//!
//! What is identifying is declared by the types of the model's leaves ([`Identifies`]), so a new
//! field cannot be forgotten. A pseudonym follows from the text and a key alone and has the text's
//! form: a digit for a digit, a letter for a letter. The same key gives the same pseudonym, so
//! redacted reports compare as the originals do; and since nothing changes its length, raw firmware
//! tables and device pages stay whole when the text inside them is replaced.

mod addresses;

use std::collections::{BTreeMap, BTreeSet, HashSet};

use aho_corasick::{AhoCorasick, Input, MatchKind};
use hmac::{Hmac, Mac};
use serde_json::Value;
use sha2::Sha256;

use crate::report::{
    Report,
    kinds::{Identifies, JsonForm},
    record::Kind,
    walk::Met,
};

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

/// Why nothing was written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum RedactError {
    /// An original still stands in the copy.
    #[error("a text that should have been replaced still stands {place}; nothing was written")]
    StillThere {
        /// Where, without the text itself.
        place: String,
    },
    /// The patterns could not be made ready.
    #[error("the texts to replace cannot be searched for: {0}")]
    Search(String),
}

/// What to replace, and by what.
pub struct Redactor {
    search: AhoCorasick,
    /// For each pattern: what replaces it, and where.
    replacements: Vec<(Vec<u8>, Stands)>,
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
    pub fn new(
        report: &Report,
        key: &[u8],
        keep: &BTreeSet<Identifies>,
    ) -> Result<Self, RedactError> {
        let mut patterns: BTreeMap<Vec<u8>, (Vec<u8>, Stands)> = BTreeMap::new();
        let mut whole = BTreeMap::new();
        report.walk(&mut |_, field, met| {
            let (Met::Leaf(fact), Kind::Leaf(shape)) = (met, field.kind) else { return };
            let Some(kind) = shape.identifies.filter(|kind| !keep.contains(kind)) else { return };
            if shape.form != JsonForm::String {
                return;
            }
            if let Some(text) = fact.text().filter(|text| !text.trim().is_empty()) {
                if is_ordinary_word(&text) {
                    let new = pseudonym(key, kind, &text);
                    for context in CONTEXTS {
                        let form = |word: &str| format!("{context}{word}").into_bytes();
                        patterns.entry(form(&text)).or_insert((form(&new), Stands::InContext));
                    }
                    whole.insert(text.into_bytes(), new.into_bytes());
                    return;
                }
                for (original, pseudonym) in forms(key, kind, &text) {
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
        let addresses = (!keep.contains(&Identifies::Address)).then(|| key.to_vec());
        Ok(Self { search, replacements: patterns.into_values().collect(), whole, addresses })
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
                addresses::every(key, text).into_bytes()
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
        self.each(bytes, |place, pseudonym| {
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

    /// Whether an identifying text stands in the bytes.
    pub fn finds(&self, bytes: &[u8]) -> bool {
        let mut found = self.whole(bytes).is_some();
        self.each(bytes, |_, _| found = true);
        found
    }

    fn each(&self, bytes: &[u8], mut met: impl FnMut(std::ops::Range<usize>, &[u8])) {
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
            met(found.range(), pseudonym);
            from = found.end();
        }
    }

    /// The report with every identifying text replaced, wherever it stands, as JSON.
    ///
    /// # Errors
    /// When an original still stands in the copy.
    pub fn report(&self, report: &Report) -> Result<Value, RedactError> {
        let mut json = serde_json::to_value(report).unwrap_or(Value::Null);
        let mut identifying = HashSet::new();
        report.walk(&mut |at, _, met| {
            if let Met::Leaf(fact) = met
                && fact.leaf_shape().identifies.is_some()
            {
                identifying.insert(at.as_str().to_owned());
            }
        });
        self.value(&mut json, &mut String::new(), &identifying);
        if let Some(notes) = json.get_mut("notes").and_then(Value::as_array_mut) {
            notes.push(Value::from("identifying texts are replaced by pseudonyms"));
        }
        // The inventory is another one now, and so is its digest.
        let digest = serde_json::to_vec(&json)
            .ok()
            .and_then(|text| Report::from_json(&text).ok())
            .map(|copy| copy.inventory_digest());
        if let (Some(digest), Some(slot)) = (digest, json.get_mut("inventory_digest")) {
            *slot = Value::from(digest);
        }
        match self.left(&json, "", &identifying) {
            Some(place) => Err(RedactError::StillThere { place: format!("at {place}") }),
            None => Ok(json),
        }
    }

    fn value(&self, json: &mut Value, at: &mut String, identifying: &HashSet<String>) {
        let mark = at.len();
        match json {
            Value::String(text) if is_plain_leaf(at, identifying) => {
                *text = String::from_utf8_lossy(&self.within(text.as_bytes())).into_owned();
            }
            Value::String(text) => *text = self.text(text),
            Value::Array(list) => {
                for (index, item) in list.iter_mut().enumerate() {
                    at.push_str(&format!("/{index}"));
                    self.value(item, at, identifying);
                    at.truncate(mark);
                }
            }
            Value::Object(members) => {
                for (name, member) in members.iter_mut().filter(|(name, _)| !is_own_words(name)) {
                    at.push_str(&format!("/{name}"));
                    self.value(member, at, identifying);
                    at.truncate(mark);
                }
            }
            _ => {}
        }
    }

    /// Where an original still stands.
    fn left(&self, json: &Value, at: &str, identifying: &HashSet<String>) -> Option<String> {
        match json {
            Value::String(text) => {
                let plain = is_plain_leaf(at, identifying) && self.whole(text.as_bytes()).is_some();
                (!plain && self.finds(text.as_bytes())).then(|| at.to_owned())
            }
            Value::Array(list) => list
                .iter()
                .enumerate()
                .find_map(|(index, item)| self.left(item, &format!("{at}/{index}"), identifying)),
            Value::Object(members) => members
                .iter()
                .filter(|(name, _)| !is_own_words(name))
                .find_map(|(name, member)| self.left(member, &format!("{at}/{name}"), identifying)),
            _ => None,
        }
    }
}

/// Whether a value of the model is of a kind that identifies nothing: there a short word is an
/// ordinary one.
fn is_plain_leaf(at: &str, identifying: &HashSet<String>) -> bool {
    let model = ["/machine/", "/inventory/", "/readings/"].iter().any(|root| at.starts_with(root));
    model && !identifying.contains(at)
}

/// Whether a text is a short word of letters alone.
fn is_ordinary_word(text: &str) -> bool {
    text.len() < ALONE && text.chars().all(char::is_alphabetic)
}

/// Members of a report that hold Tectum's own words, never a machine's.
fn is_own_words(name: &str) -> bool {
    matches!(
        name,
        "format"
            | "format_version"
            | "tool"
            | "at"
            | "why"
            | "hint"
            | "rule"
            | "where"
            | "stance"
            | "operation"
            | "outcome"
            | "sections"
            | "inventory_digest"
    )
}

/// A text in every form in which it can stand in a raw file, each with its pseudonym.
fn forms(key: &[u8], kind: Identifies, text: &str) -> Vec<(Vec<u8>, Vec<u8>)> {
    if let (Identifies::Address, Ok(address)) = (kind, text.parse()) {
        return addresses::forms(key, text, address);
    }
    let pseudonym = pseudonym(key, kind, text);
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
        both(&|text| {
            text.bytes().map(|byte| format!("{byte:02x}")).collect::<String>().into_bytes()
        });
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

/// A text of the same form, by the key alone.
fn pseudonym(key: &[u8], kind: Identifies, text: &str) -> String {
    let folded = text.to_ascii_lowercase();
    // A prefix that says what kind of name it is, is no secret.
    let number = kind == Identifies::Serial && text.len() == 10 && text.starts_with("0x");
    let keep = match kind {
        Identifies::WorldWideName => text.find('.').map_or(0, |dot| dot + 1),
        _ if number => 2,
        _ => 0,
    };
    let (prefix, rest) = text.split_at_checked(keep).unwrap_or(("", text));
    let hex = rest.chars().all(|c| c.is_ascii_hexdigit() || matches!(c, '-' | ':' | '.'));
    let hex = hex
        && matches!(
            kind,
            Identifies::Uuid | Identifies::MachineId | Identifies::WorldWideName | Identifies::Mac
        );
    let hex = hex || number && rest.chars().all(|c| c.is_ascii_hexdigit());
    // One number written with dashes and without is one number.
    let folded = if hex { folded.replace('-', "") } else { folded };
    for round in 0u32..16 {
        let mut stream = Stream::new(key, &folded, round);
        let new: String = rest.chars().map(|character| stream.like(character, hex)).collect();
        if new != rest {
            return format!("{prefix}{new}");
        }
    }
    text.to_owned()
}

/// An endless stream of bytes that follows from a key and a text.
struct Stream<'a> {
    key: &'a [u8],
    text: &'a str,
    round: u32,
    block: u32,
    bytes: Vec<u8>,
}

impl<'a> Stream<'a> {
    fn new(key: &'a [u8], text: &'a str, round: u32) -> Self {
        Self { key, text, round, block: 0, bytes: Vec::new() }
    }

    fn next(&mut self) -> u32 {
        if self.bytes.len() < 2 {
            // HMAC takes a key of any length.
            if let Ok(mut mac) = Hmac::<Sha256>::new_from_slice(self.key) {
                mac.update(&self.round.to_be_bytes());
                mac.update(&self.block.to_be_bytes());
                mac.update(self.text.as_bytes());
                self.bytes.extend(mac.finalize().into_bytes());
            }
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

    proptest! {
        #[test]
        fn no_text_makes_it_panic_or_grow(text in "\\PC{0,40}") {
            for kind in [Identifies::Serial, Identifies::Uuid, Identifies::WorldWideName] {
                prop_assert_eq!(pseudonym(b"k", kind, &text).len(), text.len());
                let _ = forms(b"k", kind, &text);
            }
        }
    }
}
