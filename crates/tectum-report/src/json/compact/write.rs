//! The tables of a report.

use std::{borrow::Cow, collections::BTreeMap, hash::Hash};

use super::{
    Asked, Evidence, From, Lack, Place, Said, Saying, Says, Source, Spot, Stance, Stands, Tables,
    Visit, Way,
    accesses::{self, Accesses},
    as_it_stands,
    column::Cell,
    folders::{self, Row},
    is_section,
    parts::{Part, Parts},
};
use crate::{
    declare::{Node, Record, fields},
    fact::{Gap, RAW_LIMIT},
    json::pointer::Pointer,
    keyed::Map,
    report::Report,
};

/// The tables, as they are written.
pub(in crate::json) type Written<'a> = Tables<
    Vec<Row<'a>>,
    Vec<&'a str>,
    Vec<Way<'a>>,
    Vec<Vec<usize>>,
    BTreeMap<String, Parts<'a>>,
    Vec<Vec<Visit<'a>>>,
    Vec<Accesses<'a>>,
>;

/// A text that stands in so few bytes is not worth a number.
const SHORT: usize = 6;

/// Entries that are told apart, and their numbers.
pub(super) struct Numbered<T> {
    pub(super) all: Vec<T>,
    numbers: Map<T, usize>,
}

impl<T> Default for Numbered<T> {
    fn default() -> Self {
        Self { all: Vec::new(), numbers: Map::default() }
    }
}

impl<T: Eq + Hash + Clone> Numbered<T> {
    pub(super) fn number(&mut self, entry: T) -> usize {
        let next = self.all.len();
        *self.numbers.entry(entry).or_insert_with_key(|entry| {
            self.all.push(entry.clone());
            next
        })
    }
}

/// What one part has of its own, while it is gathered.
#[derive(Default)]
struct Gathered<'a> {
    ways: Vec<usize>,
    folders: Vec<usize>,
    values: Vec<Kept<'a>>,
}

enum Kept<'a> {
    Number(u64),
    Text(&'a str),
}

#[derive(Default)]
struct Writer<'a> {
    folders: folders::Gathered<'a>,
    /// The texts that stand in sources, in the order in which they were met, and how often each stands in any.
    texts: Vec<(&'a str, usize)>,
    /// Where each stands among them.
    met: Map<&'a str, usize>,
    sayings: Numbered<&'a str>,
    ways: Numbered<Way<'a>>,
    recipes: Numbered<Vec<usize>>,
    parts: BTreeMap<String, Vec<(usize, Gathered<'a>)>>,
}

/// The tables of a report.
pub(in crate::json) fn tables(report: &Report) -> Written<'_> {
    let mut writer = Writer::default();
    let mut pattern = Pointer::root();
    for (name, root) in report.roots() {
        let mark = pattern.push(name);
        writer.part(root, &mut pattern);
        pattern.back(mark);
    }
    writer.written(report)
}

impl<'a> Writer<'a> {
    fn part(&mut self, record: &'a dyn Record, pattern: &mut Pointer) {
        let mut own = Gathered::default();
        let mut lists = Vec::new();
        let mut field = Pointer::root();
        self.fields(record, &mut field, pattern, &mut own, &mut lists);
        let recipe = self.recipes.number(std::mem::take(&mut own.ways));
        match self.parts.get_mut(pattern.as_str()) {
            Some(parts) => parts.push((recipe, own)),
            None => {
                self.parts.insert(pattern.as_str().to_owned(), vec![(recipe, own)]);
            }
        }
        for (at, records) in lists {
            let mark = pattern.push_pointer(&at);
            for record in records {
                self.part(record, pattern);
            }
            pattern.back(mark);
        }
    }

