//! The file of a look: the observation, and behind it what no look before it brought, each in a line of JSON.
//!
//! ```text
//! {"format":"tectum-observation",…}                                the observation, as the chain has it
//! {"stands_in":{"state":"00000003-20260512T030000Z",…}}            in which look's file its lists stand, if not here
//! {"state":"sha256:…","checksum":1234567890,"sections":[{"section":"cpu","digest":"sha256:…","look":"00000001-…"},…]}
//! {"origins":"sha256:…","sections":[…]}
//! {"section":"cpu","digest":"sha256:…","content":{…}}              a section of a state
//! {"origins_of":"cpu","digest":"sha256:…","content":{…}}           where the values of a section are from
//! ```
//!
//! A look at an unchanged machine is two lines, and one that saw another memory module brings that section alone.
//! What is asked for is found by how its line begins, or by the tag before it where the file is packed, and
//! held against its digest. That of a state is the one of all its sections together, so its list has a checksum too:
//! who reads some of them knows by that whether all that should be are in it. A file that somebody laid out or packed
//! otherwise is read as a whole.

use std::{
    collections::HashSet,
    io,
    path::{Path, PathBuf},
    sync::{Mutex, PoisonError},
};

use serde::{Deserialize, Deserializer, Serialize};
use serde_json::value::RawValue;

use super::{
    disk::{self, MOST_BYTES, damaged},
    layout::is_packed,
    pack::{Tag, frames, pack, unpack},
};
use crate::{
    store::{PieceAt, StoreError},
    written::{OBSERVATION, OriginsList, Piece, digest, digest_bytes, state::lines},
};

/// What a list or a piece is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Of {
    /// A state.
    State,
    /// Where the values of a state are from.
    Origins,
}

impl Of {
    /// How the line of a list begins, up to its digest.
    fn list(self) -> &'static str {
        match self {
            Self::State => "state",
            Self::Origins => "origins",
        }
    }

    /// How the line of a piece begins, up to the section.
    fn piece(self) -> &'static str {
        match self {
            Self::State => "section",
            Self::Origins => "origins_of",
        }
    }

    fn tag(self, is_list: bool, own: &str) -> Tag {
        let kind = match (self, is_list) {
            (Self::State, true) => b'S',
            (Self::Origins, true) => b'O',
            (Self::State, false) => b's',
            (Self::Origins, false) => b'o',
        };
        let mut tag = [kind; 9];
        let bytes = digest_bytes(own).unwrap_or_default();
        tag.iter_mut().skip(1).zip(bytes).for_each(|(to, from)| *to = from);
        Tag(tag)
    }
}

/// The tag of the line that says where lists stand.
const ELSEWHERE: Tag = Tag([b'w'; 9]);

/// In which look's file the lists of a look stand, where that is not its own.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct StandsIn {
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(super) state: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(super) origins: Option<String>,
}

impl StandsIn {
    pub(super) fn of(&self, of: Of) -> Option<&str> {
        match of {
            Of::State => self.state.as_deref(),
            Of::Origins => self.origins.as_deref(),
        }
    }
}

/// The pieces of a state, or of where its values are from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct List {
    pub(super) of: Of,
    pub(super) digest: String,
    pub(super) pieces: Vec<PieceAt>,
}

/// What a line holds.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Line {
    Observation(Vec<u8>),
    Elsewhere(StandsIn),
    List(List),
    Piece(Of, Piece),
}

impl Line {
    /// Which piece or list of a machine it is; nothing for what is the look's own.
    pub(super) fn key(&self) -> Option<Tag> {
        match self {
            Self::List(list) => Some(list_key(list.of, &list.digest)),
            Self::Piece(of, piece) => Some(piece_key(*of, &piece.digest)),
            Self::Observation(_) | Self::Elsewhere(_) => None,
        }
    }

    /// The list that it holds, if it is of this kind and digest.
    fn into_list(self, of: Of, digest: Option<&str>) -> Option<List> {
        match self {
            Self::List(own) if own.of == of && digest.is_none_or(|digest| own.digest == digest) => {
                Some(own)
            }
            _ => None,
        }
    }

