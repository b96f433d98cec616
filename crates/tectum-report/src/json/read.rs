//! A report from JSON.

use std::{
    borrow::Cow,
    collections::{BTreeMap, HashMap},
};

use serde::Deserialize;
use serde_json::Value;

use super::{
    chosen::ChosenFields,
    compact::{Kind, Origin, Told, Unit, is_section, pattern},
    cut::{Cut, members},
    envelope::{EnvelopeOf, GapAt},
    origins::Depth,
    pointer::Pointer,
    tree::Tree,
    wanted::{Field, PassedOver, Wanted, fields},
};
use crate::{
    declare::{Described, NodeMut, Record, Shape},
    fact::{Evidence, Gap, Saying, Why, saying},
    leaf::JsonForm,
    model::Inventory,
    report::{Note, Report, SourceAccess, Taken},
    version::{FormatVersion, REPORT, Readable},
};

/// The largest report that is read, in bytes: many times what the largest machine gives.
pub const SIZE_LIMIT: u64 = 512 << 20;

/// Why JSON is no report that can be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum ReadError {
    /// The text is no JSON.
    #[error("line {line}, column {column}: not JSON: {said}")]
    NotJson {
        /// Line, from 1.
        line: usize,
        /// Column, from 1.
        column: usize,
        /// What the JSON reader says.
        said: String,
    },
    /// JSON, but of something else.
    #[error("not a Tectum report: its `format` is not {:?}", REPORT.name)]
    NotAReport,
    /// A report of a form that this Tectum does not know.
    #[error(
        "the report's format_version is {found}, and this Tectum reads {}.x; read it with the Tectum that wrote it, or a newer one",
        REPORT.current.major
    )]
    OtherVersion {
        /// The version found.
        found: String,
    },
    /// A part that every report has is not there.
    #[error("at {at}: the report lacks this part")]
    Lacks {
        /// JSON Pointer to where it should be.
        at: String,
    },
    /// A part that cannot be what it must be.
    #[error("at {at}: {said}")]
    Malformed {
        /// JSON Pointer to it.
        at: String,
        /// What is wrong with it.
        said: String,
    },
    /// A value of another form than it must have.
    #[error("at {at}: expected {expected}, found {found}")]
    WrongForm {
        /// JSON Pointer to it.
        at: String,
        /// What it should be.
        expected: String,
        /// What it is.
        found: String,
    },
}

/// What is read of a report before the rest, to know whether it is one.
#[derive(Deserialize)]
struct Head {
    format: Option<Value>,
    format_version: Option<Value>,
}

impl Report {
    /// Reads a report, of either form.
    ///
    /// A report of a newer minor version is read but for what is new in it, and a note says so.
    ///
    /// # Errors
    /// A [`ReadError`] that says what is wrong and where.
    pub fn from_json(text: &[u8]) -> Result<Self, ReadError> {
        Self::wanted_from_json(text, &Wanted::all(Depth::Whole))
    }

    /// Reads a report's values and gaps, and passes over where the values came from and what was asked,
    /// which comparing and asking for values does without.
    ///
    /// # Errors
    /// As [`Self::from_json`], but for what is wrong in what is passed over.
    pub fn values_from_json(text: &[u8]) -> Result<Self, ReadError> {
        Self::wanted_from_json(text, &Wanted::all(Depth::Gaps))
    }

