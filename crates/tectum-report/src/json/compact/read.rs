//! The tables of a report, read: what each part's values are from, part by part.

use std::{
    borrow::Cow,
    collections::{BTreeMap, VecDeque},
    rc::Rc,
    sync::Arc,
};

use serde::Deserialize;
use serde_json::Value;

use super::{
    Asked, Evidence, From, Lack, Place, Said, Saying, Says, Source, Spot, Stance, Stands, Tables,
    Visit, Way, as_it_stands,
    brief::{Brief, InBrief},
    column::Cell,
    folders::{Folder, Folders},
    parts::{Opened, Part, number},
};
use crate::{
    fact::{Attempt, Gap, RAW_LIMIT, clip},
    json::{
        cut::{Cut, Meanings, Rows},
        origins::Depth,
        read::{ReadError, SIZE_LIMIT},
    },
    keyed::Map,
};

/// The tables as they are read: their entries are only looked at when they are wanted.
pub(in crate::json) type Read<'a> =
    Tables<Rows<'a>, Rows<'a>, Rows<'a>, Rows<'a>, BTreeMap<String, Cut<'a>>, Rows<'a>, Cut<'a>>;

/// A table whose entries are read when they are wanted, and once.
pub(super) struct Table<'a, T> {
    name: &'static str,
    rows: Rows<'a>,
    read: Vec<Option<Rc<T>>>,
}

impl<'a, T: Deserialize<'a>> Table<'a, T> {
    pub(super) fn get(&mut self, number: usize) -> Result<Rc<T>, ReadError> {
        self.get_by(number, |row| serde_json::from_slice(row))
    }
}

impl<'a, T> Table<'a, T> {
    pub(super) fn new(name: &'static str, rows: Rows<'a>) -> Self {
        Self { name, rows, read: Vec::new() }
    }

