//! The second lock: originals that are strong enough to stand somewhere only because they leaked,
//! searched for in every encoding that raw files and programs have for them.

use std::{
    collections::{BTreeMap, HashMap},
    ops::Range,
};

use aho_corasick::{AhoCorasick, Span};
use base64::{Engine as _, engine::general_purpose::STANDARD_NO_PAD};
use regex::Regex;

use super::{Pseudonyms, RedactError};
use crate::{
    leaf::{Identifies, Whose},
    report::Report,
    walk::Met,
};

/// Fewer digits or letters than this may be an ordinary number or word.
const STRONG: usize = 8;

/// The originals of a report, ready to be searched for.
#[derive(Debug)]
pub struct Originals {
    /// Texts, whatever the case of their letters: in bytes as they are.
    texts: Patterns,
    /// The same without what can stand between two digits or letters.
    closed: Patterns,
    /// Bytes, and what base64 makes of them: as they are.
    bytes: Patterns,
    /// How long the shortest of all these is: no encoding of one stands in less.
    shortest: usize,
}

/// So much of a pattern is searched for; the rest is looked at where that stands. Most patterns are several times as
/// long, and to make ready what is searched for takes as long as it is.
const HEAD: usize = 16;

/// Where more patterns than this begin alike, or one is longer than this, each of them is searched for as a whole: to look
/// at many, or far, wherever their beginning stands would take as long as somebody wants.
const ALIKE: usize = 8;
const FAR: usize = 96;

#[derive(Debug)]
struct Patterns {
    /// All of them, one after the other: there may be hundreds of thousands.
    bytes: Vec<u8>,
    /// Where each of them ends, of which kind its original is, and whether a digit, letter or point beside it makes it
    /// another text.
    all: Vec<(usize, Identifies, bool)>,
    /// What patterns begin with.
    search: AhoCorasick,
    /// The patterns that begin with each of these.
    heads: Vec<Range<usize>>,
    /// By the number of a pattern, the made texts that hold it by chance, and where.
    by_chance: HashMap<usize, Vec<Chance>>,
}

/// A pattern that stands somewhere.
#[derive(Debug, Clone, Copy)]
struct Standing {
    number: usize,
    kind: Identifies,
    alone: bool,
    span: Span,
}

/// A text that was made of another and happens to hold an original.
#[derive(Debug)]
struct Chance {
    made: Vec<u8>,
    at: usize,
}

impl Patterns {
    fn new(patterns: BTreeMap<Vec<u8>, (Identifies, bool)>) -> Result<Self, RedactError> {
        let mut all = Vec::with_capacity(patterns.len());
        let mut bytes = Vec::new();
        for (pattern, (kind, alone)) in patterns {
            bytes.extend(pattern);
            all.push((bytes.len(), kind, alone));
        }
        let mut begin = 0;
        let whole: Vec<&[u8]> = all
            .iter()
            .map(|(end, ..)| {
                let own = bytes.get(begin..*end).unwrap_or_default();
                begin = *end;
                own
            })
            .collect();
        let head = |pattern: &[u8]| pattern.len().min(HEAD);
        let mut heads = Vec::new();
        let mut searched = Vec::new();
        let mut number = 0;
        // They are in order, so those that begin alike stand together.
        for alike in whole.chunk_by(|a, b| a.get(..head(a)) == b.get(..head(b))) {
            let next = number + alike.len();
            if alike.len() <= ALIKE && alike.iter().all(|pattern| pattern.len() <= FAR) {
                heads.push(number..next);
                searched.extend(alike.first().and_then(|first| first.get(..head(first))));
            } else {
                heads.extend((number..next).map(|number| number..number + 1));
                searched.extend(alike);
            }
            number = next;
        }
        let search = AhoCorasick::builder()
            .ascii_case_insensitive(false)
            .build(searched)
            .map_err(|error| RedactError::Search(error.to_string()))?;
        Ok(Self { bytes, all, search, heads, by_chance: HashMap::new() })
    }

    /// The bytes of a pattern, by its number.
    fn pattern(&self, number: usize) -> Option<&[u8]> {
        let before = number.checked_sub(1).and_then(|before| self.all.get(before));
        self.bytes.get(before.map_or(0, |(end, ..)| *end)..self.all.get(number)?.0)
    }