    /// Reads what is wanted of a report.
    ///
    /// # Errors
    /// As [`Self::from_json`], but for what is wrong in what is passed over.
    pub fn wanted_from_json(text: &[u8], wanted: &Wanted<'_>) -> Result<Self, ReadError> {
        let (envelope, newer) = read(text)?;
        let within = Within::of(text);
        let lacks = |member: &str| ReadError::Lacks { at: format!("/{member}") };
        let mut accesses = None;
        let mut sources = Vec::new();
        let origins = match envelope.origins {
            Some(tables) => {
                let (told, own) = Told::new(tables, envelope.meanings, wanted.depth);
                accesses = Some(own);
                Where::InTables(Box::new(told))
            }
            None => {
                let gaps = envelope.gaps.ok_or_else(|| lacks("gaps"))?;
                let evidence = envelope.evidence.ok_or_else(|| lacks("evidence"))?;
                let own_sources = envelope.sources.ok_or_else(|| lacks("sources"))?;
                let mut all_evidence = HashMap::new();
                if wanted.depth == Depth::Whole {
                    all_evidence = within.parsed(evidence, "/evidence")?;
                    sources = within.parsed(own_sources, "/sources")?;
                }
                let meanings: BTreeMap<String, String> =
                    within.parsed(envelope.meanings.text, "/meanings")?;
                Where::by_pointer(gaps, all_evidence, &meanings)
            }
        };
        let mut passed_over = PassedOver::new();
        let mut sections = |cut, root| within.sections(cut, root, wanted, &mut passed_over);
        let inventory = sections(envelope.inventory, "inventory")?;
        let readings = match wanted.readings {
            true => sections(envelope.readings, "readings")?,
            false => Tree::NOTHING,
        };
        let machine = within.parsed(envelope.machine, "/machine")?;
        let (mut report, origins) = filled(
            Whole {
                format_version: envelope.format_version,
                newer,
                taken: envelope.taken,
                machine,
                inventory,
                readings,
                origins,
                sources,
                notes: envelope.notes,
            },
            passed_over,
            None,
        )?;
        if let (Where::InTables(mut told), Some(accesses), Depth::Whole) =
            (origins, accesses, wanted.depth)
        {
            report.sources = told.accesses(accesses, !wanted.paths.is_empty())?;
        }
        if let Some(sections) = wanted.sections {
            report.keep_sections(sections);
        }
        Ok(report)
    }
}

/// The text that members were cut out of.
pub(super) struct Within<'a> {
    text: &'a [u8],
}

impl<'a> Within<'a> {
    pub(super) fn of(text: &'a [u8]) -> Self {
        Self { text }
    }

    /// All of it, which stands at a pointer.
    pub(super) fn whole<T: Deserialize<'a>>(&self, at: &str) -> Result<T, ReadError> {
        self.parsed(Cut(self.text), at)
    }

    /// A member that stands in the text.
    fn parsed<T: Deserialize<'a>>(&self, raw: Cut<'a>, at: &str) -> Result<T, ReadError> {
        // Nearly always it is as it must be. What is wrong with another is looked for with more care.
        if let Ok(read) = serde_json::from_slice(raw.0) {
            return Ok(read);
        }
        let mut json = serde_json::Deserializer::from_slice(raw.0);
        serde_path_to_error::deserialize(&mut json).map_err(|error| {
            let at = format!("{at}{}", pointer_to(error.path()));
            match ReadError::of(error.inner(), at) {
                ReadError::NotJson { line, column, said } => {
                    let (lines, columns) = self.before(raw);
                    let column = if line == 1 { columns + column } else { column };
                    ReadError::NotJson { line: lines + line, column, said }
                }
                other => other,
            }
        })
    }

    /// How many lines end before a member, and how many bytes stand before it in its line.
    fn before(&self, raw: Cut<'_>) -> (usize, usize) {
        let begin = raw.0.as_ptr().addr().saturating_sub(self.text.as_ptr().addr());
        let before = self.text.get(..begin).unwrap_or_default();
        let mut lines = before.split(|byte| *byte == b'\n');
        let columns = lines.next_back().map_or(0, <[u8]>::len);
        (lines.count(), columns)
    }

    /// The sections that are wanted, and those that nobody knows: these are told.
    fn sections(
        &self,
        raw: Cut<'a>,
        root: &str,
        wanted: &Wanted<'_>,
        passed_over: &mut PassedOver,
    ) -> Result<Tree<'a>, ReadError> {
        let at = format!("/{root}");
        if wanted.sections.is_none() && wanted.paths.is_empty() {
            return self.parsed(raw, &at);
        }
        let Some(all) = apart(raw) else { return self.parsed(raw, &at) };
        let known = |name: &str| Inventory::SHAPE.index_of(name).is_some();
        let mut members = Vec::new();
        for (name, raw) in all {
            if wanted.is_section(root, &name) || !known(&name) {
                let value = self.section(raw, [root, &name], wanted, passed_over)?;
                members.push((name, value));
            }
        }
        Ok(Tree::Record(members))
    }

    /// What is wanted of a section.
    fn section(
        &self,
        raw: Cut<'a>,
        way: [&str; 2],
        wanted: &Wanted<'_>,
        passed_over: &mut PassedOver,
    ) -> Result<Tree<'a>, ReadError> {
        let at = format!("/{}", way.join("/"));
        let chosen = match wanted.paths {
            [] => None,
            _ => fields(raw, way, wanted, passed_over),
        };
        let Some(chosen) = chosen else { return self.parsed(raw, &at) };
        let mut members = Vec::new();
        for (name, field) in chosen {
            let at = format!("{at}/{name}");
            let value = match field {
                Field::Whole(raw) => self.parsed(raw, &at)?,
                Field::Elements(elements) => {
                    let elements =
                        elements.into_iter().enumerate().map(|(number, raw)| match raw {
                            Some(raw) => self.parsed(raw, &format!("{at}/{number}")),
                            None => Ok(Value::Null.into()),
                        });
                    Tree::List(elements.collect::<Result<_, ReadError>>()?)
                }
            };
            members.push((name.into(), value));
        }
        Ok(Tree::Record(members))
    }
}