    pub(super) fn get_by(
        &mut self,
        number: usize,
        read: impl FnOnce(&'a [u8]) -> Result<T, serde_json::Error>,
    ) -> Result<Rc<T>, ReadError> {
        if let Some(Some(entry)) = self.read.get(number) {
            return Ok(Rc::clone(entry));
        }
        let rows = self.rows.split();
        let row = rows
            .get(number)
            .ok_or_else(|| broken("", format!("there is no entry {number} of {}", self.name)))?;
        let at = || format!("{}/{number}", self.name);
        let entry = read(row.0);
        let entry = Rc::new(entry.map_err(|error| broken(&at(), error.to_string()))?);
        if self.read.len() < rows.len() {
            self.read.resize_with(rows.len(), || None);
        }
        if let Some(slot) = self.read.get_mut(number) {
            *slot = Some(Rc::clone(&entry));
        }
        Ok(entry)
    }
}

/// What tables say, part by part.
pub(in crate::json) struct Told<'a> {
    folders: Folders<'a>,
    /// The paths of folders that were named already.
    paths: Map<usize, Arc<str>>,
    /// Those of files in each of them: many values are from one file.
    files: Map<usize, Map<String, Arc<str>>>,
    texts: Table<'a, Arc<str>>,
    ways: Table<'a, Way<'static>>,
    /// The same, for who does not ask where values are from.
    pub(super) brief: InBrief<'a>,
    pub(super) recipes: Table<'a, Vec<usize>>,
    pub(super) visits: Table<'a, Vec<Visit<'static>>>,
    parts: BTreeMap<String, Cut<'a>>,
    /// The kinds of parts that were met, by their patterns; nothing of which nothing is said.
    kinds: Map<String, Option<Kind>>,
    /// Those of which something is said, each with its pattern.
    pub(super) opened: Vec<(String, Opened<'a>)>,
    codes: Table<'a, String>,
    /// The sayings of codes that were met.
    sayings: Map<usize, Saying>,
    meanings: Meanings<'a>,
    depth: Depth,
    /// So much may still be said, in bytes: few tables can say very much.
    left: u64,
}

/// A kind of parts of which something is said.
#[derive(Debug, Clone, Copy)]
pub(in crate::json) struct Kind(usize);

/// What is said of the values of one part.
#[derive(Debug, Default)]
pub(in crate::json) struct Unit {
    pub(super) fields: VecDeque<(Named, Origin)>,
}

/// A way, for the field that it names.
#[derive(Debug)]
pub(super) enum Named {
    Whole(Rc<Way<'static>>),
    Brief(Rc<Brief<'static>>),
    Alone(Rc<str>),
}

impl Named {
    fn field(&self) -> &str {
        match self {
            Self::Whole(way) => &way.0,
            Self::Brief(way) => &way.0,
            Self::Alone(field) => field,
        }
    }
}

/// Where a value is from, and why it is missing.
#[derive(Debug, Default)]
pub(in crate::json) struct Origin {
    pub(in crate::json) evidence: Vec<Evidence>,
    pub(in crate::json) gap: Option<Gap>,
    /// The pieces of evidence that hold the value itself, each with what stands before it.
    of_value: Vec<(usize, Option<Arc<str>>)>,
}

impl Origin {
    fn says_nothing(&self) -> bool {
        self.evidence.is_empty() && self.gap.is_none()
    }

    pub(in crate::json) fn new(evidence: Vec<Evidence>, gap: Option<Gap>) -> Self {
        Self { evidence, gap, of_value: Vec::new() }
    }
}

impl Unit {
    /// What is said of a field, whose value is this.
    pub(in crate::json) fn take(&mut self, field: &str, value: Option<&Value>) -> Origin {
        // Fields come in the order of the declarations, as they are asked for.
        let at = self.fields.iter().position(|(way, _)| way.field() == field);
        let Some((_, mut origin)) = at.and_then(|at| self.fields.remove(at)) else {
            return Origin::default();
        };
        let raw: Option<Arc<str>> = match origin.of_value.is_empty() {
            true => None,
            false => value.and_then(as_it_stands).map(Into::into),
        };
        for (at, before) in std::mem::take(&mut origin.of_value) {
            if let Some(piece) = origin.evidence.get_mut(at) {
                piece.raw = match (before, &raw) {
                    // No more of it than evidence keeps: that much was counted.
                    (Some(before), Some(raw)) => {
                        Some(clip(&format!("{before}{}", clip(raw))).into())
                    }
                    (_, raw) => raw.clone(),
                };
            }
        }
        origin
    }
}

pub(super) const MORE_OF_ITS_OWN: &str = "a part has more of its own than its ways take";
pub(super) const LESS_OF_ITS_OWN: &str = "a part has less of its own than its ways take";

pub(super) fn broken(at: &str, said: impl Into<String>) -> ReadError {
    ReadError::Malformed { at: format!("/origins/{at}"), said: said.into() }
}

/// Counts bytes against those that are left.
fn spend(left: &mut u64, bytes: usize) -> Result<(), ReadError> {
    let further = left.checked_sub(bytes as u64);
    *left = further.ok_or_else(|| broken("", "it says more than a report may hold"))?;
    Ok(())
}

/// What is wrong, told with where that stands among the tables, unless it says that itself.
pub(super) fn told_at(error: ReadError, at: &str) -> ReadError {
    match error {
        ReadError::Malformed { at: own, said } if own.ends_with('/') => broken(at, said),
        other => other,
    }
}

/// Where what is said of parts of a kind stands.
fn of_parts(pattern: &str) -> String {
    format!("parts/{}", pattern.replace('~', "~0").replace('/', "~1"))
}

impl<'a> Told<'a> {
    /// What tables say, and accesses as they stand in them.
    pub(in crate::json) fn new(
        tables: Read<'a>,
        meanings: Meanings<'a>,
        depth: Depth,
    ) -> (Self, Cut<'a>) {
        let Tables { folders, texts, sayings, ways, recipes, parts, visits, accesses } = tables;
        let none = || Rows::Apart(Vec::new());
        let (ways, brief) = if depth == Depth::Whole { (ways, none()) } else { (none(), ways) };
        let told = Self {
            folders: Folders::of(folders),
            paths: Map::default(),
            files: Map::default(),
            texts: Table::new("texts", texts),
            ways: Table::new("ways", ways),
            brief: InBrief::new(brief, depth),
            recipes: Table::new("recipes", recipes),
            visits: Table::new("visits", visits),
            parts,
            kinds: Map::default(),
            opened: Vec::new(),
            codes: Table::new("sayings", sayings),
            sayings: Map::default(),
            meanings,
            depth,
            left: SIZE_LIMIT,
        };
        (told, accesses)
    }

    pub(super) fn spend(&mut self, bytes: usize) -> Result<(), ReadError> {
        spend(&mut self.left, bytes)
    }

    /// The path of a folder.
    pub(super) fn path(&mut self, number: usize) -> Result<Arc<str>, ReadError> {
        // Up to what is known, and down again: a folder may be deep.
        let mut unknown = Vec::new();
        let mut at = number;
        let mut path = loop {
            if let Some(path) = self.paths.get(&at) {
                break Arc::clone(path);
            }
            let left = &mut self.left;
            match self.folders.get(at, |bytes| spend(left, bytes))? {
                Folder::Whole(text) => {
                    unknown.push((at, text.to_owned()));
                    break Arc::default();
                }
                Folder::Within(within, name) => {
                    unknown.push((at, format!("/{name}")));
                    at = within;
                }
            }
        };
        for (number, behind) in unknown.into_iter().rev() {
            path = format!("{path}{behind}").into();
            self.spend(path.len())?;
            self.paths.insert(number, Arc::clone(&path));
        }
        Ok(path)
    }

    /// Whether something that was read is from a folder: whoever names a path names the folders that it is in.
    pub(super) fn has_met(&self, folder: usize) -> bool {
        self.paths.contains_key(&folder)
    }

    /// The kind of the parts at a pattern, of which something is said.
    ///
    /// # Errors
    /// What is wrong with what is said of them.
    pub(in crate::json) fn kind(&mut self, pattern: &str) -> Result<Option<Kind>, ReadError> {
        if let Some(kind) = self.kinds.get(pattern) {
            return Ok(*kind);
        }
        let mut kind = None;
        if let Some(raw) = self.parts.get(pattern).copied() {
            let opened = Opened::of(raw, |bytes| self.spend(bytes));
            kind = Some(Kind(self.opened.len()));
            let opened = opened.map_err(|error| told_at(error, &of_parts(pattern)))?;
            self.opened.push((pattern.to_owned(), opened));
        }
        self.kinds.insert(pattern.to_owned(), kind);
        Ok(kind)
    }

    /// What is said of the next part of a kind.
    ///
    /// # Errors
    /// What is wrong with it; that of parts of this kind fewer are told of than there are.
    pub(in crate::json) fn next(&mut self, kind: Option<Kind>) -> Result<Unit, ReadError> {
        let Some(Kind(at)) = kind else { return Ok(Unit::default()) };
        self.unit(at).map_err(|error| match self.opened.get(at) {
            Some((pattern, _)) => told_at(error, &of_parts(pattern)),
            None => error,
        })
    }

    /// Passes over what is said of so many parts of the kind at a pattern.
    ///
    /// # Errors
    /// As [`Self::next`].
    pub(in crate::json) fn pass_over(
        &mut self,
        pattern: &str,
        count: usize,
    ) -> Result<(), ReadError> {
        let kind = self.kind(pattern)?;
        let Some((_, opened)) = kind.and_then(|Kind(at)| self.opened.get_mut(at)) else {
            return Ok(());
        };
        opened.pass_over(count).map_err(|error| told_at(error, &of_parts(pattern)))
    }

    /// Looks whether all was said of parts that are there.
    ///
    /// # Errors
    /// That of parts of a kind more are told of than there are.
    pub(in crate::json) fn end(&mut self) -> Result<(), ReadError> {
        let with_columns = self.depth == Depth::Whole;
        self.opened.iter_mut().try_for_each(|(pattern, opened)| {
            opened.end(with_columns).map_err(|error| told_at(error, &of_parts(pattern)))
        })
    }

    fn unit(&mut self, kind: usize) -> Result<Unit, ReadError> {
        let Some((_, opened)) = self.opened.get_mut(kind) else { return Ok(Unit::default()) };
        let turn = opened.turn()?;
        let takes = opened.values(turn);
        match self.depth {
            Depth::Whole => {
                let part = opened.part(turn, 0..takes)?;
                self.whole_unit(part)
            }
            Depth::Gaps => self.unit_in_brief(kind, turn, takes),
            Depth::Reasons => self.unit_of_reasons(turn.recipe),
        }
    }

    fn whole_unit(&mut self, part: Part<'a>) -> Result<Unit, ReadError> {
        let recipe = self.recipes.get(part.recipe)?;
        self.spend(recipe.len() * size_of::<(Named, Origin)>())?;
        let mut own = Taking { folders: part.folders, values: part.values.into_iter() };
        let mut fields = VecDeque::with_capacity(recipe.len());
        for number in recipe.iter() {
            let way = self.ways.get(*number)?;
            let origin = self.origin(&way, &mut own)?;
            if !origin.says_nothing() {
                fields.push_back((Named::Whole(way), origin));
            }
        }
        match own.values.next() {
            None => Ok(Unit { fields }),
            Some(_) => Err(broken("", MORE_OF_ITS_OWN)),
        }
    }

    fn origin(&mut self, way: &Way<'_>, own: &mut Taking<'a>) -> Result<Origin, ReadError> {
        let Way(_, from, lack) = way;
        let mut origin = Origin::default();
        // Nearly all have one, for which a list that grows would make room for four.
        self.spend(from.count().saturating_mul(size_of::<Evidence>()))?;
        origin.evidence.reserve_exact(from.count());
        for piece in from.runs().flat_map(|(piece, times)| (0..times).map(move |_| piece)) {
            let From(.., stands, _, _) = piece;
            let number = origin.evidence.len();
            match stands {
                Stands::Value => origin.of_value.push((number, None)),
                Stands::Behind(name) => {
                    self.spend(name.len() + RAW_LIMIT)?;
                    origin.of_value.push((number, Some(Arc::from(&**name))));
                }
                Stands::Next | Stands::Untold => {}
            }
            let piece = self.piece(piece, own)?;
            origin.evidence.push(piece);
        }
        if let Some(lack) = lack {
            self.spend(size_of::<Gap>())?;
            origin.gap = Some(self.gap(lack, own)?);
        }
        Ok(origin)
    }

    fn piece(&mut self, piece: &From<'_>, own: &mut Taking<'a>) -> Result<Evidence, ReadError> {
        let From(source, rule, stands, place, says) = piece;
        let source = self.source(source, own)?;
        let place = match place {
            None => None,
            Some(Spot::Line) => Some(Place::Line(own.number()?)),
            Some(Spot::Bytes(offset, length)) => {
                Some(Place::Bytes { offset: *offset, length: *length })
            }
            Some(Spot::Structure(offset, length)) => {
                let handle = u16::try_from(own.number()?);
                let handle = handle.map_err(|_| broken("", "a handle has 16 bits"))?;
                Some(Place::Structure { handle, offset: *offset, length: *length })
            }
            Some(Spot::Named(name)) => Some(Place::Named(Cow::Owned(name.to_string()))),
            Some(Spot::Name) => Some(Place::Named(Cow::Owned(self.text(own)?.to_string()))),
        };
        let rule = self.said(*rule, own)?;
        let raw = match stands {
            Stands::Next => Some(self.text(own)?),
            // The value is put in when it is there.
            Stands::Value | Stands::Behind(_) | Stands::Untold => None,
        };
        let stance = match says {
            Says::Gives => Stance::Gives,
            Says::Agrees => Stance::Agrees,
            Says::Differs => Stance::differs(self.text(own)?.to_string()),
        };
        Ok(Evidence { source, place, rule, raw, stance })
    }

    pub(super) fn gap(&mut self, lack: &Lack<'_>, own: &mut Taking<'a>) -> Result<Gap, ReadError> {
        let named = match &lack.source {
            Asked::One(source) => Some(self.source(source, own)?),
            Asked::Last | Asked::None(_) => None,
        };
        let hint = lack.hint.as_ref().map(|hint| self.said(*hint, own)).transpose()?;
        let raw = lack.raw.then(|| self.text(own)).transpose()?;
        let mut tried = Vec::with_capacity(lack.tried.len());
        for (source, answer) in &lack.tried {
            let source = self.source(source, own)?;
            tried.push(Attempt { source, answer: self.said(*answer, own)? });
        }
        let source = match lack.source {
            Asked::Last => tried.last().map(|attempt| Arc::clone(&attempt.source)),
            Asked::One(_) | Asked::None(_) => named,
        };
        Ok(Gap { why: lack.why, source, hint: hint.map(Box::new), raw, tried })
    }

    fn said(&mut self, said: Said, own: &mut Taking<'a>) -> Result<Saying, ReadError> {
        let (Said::Plain(number) | Said::OfNext { of_next: number }) = said;
        let saying = match self.sayings.get(&number) {
            Some(saying) => saying.clone(),
            None => {
                let mut saying = Saying::read(self.codes.get(number)?.to_string(), None);
                let words = self.meanings.of(saying.code());
                let words = words.map_err(|error| ReadError::of_meanings(&error))?;
                words.into_iter().for_each(|words| saying.say(words.into_owned()));
                self.sayings.insert(number, saying.clone());
                saying
            }
        };
        Ok(match said {
            Said::Plain(_) => saying,
            Said::OfNext { .. } => saying.with(self.text(own)?),
        })
    }

    fn source(&mut self, source: &Source<'_>, own: &Taking<'a>) -> Result<Arc<str>, ReadError> {
        let slot = |slot: &usize| {
            let folder = own.folders.get(*slot).copied();
            folder.ok_or_else(|| broken("", "a part has fewer folders than its ways take"))
        };
        match source {
            Source::Whole(of) => self.path(slot(of)?),
            Source::Within(of, name) => {
                let folder = slot(of)?;
                if let Some(path) = self.files.get(&folder).and_then(|files| files.get(&**name)) {
                    return Ok(Arc::clone(path));
                }
                let path: Arc<str> = format!("{}/{name}", self.path(folder)?).into();
                self.spend(path.len())?;
                let files = self.files.entry(folder).or_default();
                files.insert(name.to_string(), Arc::clone(&path));
                Ok(path)
            }
        }
    }

    fn text(&mut self, own: &mut Taking<'a>) -> Result<Arc<str>, ReadError> {
        match own.next()? {
            Cell::Text(text) => {
                // A column may say it of very many parts.
                self.spend(text.len())?;
                Ok(text.into())
            }
            cell => {
                let number = usize::try_from(number(&cell)?).unwrap_or(usize::MAX);
                Ok(Arc::clone(&*self.texts.get(number)?))
            }
        }
    }
}

/// What a part has of its own, while its ways take it.
pub(super) struct Taking<'a> {
    pub(super) folders: Vec<usize>,
    pub(super) values: std::vec::IntoIter<Cell<'a>>,
}

impl<'a> Taking<'a> {
    fn next(&mut self) -> Result<Cell<'a>, ReadError> {
        self.values.next().ok_or_else(|| broken("", LESS_OF_ITS_OWN))
    }

    fn number(&mut self) -> Result<u64, ReadError> {
        number(&self.next()?)
    }
}

impl Lack<'_> {
    /// How much of a part's own it takes.
    pub(super) fn takes(&self) -> usize {
        let answers = self.tried.iter().map(|(_, answer)| answer);
        let said = self.hint.iter().chain(answers);
        said.filter(|said| matches!(said, Said::OfNext { .. })).count() + usize::from(self.raw)
    }
}

impl<S> From<'_, S> {
    /// How much of a part's own it takes.
    pub(super) fn takes(&self) -> usize {
        let Self(_, rule, stands, place, says) = self;
        let place = matches!(place, Some(Spot::Line | Spot::Structure(..) | Spot::Name));
        let rule = matches!(rule, Said::OfNext { .. });
        [place, rule, *stands == Stands::Next, *says == Says::Differs]
            .into_iter()
            .filter(|takes| *takes)
            .count()
    }
}