    /// Every pattern that stands in bytes.
    fn standing_in(&self, bytes: &[u8]) -> impl Iterator<Item = Standing> {
        self.search.find_overlapping_iter(bytes).flat_map(move |found| {
            let alike = self.heads.get(found.pattern().as_usize()).cloned().unwrap_or_default();
            let start = found.start();
            alike.filter_map(move |number| {
                let pattern = self.pattern(number)?;
                let (_, kind, alone) = *self.all.get(number)?;
                let span = Span::from(start..start + pattern.len());
                let stands = bytes.get(start..)?.starts_with(pattern);
                stands.then_some(Standing { number, kind, alone, span })
            })
        })
    }

    /// Where a made text holds what the one that it was made of does not, it holds it by chance.
    fn may_hold(&mut self, was: &[u8], is: &[u8]) {
        let stood = |number| self.standing_in(was).any(|it| it.number == number);
        let by_chance: Vec<Standing> =
            self.standing_in(is).filter(|it| !stood(it.number)).collect();
        for Standing { number, span, .. } in by_chance {
            let chance = Chance { made: is.to_vec(), at: span.start };
            self.by_chance.entry(number).or_default().push(chance);
        }
    }

    /// Whether a pattern stands in bytes at a place only because a made text stands around it.
    fn is_chance(&self, index: usize, start: usize, bytes: &[u8]) -> bool {
        self.by_chance.get(&index).into_iter().flatten().any(|chance| {
            let around = start.checked_sub(chance.at).and_then(|begin| bytes.get(begin..));
            around.is_some_and(|around| around.starts_with(&chance.made))
        })
    }

    fn find(&self, bytes: &[u8]) -> Option<Identifies> {
        self.standing_in(bytes).find_map(|Standing { number, kind, alone, span }| {
            let goes_on = |at: Option<usize>| {
                at.and_then(|at| bytes.get(at))
                    .is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'.')
            };
            let part = goes_on(span.start.checked_sub(1)) || goes_on(Some(span.end));
            let counts = (!alone || !part) && !self.is_chance(number, span.start, bytes);
            counts.then_some(kind)
        })
    }
}

/// The texts of a report that an owner or user chose, in its order.
#[derive(Debug)]
pub(super) struct Texts(Vec<(String, Identifies)>);

impl Texts {
    pub(super) fn of(report: &Report) -> Self {
        let mut texts = Vec::new();
        report.walk(&mut |_, _, met| {
            if let Met::Leaf(fact) = met
                && let Whose::Owners(kind) = fact.leaf_shape().whose
                && let Some(text) = fact.text()
            {
                texts.push((text, kind));
            }
        });
        Self(texts)
    }
}

impl Originals {
    /// The strong originals of a report, but for the kinds that are kept.
    ///
    /// # Errors
    /// When there are more than can be searched for.
    pub(super) fn of(texts: Texts, by: &Pseudonyms) -> Result<Self, RedactError> {
        let mut strong: BTreeMap<String, Identifies> = BTreeMap::new();
        let password = Regex::new("://[^/@ ]*:([^/@ ]{6,})@")
            .map_err(|error| RedactError::Search(error.to_string()))?;
        for (text, kind) in texts.0.into_iter().filter(|(_, kind)| by.replaces(*kind)) {
            if matches!(kind, Identifies::FreeText | Identifies::MountSource) {
                for found in password.captures_iter(&text).filter_map(|found| found.get(1)) {
                    strong.insert(found.as_str().to_owned(), kind);
                }
            }
            // What stays as it is tells nothing (a loopback address).
            if is_strong(kind, &text) && by.plain(kind, &text) != text {
                strong.insert(text, kind);
            }
        }
        let (mut texts, mut closed, mut bytes) =
            (BTreeMap::new(), BTreeMap::new(), BTreeMap::new());
        for (original, kind) in strong {
            let text = original.to_ascii_lowercase();
            let upper = original.to_ascii_uppercase();
            let alone = kind == Identifies::Address;
            texts.insert(text.as_bytes().to_vec(), (kind, alone));
            if alone {
                continue;
            }
            for form in [&original, &text, &upper] {
                texts.insert(hex::encode(form).into_bytes(), (kind, false));
            }
            texts.insert(swapped(text.as_bytes()), (kind, false));
            let without =
                close(text.split_once('.').map_or(text.as_str(), |(_, rest)| rest).as_bytes());
            if without.len() >= STRONG {
                closed.insert(without, (kind, false));
            }
            let as_text = [original, text.clone(), upper].map(String::into_bytes);
            for form in as_text.into_iter().chain(binary(&text)) {
                for form in base64_forms(&form) {
                    bytes.insert(form, (kind, false));
                }
            }
            for form in binary(&text).into_iter().filter(|form| form.len() >= 6) {
                bytes.insert(form.iter().rev().copied().collect(), (kind, false));
                bytes.insert(swapped(&form), (kind, false));
                bytes.insert(form, (kind, false));
            }
        }
        let all = [&texts, &closed, &bytes].into_iter().flat_map(BTreeMap::keys);
        let shortest = all.map(Vec::len).min().unwrap_or(usize::MAX);
        Ok(Self {
            texts: Patterns::new(texts)?,
            closed: Patterns::new(closed)?,
            bytes: Patterns::new(bytes)?,
            shortest,
        })
    }

