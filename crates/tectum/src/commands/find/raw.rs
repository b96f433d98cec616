//! What stands in a machine's files and in no value: of a text its lines, of what is no text the texts in it.

use std::{
    borrow::Cow,
    collections::{BTreeSet, HashMap, HashSet},
    path::PathBuf,
    sync::Arc,
};

use tectum_report::{
    fact::Place,
    query::{Search, SearchHit},
};
use tectum_survey::formats::mount_option::strip_secrets;

/// The most of them that are told of one subject; of others it is told how many there are.
const MOST_TEXTS: usize = 200;

/// The fewest bytes that are taken for a text where a file is none: fewer stand side by side by chance.
const SHORTEST: usize = 4;

/// A text of a file that has what is searched for, and that no value was read from.
pub(crate) struct RawText {
    /// The file's path on the machine.
    pub(crate) path: String,
    /// Where in the file.
    pub(crate) place: Place,
    /// The text, without passwords in it.
    pub(crate) text: String,
}

/// Such texts: the first of them, and how many more there are.
#[derive(Default)]
pub(crate) struct RawTexts {
    pub(crate) first: Vec<RawText>,
    pub(crate) more: usize,
}

impl RawTexts {
    /// Those of some files, but for those that a value was found by.
    pub(super) fn of(
        files: &[(PathBuf, Arc<[u8]>)],
        wanted: &Search,
        hits: &[SearchHit<'_>],
    ) -> Self {
        let told = told(hits);
        let mut all = Self::default();
        for (path, bytes) in files {
            let path = path.display().to_string();
            let told = told.get(path.as_str());
            for (place, text) in texts(bytes).filter(|(_, text)| wanted.is_in(text)) {
                if told.is_some_and(|told| told.holds(&place, &text)) {
                    continue;
                }
                if all.first.len() < MOST_TEXTS {
                    let text = strip_secrets(&text);
                    all.first.push(RawText { path: path.clone(), place, text });
                } else {
                    all.more += 1;
                }
            }
        }
        all
    }
}

/// What of a file values were found by.
#[derive(Default)]
struct Told<'a> {
    lines: HashSet<u64>,
    /// What stands somewhere in it.
    texts: BTreeSet<&'a str>,
    /// All of it, whatever stands there.
    whole: bool,
}

impl Told<'_> {
    fn holds(&self, place: &Place, text: &str) -> bool {
        let line = matches!(place, Place::Line(line) if self.lines.contains(line));
        self.whole || line || self.texts.iter().any(|own| text.contains(own))
    }
}

/// Files by what values were found by in them.
fn told<'a>(hits: &'a [SearchHit<'_>]) -> HashMap<&'a str, Told<'a>> {
    let mut all: HashMap<&str, Told<'_>> = HashMap::new();
    for piece in hits.iter().filter_map(|hit| hit.value).flat_map(|(_, fact)| fact.evidence()) {
        let own = all.entry(&piece.source).or_default();
        match (&piece.place, piece.raw.as_deref()) {
            (Some(Place::Line(line)), _) => drop(own.lines.insert(*line)),
            (_, Some(raw)) => drop(own.texts.insert(raw)),
            (_, None) => own.whole = true,
        }
    }
    all
}

/// The texts of a file, each with where it stands.
fn texts(bytes: &[u8]) -> Box<dyn Iterator<Item = (Place, Cow<'_, str>)> + '_> {
    if !bytes.contains(&0) {
        // A line of another encoding is one all the same.
        let lines = bytes.split(|byte| *byte == b'\n').map(|line| {
            let line = line.strip_suffix(b"\r").unwrap_or(line);
            String::from_utf8_lossy(line)
        });
        return Box::new((1..).zip(lines).map(|(number, line)| (Place::Line(number), line)));
    }
    let mut offset = 0;
    let runs = bytes.utf8_chunks().flat_map(move |chunk| {
        let begin = offset;
        offset += chunk.valid().len() + chunk.invalid().len();
        runs(chunk.valid()).map(move |(at, text)| (begin + at, text))
    });
    Box::new(runs.map(|(at, text)| (Place::bytes(at, text.len()), Cow::Borrowed(text))))
}

/// What in a text stands between control characters, each with where it begins.
fn runs(text: &str) -> impl Iterator<Item = (usize, &str)> {
    let runs = text.split(|sign: char| sign.is_control() && sign != '\t');
    runs.filter(|run| run.len() >= SHORTEST)
        .map(|run| (run.as_ptr() as usize - text.as_ptr() as usize, run))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn told(bytes: &[u8]) -> Vec<String> {
        texts(bytes).map(|(place, text)| format!("{place}: {text}")).collect()
    }

    #[rstest]
    #[case::lines(b"one\r\ntwo\n", &["line 1: one", "line 2: two", "line 3: "])]
    #[case::another_encoding(b"Skj\xe6r\ntwo", &["line 1: Skj\u{fffd}r", "line 2: two"])]
    fn a_text_is_its_lines(#[case] bytes: &[u8], #[case] expected: &[&str]) {
        assert_eq!(told(bytes), expected);
    }

    #[rstest]
    #[case(b"\x01\x1b\0\0SKS4-1\0ab\0LW-77A\0", &["SKS4-1", "LW-77A"])]
    #[case(b"\xff\xfeSkj\xc3\xa6r\xff\0tide", &["Skj\u{e6}r", "tide"])]
    #[case(b"\0\0\0\0\0", &[])]
    fn of_what_is_no_text_the_texts_in_it_are_told(
        #[case] bytes: &[u8],
        #[case] expected: &[&str],
    ) {
        let told: Vec<(Place, Cow<'_, str>)> = texts(bytes).collect();
        let read: Vec<&str> = told.iter().map(|(_, text)| text.as_ref()).collect();
        assert_eq!(read, expected);
        for (place, text) in &told {
            let Place::Bytes { offset, length } = place else { panic!("{place}") };
            let (offset, length) = (*offset as usize, *length as usize);
            assert_eq!(&bytes[offset..offset + length], text.as_bytes());
        }
    }
}