    fn text(&self) -> Result<Vec<u8>, serde_json::Error> {
        let mut text = match self {
            Self::Observation(text) => return Ok(text.clone()),
            Self::Elsewhere(stands_in) => {
                let line = Written { stands_in: Some(stands_in.clone()), ..Written::default() };
                serde_json::to_vec(&line)?
            }
            Self::List(List { of, digest, pieces }) => {
                let (state, origins, checksum) = match of {
                    Of::State => (Some(digest.clone()), None, Some(checksum_of(pieces))),
                    Of::Origins => (None, Some(digest.clone()), None),
                };
                let sections = Some(pieces.clone());
                let line = Written { state, origins, checksum, sections, ..Written::default() };
                serde_json::to_vec(&line)?
            }
            Self::Piece(of, piece) => {
                let mut text = beginning_of_piece(*of, &piece.section, &piece.digest)?;
                text.extend_from_slice(&piece.text);
                text.push(b'}');
                text
            }
        };
        text.push(b'\n');
        Ok(text)
    }
}

/// What a list is found by among all lists and pieces.
pub(super) fn list_key(of: Of, digest: &str) -> Tag {
    of.tag(true, digest)
}

/// What a piece is found by among all lists and pieces.
pub(super) fn piece_key(of: Of, digest: &str) -> Tag {
    of.tag(false, digest)
}

/// The line of a piece up to its content.
fn beginning_of_piece(of: Of, section: &str, digest: &str) -> Result<Vec<u8>, serde_json::Error> {
    let (section, digest) = (serde_json::to_string(section)?, serde_json::to_string(digest)?);
    let kind = of.piece();
    Ok(format!("{{\"{kind}\":{section},\"digest\":{digest},\"content\":").into_bytes())
}

/// The line of a list up to what is in it.
fn beginning_of_list(of: Of, digest: Option<&str>) -> Vec<u8> {
    let kind = of.list();
    let own = digest.map_or(String::new(), |digest| format!("{digest}\""));
    format!("{{\"{kind}\":\"{own}").into_bytes()
}

/// Any line but an observation's, as it is written and read.
#[derive(Default, Serialize, Deserialize)]
struct Written<'a> {
    #[serde(default, skip_serializing_if = "Option::is_none")]
    format: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    stands_in: Option<StandsIn>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    state: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    origins: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    checksum: Option<u32>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    sections: Option<Vec<PieceAt>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    section: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    origins_of: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    digest: Option<String>,
    #[serde(borrow, default, skip_serializing, deserialize_with = "even_null")]
    content: Option<&'a RawValue>,
}

/// A content that is `null` is one too.
fn even_null<'de, D: Deserializer<'de>>(from: D) -> Result<Option<&'de RawValue>, D::Error> {
    <&RawValue>::deserialize(from).map(Some)
}

/// What a line says; nothing where it is none of a look's file.
fn read_line(line: &[u8]) -> Option<Line> {
    let own: Written<'_> = serde_json::from_slice(line).ok()?;
    if own.format.is_some_and(|format| format == OBSERVATION.name) {
        return Some(Line::Observation(line.to_owned()));
    }
    if let Some(stands_in) = own.stands_in {
        return Some(Line::Elsewhere(stands_in));
    }
    let list = |of, digest, pieces| Line::List(List { of, digest, pieces });
    let piece = |of, section, digest: String, content: &RawValue| {
        let text = content.get().as_bytes().to_owned();
        Line::Piece(of, Piece { section, text: as_it_was(text, &digest), digest })
    };
    match own {
        Written { state: Some(own), sections: Some(all), checksum, .. } => {
            (checksum == Some(checksum_of(&all))).then(|| list(Of::State, own, all))
        }
        Written { origins: Some(own), sections: Some(all), .. } => {
            Some(list(Of::Origins, own, all))
        }
        Written { section: Some(name), digest: Some(own), content: Some(text), .. } => {
            Some(piece(Of::State, name, own, text))
        }
        Written { origins_of: Some(name), digest: Some(own), content: Some(text), .. } => {
            Some(piece(Of::Origins, name, own, text))
        }
        _ => None,
    }
}

/// What tells that a list of sections is as it was written: CRC-32 of their names and digests.
fn checksum_of(pieces: &[PieceAt]) -> u32 {
    let mut sum = crc32fast::Hasher::new();
    for text in pieces.iter().flat_map(|at| [&at.section, &at.digest]) {
        sum.update(text.as_bytes());
        sum.update(b"\n");
    }
    sum.finalize()
}