    /// Makes known what texts became. Of a thousand serial numbers of one form one may by chance be
    /// what another becomes, or stand in it: there it is no leak, for a pseudonym follows from its
    /// own text and the key alone.
    pub(super) fn know_made<'a>(&mut self, made: impl Iterator<Item = (&'a str, &'a str)>) {
        for (was, is) in made.filter(|(was, is)| was != is) {
            let lower = [was, is].map(|text| text.to_ascii_lowercase().into_bytes());
            let [closed_was, closed_is] = [close(&lower[0]), close(&lower[1])];
            self.bytes.may_hold(was.as_bytes(), is.as_bytes());
            self.texts.may_hold(&lower[0], &lower[1]);
            self.closed.may_hold(&closed_was, &closed_is);
        }
    }

    /// The kind of an original that stands in bytes: as it is, with other case, as hexadecimal,
    /// grouped or spaced, with its bytes swapped or turned round, as UTF-16, base64 or percent
    /// escapes.
    pub fn stands_in(&self, bytes: &[u8]) -> Option<Identifies> {
        if bytes.len() < self.shortest {
            return None;
        }
        let lower = bytes.to_ascii_lowercase();
        self.bytes
            .find(bytes)
            .or_else(|| self.texts.find(&lower))
            .or_else(|| self.closed.find(&close(&lower)))
            .or_else(|| {
                let plain = lower.contains(&b'%').then(|| unescaped(&lower))?;
                self.texts.find(&plain).or_else(|| self.closed.find(&close(&plain)))
            })
    }
}

/// Whether a text is such that it can only stand somewhere because it leaked.
fn is_strong(kind: Identifies, text: &str) -> bool {
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    match kind {
        Identifies::Serial | Identifies::AssetTag => {
            text.len() >= STRONG
                && digits >= 3
                && digits < text.len()
                // As a device's own address has it, which a controller gives for a serial number.
                && !text.bytes().all(|byte| byte.is_ascii_hexdigit() || matches!(byte, b':' | b'.'))
                || is_long_number(text)
        }
        Identifies::Uuid | Identifies::WorldWideName | Identifies::Mac | Identifies::MachineId => {
            text.len() >= 12 && text.bytes().any(|byte| byte != b'0' && byte.is_ascii_hexdigit())
        }
        Identifies::Address => text.len() >= STRONG,
        _ => false,
    }
}

/// A number of so many different digits that chance does not make it twice.
fn is_long_number(text: &str) -> bool {
    let mut digits = text.as_bytes().to_vec();
    digits.sort_unstable();
    digits.dedup();
    text.len() >= 12 && text.bytes().all(|byte| byte.is_ascii_hexdigit()) && digits.len() >= 5
}