    /// The fields of a part, and those of records within it; what is a part of its own is put off.
    fn fields(
        &mut self,
        record: &'a dyn Record,
        field: &mut Pointer,
        pattern: &Pointer,
        own: &mut Gathered<'a>,
        lists: &mut Vec<(String, Vec<&'a dyn Record>)>,
    ) {
        for (shape, node) in fields(record) {
            let mark = field.push(shape.name);
            let at = || match field.as_str().get(1..) {
                Some(at) if mark > 0 => Cow::Owned(at.to_owned()),
                _ => Cow::Borrowed(shape.name),
            };
            match node {
                Node::Absent => {}
                Node::Leaf(fact) => {
                    let gap = fact.missing().or_else(|| fact.hidden_part());
                    let value = (!fact.evidence().is_empty()).then(|| fact.json()).flatten();
                    self.way(at(), value, fact.evidence(), gap, own);
                }
                // Within a root each record is a part of its own.
                Node::Record(inner) if is_section(&[pattern.as_str(), field.as_str()].concat()) => {
                    lists.push((field.as_str().to_owned(), vec![inner]));
                }
                Node::Record(inner) => self.fields(inner, field, pattern, own, lists),
                Node::List(list) => {
                    let gap = list.missing().or_else(|| list.hidden_part());
                    self.way(at(), None, list.evidence(), gap, own);
                    let records: Vec<_> = (0..list.len()).filter_map(|at| list.get(at)).collect();
                    lists.push((format!("{}/*", field.as_str()), records));
                }
            }
            field.back(mark);
        }
    }

    fn way(
        &mut self,
        at: Cow<'a, str>,
        value: Option<serde_json::Value>,
        evidence: &'a [Evidence],
        gap: Option<&'a Gap>,
        own: &mut Gathered<'a>,
    ) {
        if evidence.is_empty() && gap.is_none() {
            return;
        }
        let value = value.as_ref().and_then(as_it_stands);
        let from = evidence.iter().map(|piece| self.piece(piece, value.as_deref(), own)).collect();
        let gap = gap.map(|gap| self.lack(gap, own));
        let number = self.ways.number(Way(at, from, gap));
        own.ways.push(number);
    }

    fn piece(
        &mut self,
        piece: &'a Evidence,
        value: Option<&str>,
        own: &mut Gathered<'a>,
    ) -> From<'a> {
        let source = self.source(&piece.source, own);
        let place = piece.place.as_ref().map(|place| match place {
            Place::Line(number) => {
                own.values.push(Kept::Number(*number));
                Spot::Line
            }
            Place::Bytes { offset, length } => Spot::Bytes(*offset, *length),
            Place::Structure { handle, offset, length } => {
                own.values.push(Kept::Number((*handle).into()));
                Spot::Structure(*offset, *length)
            }
            // A name that counts differs from part to part.
            Place::Named(name) if counts(name) => {
                self.text(name, own);
                Spot::Name
            }
            Place::Named(name) => Spot::Named(Cow::Borrowed(name)),
        });
        let rule = self.said(&piece.rule, own);
        let stands = match piece.raw.as_deref() {
            None => Stands::Untold,
            Some(raw) if value == Some(raw) => Stands::Value,
            Some(raw) => match value.and_then(|value| before(raw, value)) {
                Some(name) => Stands::Behind(Cow::Borrowed(name)),
                None => {
                    self.text(raw, own);
                    Stands::Next
                }
            },
        };
        let says = match &piece.stance {
            Stance::Gives => Says::Gives,
            Stance::Agrees => Says::Agrees,
            Stance::Differs(says) => {
                self.text(says, own);
                Says::Differs
            }
        };
        From(source, rule, stands, place, says)
    }