/// The sections of a root, each with its name, not read yet.
fn apart(root: Cut<'_>) -> Option<Vec<(Cow<'_, str>, Cut<'_>)>> {
    if let Some(by_lines) = members(root.0, 2, None) {
        return Some(by_lines.into_iter().map(|(name, text)| (name.into(), Cut(text))).collect());
    }
    let read: BTreeMap<String, Cut<'_>> = serde_json::from_slice(root.0).ok()?;
    Some(read.into_iter().map(|(name, text)| (name.into(), text)).collect())
}

/// Where the values of a report are from and why others are missing, as it was read.
pub(super) enum Where<'a> {
    /// Part by part.
    InTables(Box<Told<'a>>),
    /// Value by value.
    ByPointer { gaps: HashMap<String, Gap>, evidence: HashMap<String, Vec<Evidence>> },
}

impl Where<'_> {
    /// The kind of the part at a pointer.
    fn kind(&mut self, pointer: &str) -> Result<Option<Kind>, ReadError> {
        match self {
            Self::InTables(told) => told.kind(&pattern(pointer)),
            Self::ByPointer { .. } => Ok(None),
        }
    }

    /// Passes over what is said of parts.
    fn pass_over(&mut self, parts: &BTreeMap<String, usize>) -> Result<(), ReadError> {
        match self {
            Self::InTables(told) => {
                parts.iter().try_for_each(|(pattern, count)| told.pass_over(pattern, *count))
            }
            Self::ByPointer { .. } => Ok(()),
        }
    }

    /// Of what holds no values.
    pub(super) fn nowhere() -> Self {
        Self::ByPointer { gaps: HashMap::new(), evidence: HashMap::new() }
    }

    pub(super) fn by_pointer(
        gaps: Vec<GapAt<String, Gap>>,
        mut evidence: HashMap<String, Vec<Evidence>>,
        meanings: &BTreeMap<String, String>,
    ) -> Self {
        let mut gaps: HashMap<String, Gap> =
            gaps.into_iter().map(|GapAt { at, gap }| (at, gap)).collect();
        let mut look_up = |saying: &mut Saying| saying.look_up(meanings);
        for gap in gaps.values_mut() {
            gap.hint.as_deref_mut().into_iter().for_each(&mut look_up);
            gap.tried.iter_mut().for_each(|attempt| look_up(&mut attempt.answer));
        }
        evidence.values_mut().flatten().for_each(|piece| look_up(&mut piece.rule));
        Self::ByPointer { gaps, evidence }
    }
}

/// What a report is made from, as it was read.
pub(super) struct Whole<'a> {
    pub(super) format_version: FormatVersion,
    /// Whether it was written by a newer Tectum.
    pub(super) newer: bool,
    pub(super) taken: Taken,
    pub(super) machine: Tree<'a>,
    pub(super) inventory: Tree<'a>,
    pub(super) readings: Tree<'a>,
    pub(super) origins: Where<'a>,
    pub(super) sources: Vec<SourceAccess>,
    pub(super) notes: Vec<Note>,
}