/// Bytes without blanks and signs that can stand between digits, and without the zero bytes that
/// UTF-16 puts between them.
fn close(bytes: &[u8]) -> Vec<u8> {
    let between =
        |byte: &u8| matches!(byte, b' ' | b'\t' | b'\n' | b'-' | b':' | b'.' | b'_' | b',' | 0);
    bytes.iter().copied().filter(|byte| !between(byte)).collect()
}

/// The bytes that a text of hexadecimal digits stands for, also with its first three fields the
/// lowest byte first, as a UUID has them (DSP0134 clause 7.2.1).
fn binary(text: &str) -> Vec<Vec<u8>> {
    let digits = close(text.split_once('.').map_or(text, |(_, rest)| rest).as_bytes());
    let Ok(bytes) = hex::decode(&digits) else { return Vec::new() };
    let mut all = vec![bytes.clone()];
    if bytes.len() == 16 {
        let mut turned = bytes;
        for range in [0..4, 4..6, 6..8] {
            if let Some(field) = turned.get_mut(range) {
                field.reverse();
            }
        }
        all.push(turned);
    }
    all
}

/// What base64 makes of bytes wherever they begin in what it is made of.
fn base64_forms(bytes: &[u8]) -> Vec<Vec<u8>> {
    [(0usize, 0usize), (1, 2), (2, 3)]
        .into_iter()
        .filter_map(|(before, cut)| {
            let mut padded = vec![0; before];
            padded.extend(bytes);
            let text = STANDARD_NO_PAD.encode(&padded);
            // The last character holds bits of what stands behind.
            let end = padded.len() * 8 / 6;
            let form = text.as_bytes().get(cut..end)?.to_vec();
            (form.len() >= STRONG).then_some(form)
        })
        .collect()
}

fn swapped(bytes: &[u8]) -> Vec<u8> {
    bytes.chunks(2).flat_map(|pair| pair.iter().rev().copied()).collect()
}