    fn lack(&mut self, gap: &'a Gap, own: &mut Gathered<'a>) -> Lack<'a> {
        let last = gap.tried.last().map(|attempt| &attempt.source);
        let source = match &gap.source {
            source if source.as_ref() == last => Asked::Last,
            Some(source) => Asked::One(self.source(source, own)),
            None => Asked::None(false),
        };
        let hint = gap.hint.as_deref().map(|hint| self.said(hint, own));
        if let Some(raw) = gap.raw.as_deref() {
            self.text(raw, own);
        }
        let tried = gap.tried.iter().map(|attempt| {
            let source = self.source(&attempt.source, own);
            (source, self.said(&attempt.answer, own))
        });
        let tried = tried.collect();
        Lack { why: gap.why, source, hint, raw: gap.raw.is_some(), tried }
    }

    fn said(&mut self, saying: &'a Saying, own: &mut Gathered<'a>) -> Said {
        let code = self.sayings.number(saying.code());
        match saying.detail() {
            None => Said::Plain(code),
            Some(detail) => {
                self.text(detail, own);
                Said::OfNext { of_next: code }
            }
        }
    }

    fn text(&mut self, text: &'a str, own: &mut Gathered<'a>) {
        let at = *self.met.entry(text).or_insert(self.texts.len());
        match self.texts.get_mut(at) {
            Some((_, often)) => *often += 1,
            None => self.texts.push((text, 1)),
        }
        own.values.push(Kept::Text(text));
    }

    fn source(&mut self, path: &'a str, own: &mut Gathered<'a>) -> Source<'a> {
        let split = path.rsplit_once('/').filter(|(_, name)| !counts(name));
        let number = self.folders.place(split.map_or(path, |(folder, _)| folder));
        let slot = own.folders.iter().position(|one| *one == number).unwrap_or_else(|| {
            own.folders.push(number);
            own.folders.len() - 1
        });
        match split {
            Some((_, name)) => Source::Within(slot, Cow::Borrowed(name)),
            None => Source::Whole(slot),
        }
    }

    fn written(mut self, report: &'a Report) -> Written<'a> {
        let asked = accesses::asked(report, &mut self.folders);
        let (folders, numbers_of_folders) = self.folders.table();
        let folder = |place: usize| numbers_of_folders.get(place).copied().unwrap_or_default();
        let (visits, accesses) = accesses::tables(asked, folder);
        // In the order in which parts name them: what one part names after the other then counts.
        let shared = self.texts.iter().filter(|(text, often)| *often > 1 && text.len() >= SHORT);
        let shared: Vec<&str> = shared.map(|(text, _)| *text).collect();
        let numbers: Map<&str, u64> = shared.iter().copied().zip(0..).collect();
        let own = |kept: Kept<'a>| match kept {
            Kept::Number(number) => Cell::Number(number),
            Kept::Text(text) => match numbers.get(text) {
                Some(number) => Cell::Number(*number),
                None => Cell::Text(Cow::Borrowed(text)),
            },
        };
        let recipes = self.recipes.all;
        let says_something = |(recipe, _): &(usize, Gathered<'_>)| {
            recipes.get(*recipe).is_some_and(|it| !it.is_empty())
        };
        let parts = self.parts.into_iter().filter(|(_, parts)| parts.iter().any(says_something));
        let parts = parts.map(|(pattern, parts)| {
            let parts = parts.into_iter().map(|(recipe, Gathered { folders, values, .. })| {
                let folders = folders.into_iter().map(folder).collect();
                Part { recipe, folders, values: values.into_iter().map(own).collect() }
            });
            (pattern, Parts::of(parts.collect()))
        });
        Tables {
            parts: parts.collect(),
            folders,
            texts: shared,
            sayings: self.sayings.all,
            ways: self.ways.all,
            recipes,
            visits,
            accesses,
        }
    }
}

fn counts(name: &str) -> bool {
    name.bytes().any(|byte| byte.is_ascii_digit())
}

/// As much of a text is said of all parts as a name is long.
const NAME: usize = 48;

/// What stands before a value as its name, as in `NAME=value` or `Name: value`: parts of a kind have that in common. What
/// counts may differ from part to part.
fn before<'a>(raw: &'a str, value: &str) -> Option<&'a str> {
    let before = raw.strip_suffix(value)?;
    let named = before.trim_end().ends_with(['=', ':']);
    let short = before.len() <= NAME && raw.len() <= RAW_LIMIT;
    (named && short && !counts(before)).then_some(before)
}