/// The report that is made of it, and what is left of where its values are from. Parts that are passed over stand as
/// nothing in what was read; of an inventory no fields are looked at but those that are chosen.
pub(super) fn filled<'a>(
    whole: Whole<'a>,
    passed_over: PassedOver,
    chosen: Option<&ChosenFields>,
) -> Result<(Report, Where<'a>), ReadError> {
    let Whole { format_version, newer, taken, origins, sources, mut notes, .. } = whole;
    let mut filler = Filler { origins, units: Vec::new(), unknown: Vec::new(), passed_over };
    let machine = filler.root(&whole.machine, "machine", None)?;
    let inventory = filler.root(&whole.inventory, "inventory", chosen)?;
    let readings = filler.root(&whole.readings, "readings", None)?;
    if let Where::InTables(told) = &mut filler.origins {
        told.end()?;
    }
    if newer {
        let version = format_version.to_string();
        notes.push(Note::NewerFormat { version, passed_over: filler.unknown });
    } else if !filler.unknown.is_empty() {
        notes.push(Note::NotKnown { passed_over: filler.unknown });
    }
    let report = Report { format_version, taken, machine, inventory, readings, sources, notes };
    Ok((report, filler.origins))
}

/// The envelope, and whether it is of a newer minor version.
fn read(text: &[u8]) -> Result<(EnvelopeOf<'_>, bool), ReadError> {
    if let Some(cut) = EnvelopeOf::by_lines(text) {
        return Ok((cut, false));
    }
    // Nearly all others are read at once. What is wrong with another is looked for with more care.
    if let Ok(read) = serde_json::from_slice::<EnvelopeOf<'_>>(text)
        && read.format == REPORT.name
        && REPORT.readable(read.format_version) == Readable::Yes
    {
        return Ok((read, false));
    }
    let newer = version(text)?;
    let mut json = serde_json::Deserializer::from_slice(text);
    let read = serde_path_to_error::deserialize(&mut json).map_err(|error| {
        let at = pointer_to(error.path());
        ReadError::of(error.inner(), at)
    })?;
    Ok((read, newer))
}

/// Whether the text is a report, and of a newer minor version.
fn version(text: &[u8]) -> Result<bool, ReadError> {
    let head: Head = match serde_json::from_slice(text) {
        Ok(head) => head,
        Err(error) if error.is_data() => return Err(ReadError::NotAReport),
        Err(error) => return Err(ReadError::of(&error, String::new())),
    };
    if head.format.as_ref().and_then(Value::as_str) != Some(REPORT.name) {
        return Err(ReadError::NotAReport);
    }
    let Some(found) = head.format_version else {
        return Err(ReadError::Lacks { at: "/format_version".to_owned() });
    };
    let found = found.as_str().map_or_else(|| found.to_string(), str::to_owned);
    let Ok(version) = found.parse::<FormatVersion>() else {
        return Err(ReadError::OtherVersion { found });
    };
    match REPORT.readable(version) {
        Readable::No => Err(ReadError::OtherVersion { found }),
        Readable::ButForNews => Ok(true),
        Readable::Yes => Ok(false),
    }
}

/// The JSON Pointer to where reading stopped.
fn pointer_to(path: &serde_path_to_error::Path) -> String {
    use serde_path_to_error::Segment;
    let mut at = Pointer::root();
    for segment in path {
        match segment {
            Segment::Seq { index } => at.push_index(*index),
            Segment::Map { key } => at.push(key),
            Segment::Enum { variant } => at.push(variant),
            Segment::Unknown => at.push("?"),
        };
    }
    at.as_str().to_owned()
}

/// What the JSON reader says, without the line and column that it adds to its words.
fn said_by(error: &serde_json::Error) -> String {
    let said = error.to_string();
    said.rsplit_once(" at line ").map_or(&*said, |(said, _)| said).to_owned()
}

impl ReadError {
    /// What is wrong with the table of sentences.
    pub(super) fn of_meanings(error: &serde_json::Error) -> Self {
        Self::Malformed { at: "/meanings".to_owned(), said: said_by(error) }
    }

    fn of(error: &serde_json::Error, at: String) -> Self {
        let said = said_by(error);
        if error.is_data() {
            match said.strip_prefix("missing field `").and_then(|rest| rest.strip_suffix('`')) {
                Some(member) => Self::Lacks { at: format!("{at}/{member}") },
                None => Self::Malformed { at, said },
            }
        } else {
            Self::NotJson { line: error.line(), column: error.column(), said }
        }
    }
}