/// Percent escapes put back (RFC 3986 clause 2.1).
fn unescaped(bytes: &[u8]) -> Vec<u8> {
    percent_encoding::percent_decode(bytes).collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;
    use crate::{
        fact::{Evidence, Fact},
        leaf::{Serial, Uuid},
    };

    fn originals() -> Originals {
        let said = || Evidence::new("made up".into(), crate::fact::saying!("made-up", "made up"));
        let mut observed = crate::report::Observed::default();
        observed.machine.system_uuid =
            Fact::known(Uuid("5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c33".to_owned()), said());
        observed.machine.serial = Fact::known(Serial("MS-F2240-00731".to_owned()), said());
        let taken = crate::report::Taken {
            at: jiff::Timestamp::UNIX_EPOCH,
            tool: "tectum".to_owned(),
            subject: "made up".to_owned(),
            privileged: true,
            sections: Vec::new(),
            elapsed_ms: 0,
        };
        let report = Report::new(observed, taken, Vec::new(), Vec::new());
        let by = Pseudonyms::new(b"key", &std::collections::BTreeSet::new());
        Originals::of(Texts::of(&report), &by).unwrap()
    }

    #[rstest]
    #[case("as it is", b"x5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c33y".to_vec())]
    #[case("other case", b"5B8F3C02-91DE-4A67-B7C4-0E6A2D9F1C33".to_vec())]
    #[case("without signs", b"5b8f3c0291de4a67b7c40e6a2d9f1c33".to_vec())]
    #[case("spaced", b"5b 8f 3c 02 91 de 4a 67 b7 c4 0e 6a 2d 9f 1c 33".to_vec())]
    #[case("grouped", b"5b8f3c02:91de4a67:b7c40e6a:2d9f1c33".to_vec())]
    #[case("bytes", hex::decode("5b8f3c0291de4a67b7c40e6a2d9f1c33").unwrap())]
    #[case("fields turned", hex::decode("023c8f5bde91674ab7c40e6a2d9f1c33").unwrap())]
    #[case("turned round", hex::decode("331c9f2d6a0ec4b7674ade91023c8f5b").unwrap())]
    #[case("swapped", hex::decode("8f5b023cde91674ac4b76a0e9f2d331c").unwrap())]
    #[case("serial swapped", b"SMF-22040-7013".to_vec())]
    #[case("UTF-16", "MS-F2240-00731".bytes().flat_map(|byte| [byte, 0]).collect())]
    #[case("hexadecimal", hex::encode("MS-F2240-00731").into_bytes())]
    #[case("base64", b"xx TVMtRjIyNDAtMDA3MzE= ".to_vec())]
    #[case("base64 further on", STANDARD_NO_PAD.encode("serial:MS-F2240-00731;").into_bytes())]
    #[case("percent", b"id=MS%2DF2240%2D00731".to_vec())]
    fn an_original_is_found(#[case] how: &str, #[case] bytes: Vec<u8>) {
        assert!(originals().stands_in(&bytes).is_some(), "{how}");
    }

    /// Patterns that are short and long, and of which many begin alike.
    fn any_patterns() -> impl Strategy<Value = BTreeMap<Vec<u8>, (Identifies, bool)>> {
        let begins = prop_oneof![Just("aaaaaaaaaaaaaaaa"), Just("aaaaaaaaaaaaaaab"), Just("")];
        let text =
            (begins, "[ab]{1,6}").prop_map(|(begin, end)| format!("{begin}{end}").into_bytes());
        let what = (prop_oneof![Just(Identifies::Serial), Just(Identifies::Uuid)], any::<bool>());
        prop::collection::btree_map(text, what, 1..24)
    }

    proptest! {
        /// Each pattern is told wherever it stands, and nothing else is, whichever of them begin alike.
        #[test]
        fn what_stands_in_bytes_is_what_a_plain_search_finds(
            patterns in any_patterns(),
            bytes in "[ab. ]{0,8}(a{12,18}b?[ab]{0,6}[. ]?){0,4}",
        ) {
            let bytes = bytes.into_bytes();
            let own = Patterns::new(patterns.clone()).unwrap();
            let mut found: Vec<(Vec<u8>, usize)> = own
                .standing_in(&bytes)
                .map(|it| (own.pattern(it.number).unwrap().to_vec(), it.span.start))
                .collect();
            found.sort();
            let mut expected = Vec::new();
            let mut told = false;
            for (pattern, (_, alone)) in &patterns {
                for (at, _) in bytes.windows(pattern.len()).enumerate().filter(|(_, it)| it == pattern) {
                    expected.push((pattern.clone(), at));
                    let beside = [at.checked_sub(1), Some(at + pattern.len())];
                    let beside = beside.into_iter().flatten().filter_map(|at| bytes.get(at));
                    let part = beside.into_iter().any(|sign| *sign != b' ');
                    told |= !alone || !part;
                }
            }
            prop_assert_eq!(found, expected);
            prop_assert_eq!(own.find(&bytes).is_some(), told);
        }
    }

    /// What many begin with, or a long one does, stands in a text very often: each place is looked at a few times at
    /// most, and not far.
    #[rstest]
    #[case::many(40, 1000, false)]
    #[case::long(400, 3, false)]
    #[case::few(40, 3, true)]
    fn patterns_that_begin_alike_are_searched_for_by_that_where_it_costs_little(
        #[case] length: usize,
        #[case] count: u32,
        #[case] by_beginning: bool,
    ) {
        let pattern = |number: u32| format!("{}{number:04}", "a".repeat(length)).into_bytes();
        let all = (0..count).map(|number| (pattern(number), (Identifies::Serial, false))).collect();
        let own = Patterns::new(all).unwrap();
        assert_eq!(own.heads.len() == 1, by_beginning);
        assert_eq!(own.search.max_pattern_len() == HEAD, by_beginning);
        assert_eq!(own.find(&vec![b'a'; 4096]), None);
        assert_eq!(own.find(&pattern(count - 1)), Some(Identifies::Serial));
    }

    #[rstest]
    #[case(b"MS-F2240".to_vec())]
    #[case(b"00731".to_vec())]
    #[case(b"5b8f3c02".to_vec())]
    #[case(b"Linux version 6.1.0 vendor system kernel debian 00 1".to_vec())]
    #[case(vec![0; 4096])]
    fn ordinary_words_are_none(#[case] bytes: Vec<u8>) {
        assert_eq!(originals().stands_in(&bytes), None);
    }
}