/// A text that somebody laid out otherwise, in one line.
fn as_it_was(text: Vec<u8>, own: &str) -> Vec<u8> {
    if digest(&text) == own {
        return text;
    }
    let value = serde_json::from_slice::<serde_json::Value>(&text);
    let again = value.and_then(|value| serde_json::to_vec(&value));
    again.ok().filter(|again| digest(again) == own).unwrap_or(text)
}

/// The bytes of a file with these lines.
pub(super) fn written(lines: &[Line], packed: bool) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    for line in lines {
        let text = line.text()?;
        let tag = match line {
            Line::Elsewhere(_) => Some(ELSEWHERE),
            line => line.key(),
        };
        match packed {
            true => pack(&mut bytes, tag, &text)?,
            false => bytes.extend_from_slice(&text),
        }
    }
    Ok(bytes)
}

/// What a file holds.
#[derive(Debug, Default)]
pub(super) struct Content {
    pub(super) lines: Vec<Line>,
    /// Whether there is more in it, or was.
    pub(super) is_damaged: bool,
}

/// The file of a look, opened.
#[derive(Debug)]
pub(super) struct LookFile {
    path: PathBuf,
    bytes: Vec<u8>,
    /// How the lines begin of pieces that were held against their digests: who looks through an archive asks for each
    /// several times.
    whole: Mutex<HashSet<Vec<u8>>>,
}

impl LookFile {
    pub(super) fn open(path: &Path) -> Result<Self, StoreError> {
        Ok(Self { path: path.to_owned(), bytes: disk::read(path)?, whole: Mutex::default() })
    }

    pub(super) fn bytes(&self) -> &[u8] {
        &self.bytes
    }

    pub(super) fn is_packed(&self) -> bool {
        is_packed(&self.path)
    }

    /// The first line with a tag that begins so.
    fn line(&self, has: impl Fn(Option<Tag>) -> bool, begins: &[u8]) -> Option<Vec<u8>> {
        if !self.is_packed() {
            let own = lines(&self.bytes).find(|line| line.starts_with(begins))?;
            return Some(own.to_owned());
        }
        let mut left = MOST_BYTES;
        for (_, frame) in frames(&self.bytes).flatten().filter(|(tag, _)| has(*tag)) {
            let Some(line) = unpack(frame, left) else { continue };
            if line.starts_with(begins) {
                return Some(line);
            }
            left -= line.len();
        }
        None
    }

    /// The text of the observation; nothing where there is none in it.
    pub(super) fn observation(&self) -> Option<Vec<u8>> {
        let begins = format!("{{\"format\":\"{}\",", OBSERVATION.name);
        if let Some(line) = self.line(|tag| tag.is_none(), begins.as_bytes())
            && line.ends_with(b"}\n")
        {
            return Some(line);
        }
        self.content().lines.into_iter().find_map(|line| match line {
            Line::Observation(text) => Some(text),
            _ => None,
        })
    }

    /// Where its lists stand, if not in it.
    pub(super) fn stands_in(&self) -> StandsIn {
        let quick = self.line(|tag| tag == Some(ELSEWHERE), b"{\"stands_in\":");
        let quick = quick.and_then(|line| read_line(&line));
        let found = quick.map_or_else(|| self.content().lines, |line| vec![line]);
        let own = found.into_iter().find_map(|line| match line {
            Line::Elsewhere(stands_in) => Some(stands_in),
            _ => None,
        });
        own.unwrap_or_default()
    }

    /// The list of this kind in it: the one of this digest, or its own.
    pub(super) fn list(&self, of: Of, digest: Option<&str>) -> Option<List> {
        let is = |line: Line| line.into_list(of, digest);
        self.list_as_written(of, digest).or_else(|| self.content().lines.into_iter().find_map(is))
    }

    /// The same, where its line is laid out as it is written here.
    pub(super) fn list_as_written(&self, of: Of, digest: Option<&str>) -> Option<List> {
        let kind = of.tag(true, "").0[0];
        let tag = digest.map(|digest| list_key(of, digest));
        let has = |own: Option<Tag>| match tag {
            Some(tag) => own == Some(tag),
            None => own.is_some_and(|own| own.0[0] == kind),
        };
        let line = self.line(has, &beginning_of_list(of, digest))?;
        read_line(&line)?.into_list(of, digest)
    }