/// Fills records from JSON.
struct Filler<'a> {
    origins: Where<'a>,
    /// Where the parts that are being filled begin in the pointer, and what tables say of them.
    units: Vec<(usize, Unit)>,
    unknown: Vec<String>,
    passed_over: PassedOver,
}

impl Filler<'_> {
    fn root<R: Described>(
        &mut self,
        json: &Tree<'_>,
        name: &str,
        chosen: Option<&ChosenFields>,
    ) -> Result<R, ReadError> {
        let mut at = Pointer::root();
        at.push(name);
        let mut record = R::default();
        let kind = self.origins.kind(at.as_str())?;
        self.part(&mut record, json, &mut at, kind, chosen)?;
        Ok(record)
    }

    /// A record that is a part of its own, of a kind.
    fn part(
        &mut self,
        record: &mut dyn Record,
        json: &Tree<'_>,
        at: &mut Pointer,
        kind: Option<Kind>,
        chosen: Option<&ChosenFields>,
    ) -> Result<(), ReadError> {
        let unit = match &mut self.origins {
            Where::InTables(told) => told.next(kind)?,
            Where::ByPointer { .. } => Unit::default(),
        };
        self.units.push((at.as_str().len() + 1, unit));
        self.record(record, json, at, chosen)?;
        self.units.pop();
        Ok(())
    }

    fn record(
        &mut self,
        record: &mut dyn Record,
        json: &Tree<'_>,
        at: &mut Pointer,
        chosen: Option<&ChosenFields>,
    ) -> Result<(), ReadError> {
        let Tree::Record(members) = json else { return Err(wrong(at, "an object", json)) };
        let members = self.members(record.shape(), members, at)?;
        for (index, (field, member)) in record.shape().fields.iter().zip(members).enumerate() {
            let Some(chosen) = chosen.map_or(Some(None), |chosen| chosen.field(index)) else {
                continue;
            };
            let Some(node) = record.node_mut(index) else { continue };
            let mark = at.push(field.name);
            match (node, member) {
                (NodeMut::Optional(_) | NodeMut::Record(_), None) => {}
                (NodeMut::Optional(slot), Some(json)) => {
                    self.inner(slot.fill(), json, at, chosen)?
                }
                (NodeMut::Record(inner), Some(json)) => self.inner(inner, json, at, chosen)?,
                (NodeMut::Leaf(fact), Some(json)) if !json.is_null() => {
                    let form = || form_words(fact.leaf_shape().form);
                    let value = json.leaf().ok_or_else(|| wrong(at, &form(), json))?;
                    let Origin { evidence, gap, .. } = self.origin(at, Some(&value));
                    fact.set(&value, evidence)
                        .map_err(|shape| wrong(at, &form_words(shape.form), json))?;
                    if gap.is_some() {
                        fact.set_hidden_part(gap);
                    }
                }
                (NodeMut::Leaf(fact), none) => {
                    fact.set_missing(self.gap(at, none.is_some()));
                }
                (NodeMut::List(list), Some(Tree::List(items))) => {
                    list.set_missing(None);
                    let Origin { evidence, gap, .. } = self.origin(at, None);
                    list.set_evidence(evidence);
                    list.set_hidden_part(gap);
                    let mark = at.push("*");
                    let kind = self.origins.kind(at.as_str())?;
                    at.back(mark);
                    for (index, item) in items.iter().enumerate() {
                        let Some(inner) = list.grow() else { continue };
                        let mark = at.push_index(index);
                        match self.passed_over.get(at.as_str()) {
                            None => self.part(inner, item, at, kind, chosen)?,
                            Some(parts) => self.origins.pass_over(parts)?,
                        }
                        at.back(mark);
                    }
                }
                (NodeMut::List(_), Some(json)) if !json.is_null() => {
                    return Err(no_parts(json, at));
                }
                (NodeMut::List(list), none) => {
                    list.set_missing(Some(self.gap(at, none.is_some())));
                }
            }
            at.back(mark);
        }
        Ok(())
    }

    /// A record's members, one a field or none; what is in none is told.
    fn members<'j>(
        &mut self,
        shape: &Shape,
        all: &'j [(Cow<'_, str>, Tree<'_>)],
        at: &mut Pointer,
    ) -> Result<Vec<Option<&'j Tree<'j>>>, ReadError> {
        let mut members = vec![None; shape.fields.len()];
        // They nearly always stand in the order of the fields.
        let mut next = 0;
        for (name, value) in all {
            let follows = shape.fields.get(next).is_some_and(|field| field.name == name);
            let index = if follows { Some(next) } else { shape.index_of(name) };
            match index.and_then(|index| Some((index, members.get_mut(index)?))) {
                Some((index, slot @ None)) => {
                    *slot = Some(value);
                    next = index + 1;
                }
                // Whoever reads it otherwise would take the other one for the value.
                Some((_, Some(_))) => {
                    let said = format!("the member {name:?} stands there twice");
                    return Err(ReadError::Malformed { at: at.as_str().to_owned(), said });
                }
                // A long list of strangers would say no more than its beginning.
                None if self.unknown.len() < 20 => {
                    self.unknown.push(format!("{}/{name}", at.as_str()));
                }
                None => {}
            }
        }
        Ok(members)
    }

    fn inner(
        &mut self,
        record: &mut dyn Record,
        json: &Tree<'_>,
        at: &mut Pointer,
        chosen: Option<&ChosenFields>,
    ) -> Result<(), ReadError> {
        match is_section(at.as_str()) {
            true => {
                let kind = self.origins.kind(at.as_str())?;
                self.part(record, json, at, kind, chosen)
            }
            false => self.record(record, json, at, chosen),
        }
    }

    /// What is said of a field, whose value is this.
    fn origin(&mut self, at: &Pointer, value: Option<&Value>) -> Origin {
        match &mut self.origins {
            Where::ByPointer { gaps, evidence } => Origin::new(
                evidence.remove(at.as_str()).unwrap_or_default(),
                gaps.remove(at.as_str()),
            ),
            Where::InTables(_) => match self.units.last_mut() {
                Some((begin, unit)) => {
                    unit.take(at.as_str().get(*begin..).unwrap_or_default(), value)
                }
                None => Origin::default(),
            },
        }
    }

    fn gap(&mut self, at: &Pointer, there: bool) -> Gap {
        self.origin(at, None).gap.unwrap_or_else(|| {
            Gap::new(Why::NotProvided).hint(if there { NOT_SAID } else { NO_SUCH_FIELD })
        })
    }
}