    /// The text of a piece in it, if it is the one of its digest.
    pub(super) fn piece(&self, of: Of, at: &PieceAt) -> Option<Vec<u8>> {
        let begins = beginning_of_piece(of, &at.section, &at.digest).ok()?;
        let tag = piece_key(of, &at.digest);
        if let Some(line) = self.line(|own| own == Some(tag), &begins) {
            let text = line.strip_suffix(b"}\n").and_then(|line| line.get(begins.len()..));
            let mut whole = self.whole.lock().unwrap_or_else(PoisonError::into_inner);
            let is_known = whole.contains(&begins);
            if let Some(text) = text.filter(|text| is_known || digest(text) == at.digest) {
                whole.insert(begins.clone());
                return Some(text.to_owned());
            }
        }
        self.content().lines.into_iter().find_map(|line| match line {
            Line::Piece(own, piece)
                if (own, &piece.section, &piece.digest) == (of, &at.section, &at.digest)
                    && digest(&piece.text) == at.digest =>
            {
                Some(piece.text)
            }
            _ => None,
        })
    }

    /// Whether all that is in it can be read, and each piece is the one of its digest.
    pub(super) fn is_whole(&self) -> bool {
        let Content { lines, is_damaged } = self.content();
        let is = |line: &Line| match line {
            Line::Piece(_, piece) => digest(&piece.text) == piece.digest,
            _ => true,
        };
        !is_damaged && lines.iter().all(is)
    }

    /// All that can be read of it.
    pub(super) fn content(&self) -> Content {
        let (text, is_cut) = self.text();
        let mut by_lines = Content { lines: Vec::new(), is_damaged: is_cut };
        for line in lines(&text) {
            match read_line(line).filter(|_| line.ends_with(b"\n")) {
                Some(line) => by_lines.lines.push(line),
                None => by_lines.is_damaged = true,
            }
        }
        if !by_lines.is_damaged {
            return by_lines;
        }
        // Somebody may have laid it out otherwise.
        let mut laid_out = Content { lines: Vec::new(), is_damaged: is_cut };
        let values = serde_json::Deserializer::from_slice(&text);
        for value in values.into_iter::<serde_json::Value>() {
            let line =
                value.and_then(|value| serde_json::to_vec(&value)).ok().and_then(|mut line| {
                    line.push(b'\n');
                    read_line(&line)
                });
            match line {
                Some(line) => laid_out.lines.push(line),
                None => laid_out.is_damaged = true,
            }
        }
        let more = laid_out.lines.len() > by_lines.lines.len();
        if more || !laid_out.is_damaged { laid_out } else { by_lines }
    }

    /// The text of what can be unpacked, and whether something could not.
    fn text(&self) -> (Vec<u8>, bool) {
        if !self.is_packed() {
            return (self.bytes.clone(), false);
        }
        let (mut text, mut is_cut) = (Vec::new(), false);
        for frame in frames(&self.bytes) {
            let left = MOST_BYTES.saturating_sub(text.len());
            match frame.and_then(|(_, frame)| unpack(frame, left)) {
                Some(mut line) => text.append(&mut line),
                None => is_cut = true,
            }
        }
        if is_cut && let Some(whole) = otherwise_packed(&self.bytes) {
            return (whole, false);
        }
        (text, is_cut)
    }
}

/// What somebody else packed.
fn otherwise_packed(bytes: &[u8]) -> Option<Vec<u8>> {
    use io::Read;
    let mut text = Vec::new();
    let decoder = zstd::Decoder::new(bytes).ok()?;
    decoder.take(MOST_BYTES as u64 + 1).read_to_end(&mut text).ok()?;
    (text.len() <= MOST_BYTES).then_some(text)
}

/// What a line that cannot be read makes of its file.
pub(super) fn unreadable(path: &Path) -> StoreError {
    damaged(path, "it was cut or altered: a line of it is none of a look's")
}