const NOT_SAID: Saying = saying!("reason-not-said", "the report does not say why");
const NO_SUCH_FIELD: Saying =
    saying!("field-of-newer-tectum", "the report has no such field; an older Tectum wrote it");

fn form_words(form: JsonForm) -> String {
    match form {
        JsonForm::String | JsonForm::Formatted(_) | JsonForm::Pattern(_) => "a string".into(),
        JsonForm::Code(codes) => {
            let codes: Vec<&str> = codes.iter().map(|(code, _)| *code).collect();
            format!("one of {}", codes.join(", "))
        }
        JsonForm::Unsigned => "an integer from 0 up".into(),
        JsonForm::Signed => "an integer".into(),
        JsonForm::Boolean => "true or false".into(),
        JsonForm::Set(item) | JsonForm::Series(item) => {
            format!("a list, each {}", form_words(item.form))
        }
    }
}

/// What is wrong with what should be a list of parts.
fn no_parts(json: &Tree<'_>, at: &mut Pointer) -> ReadError {
    match json.leaf().as_deref() {
        Some(Value::Array(items)) => {
            at.push_index(0);
            wrong(at, "an object", &items.first().unwrap_or(&Value::Null).into())
        }
        _ => wrong(at, "a list", json),
    }
}

fn wrong(at: &Pointer, expected: &str, found: &Tree<'_>) -> ReadError {
    let found = match found {
        Tree::List(_) => "a list".to_owned(),
        Tree::Record(_) => "an object".to_owned(),
        Tree::Leaf(value) => match &**value {
            Value::Null => "null".to_owned(),
            Value::Array(_) => "a list".to_owned(),
            Value::String(text) => format!("the string {:?}", crate::fact::clip(text)),
            other => other.to_string(),
        },
    };
    ReadError::WrongForm { at: at.as_str().to_owned(), expected: expected.to_owned(), found }
}