/// The digest that a list of origins should have.
pub(super) fn digest_of_origins(pieces: &[PieceAt]) -> String {
    let all = pieces.iter().map(|one| (one.section.clone(), one.digest.clone()));
    OriginsList(all.collect()).digest()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const EARLIER: &str = "00000001-20260101T030000Z";

    fn piece(of: Of, section: &str, text: &str) -> Line {
        Line::Piece(of, Piece::of(section.to_owned(), text.as_bytes().to_vec()))
    }

    /// An observation, lists here and elsewhere, and pieces of both kinds.
    fn lines() -> Vec<Line> {
        let observation = "{\"format\":\"tectum-observation\",\"number\":2}\n";
        let pieces = [("os", None), ("cpu", Some(EARLIER))].map(|(section, look)| PieceAt {
            section: section.to_owned(),
            digest: digest(b"{\"name\":\"a\\nb\"}"),
            look: look.map(str::to_owned),
        });
        let origins = Some(EARLIER.to_owned());
        vec![
            Line::Observation(observation.as_bytes().to_vec()),
            Line::Elsewhere(StandsIn { state: None, origins }),
            Line::List(List { of: Of::State, digest: digest(b"x"), pieces: pieces.to_vec() }),
            piece(Of::State, "os", "{\"name\":\"a\\nb\"}"),
            piece(Of::State, "gpu", "null"),
            piece(Of::Origins, "os", "{\"gaps\":[]}"),
        ]
    }

    fn file(bytes: Vec<u8>, packed: bool) -> LookFile {
        let path = if packed { "look.json.zst" } else { "look.json" };
        LookFile { path: path.into(), bytes, whole: Mutex::default() }
    }

    fn at(section: &str, text: &str) -> PieceAt {
        PieceAt { section: section.to_owned(), digest: digest(text.as_bytes()), look: None }
    }

    #[rstest]
    #[case::plain(false, written(&lines(), false).unwrap())]
    #[case::packed(true, written(&lines(), true).unwrap())]
    #[case::packed_at_once(true, zstd::encode_all(&written(&lines(), false).unwrap()[..], 3).unwrap())]
    fn what_was_written_is_found_by_itself_and_as_a_whole(
        #[case] packed: bool,
        #[case] bytes: Vec<u8>,
    ) {
        let file = file(bytes, packed);
        assert_eq!(file.content().lines, lines());
        assert!(file.is_whole());
        assert_eq!(file.observation().map(Line::Observation), lines().into_iter().next());
        assert_eq!(file.stands_in().of(Of::Origins), Some(EARLIER));
        assert_eq!(file.stands_in().of(Of::State), None);
        for own in [None, Some(digest(b"x"))] {
            let list = file.list(Of::State, own.as_deref()).unwrap();
            assert_eq!(Some(Line::List(list)), lines().into_iter().nth(2));
        }
        assert!(file.list(Of::State, Some(&digest(b"y"))).is_none());
        assert!(file.list(Of::Origins, None).is_none());
        assert_eq!(file.piece(Of::State, &at("gpu", "null")).as_deref(), Some(&b"null"[..]));
        assert_eq!(file.piece(Of::Origins, &at("gpu", "null")), None, "another kind of piece");
        assert_eq!(file.piece(Of::State, &at("usb", "null")), None, "of another section");
        assert_eq!(file.piece(Of::State, &at("gpu", "true")), None);
    }

    #[rstest]
    fn a_piece_that_was_altered_is_none(#[values(false, true)] packed: bool) {
        let mut altered = lines();
        if let Some(Line::Piece(_, piece)) = altered.get_mut(4) {
            piece.text = b"true".to_vec();
        }
        let file = file(written(&altered, packed).unwrap(), packed);
        assert_eq!(file.piece(Of::State, &at("gpu", "null")), None);
        assert_eq!(file.piece(Of::State, &at("gpu", "true")), None);
        assert!(!file.is_whole());
        assert!(file.piece(Of::Origins, &at("os", "{\"gaps\":[]}")).is_some());
    }

    /// A small file may say that much stands in it.
    #[rstest]
    fn no_more_is_unpacked_than_a_file_may_hold() {
        let mut bytes = Vec::new();
        let mut much = b"{\"stands_in\":{}}".to_vec();
        much.resize(MOST_BYTES / 4, b' ');
        much.push(b'\n');
        (0..8).for_each(|_| pack(&mut bytes, None, &much).unwrap());
        let file = file(bytes, true);
        assert!(file.bytes.len() < MOST_BYTES / 100);
        // Each line by itself could be read.
        let Content { lines, is_damaged } = file.content();
        assert_eq!((lines.len(), is_damaged), (3, true));
    }

    #[rstest]
    fn of_a_file_that_was_cut_the_lines_before_are_left(#[values(false, true)] packed: bool) {
        let mut bytes = written(&lines(), packed).unwrap();
        bytes.truncate(bytes.len() - 3);
        let file = file(bytes, packed);
        let content = file.content();
        assert!(content.is_damaged && !file.is_whole());
        assert_eq!(content.lines, lines()[..5]);
    }
}
