//! A report from JSON.

use std::collections::{BTreeMap, HashMap};

use serde::{
    Deserialize,
    de::{DeserializeOwned, IgnoredAny},
};
use serde_json::{Value, value::RawValue};

use super::{
    envelope::{Envelope, EnvelopeOf, GapAt},
    pointer::Pointer,
};
use crate::{
    declare::{Described, NodeMut, Record},
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
    /// Reads a report.
    ///
    /// A report of a newer minor version is read but for what is new in it, and a note says so.
    ///
    /// # Errors
    /// A [`ReadError`] that says what is wrong and where.
    pub fn from_json(text: &[u8]) -> Result<Self, ReadError> {
        let (mut read, newer) = read::<HashMap<String, Vec<Evidence>>, Vec<SourceAccess>>(text)?;
        let evidence = std::mem::take(&mut read.evidence);
        let sources = std::mem::take(&mut read.sources);
        filled(Whole::of(&mut read, newer, evidence, sources))
    }

    /// Reads a report's values and gaps, and passes over where the values came from and what was asked:
    /// much the larger part, which comparing and asking for values does without.
    ///
    /// # Errors
    /// As [`Self::from_json`], but for what is wrong in what is passed over.
    pub fn values_from_json(text: &[u8]) -> Result<Self, ReadError> {
        let (mut read, newer) = read::<IgnoredAny, IgnoredAny>(text)?;
        filled(Whole::of(&mut read, newer, HashMap::new(), Vec::new()))
    }
}

/// A report of which only some sections are wanted: what others hold is passed over.
type InSections<'a> = Envelope<
    'a,
    BTreeMap<String, &'a RawValue>,
    Option<IgnoredAny>,
    Vec<GapAt<String, Gap>>,
    IgnoredAny,
    BTreeMap<String, String>,
    IgnoredAny,
    Vec<Note>,
>;

impl Report {
    /// Reads the values and gaps of some sections of a report, and what says which machine it is.
    ///
    /// # Errors
    /// As [`Self::values_from_json`].
    pub fn sections_from_json(text: &[u8], sections: &[&str]) -> Result<Self, ReadError> {
        // What is wrong with a report, or new in it, is looked for with more care.
        let careful = || {
            let mut report = Self::values_from_json(text)?;
            report.keep_sections(sections);
            Ok(report)
        };
        let Ok(read) = serde_json::from_slice::<InSections<'_>>(text) else { return careful() };
        if read.format != REPORT.name || REPORT.readable(read.format_version) != Readable::Yes {
            return careful();
        }
        let wanted = |all: &BTreeMap<String, &RawValue>, every: bool| {
            let own = all.iter().filter(|(name, _)| every || sections.contains(&name.as_str()));
            own.map(|(name, raw)| Ok((name.clone(), serde_json::from_str(raw.get())?)))
                .collect::<Result<serde_json::Map<String, Value>, serde_json::Error>>()
                .map(Value::Object)
        };
        let parts = [
            wanted(&read.machine, true),
            wanted(&read.inventory, false),
            wanted(&read.readings, false),
        ];
        let [Ok(machine), Ok(inventory), Ok(readings)] = parts else { return careful() };
        // A section that no report has is told as what was passed over.
        let shape = Inventory::default().shape();
        if read.inventory.keys().any(|name| shape.index_of(name).is_none()) {
            return careful();
        }
        let mut taken = read.taken;
        taken.sections.retain(|section| sections.contains(&section.as_str()));
        let mut gaps = read.gaps;
        gaps.retain(|gap| {
            let mut way = gap.at.split('/').skip(1);
            way.next() == Some("machine") || way.next().is_some_and(|name| sections.contains(&name))
        });
        filled(Whole {
            format_version: read.format_version,
            newer: false,
            taken,
            machine: &machine,
            inventory: &inventory,
            readings: &readings,
            gaps,
            evidence: HashMap::new(),
            meanings: read.meanings,
            sources: Vec::new(),
            notes: read.notes,
        })
    }
}

/// What a report is made from, as it was read.
pub(super) struct Whole<'a> {
    pub(super) format_version: FormatVersion,
    /// Whether it was written by a newer Tectum.
    pub(super) newer: bool,
    pub(super) taken: Taken,
    pub(super) machine: &'a Value,
    pub(super) inventory: &'a Value,
    pub(super) readings: &'a Value,
    pub(super) gaps: Vec<GapAt<String, Gap>>,
    pub(super) evidence: HashMap<String, Vec<Evidence>>,
    pub(super) meanings: BTreeMap<String, String>,
    pub(super) sources: Vec<SourceAccess>,
    pub(super) notes: Vec<Note>,
}

impl<'a> Whole<'a> {
    fn of<E, S>(
        read: &'a mut EnvelopeOf<E, S>,
        newer: bool,
        evidence: HashMap<String, Vec<Evidence>>,
        sources: Vec<SourceAccess>,
    ) -> Self {
        Self {
            format_version: read.format_version,
            newer,
            taken: read.taken.clone(),
            machine: &read.machine,
            inventory: &read.inventory,
            readings: &read.readings,
            gaps: std::mem::take(&mut read.gaps),
            evidence,
            meanings: std::mem::take(&mut read.meanings),
            sources,
            notes: std::mem::take(&mut read.notes),
        }
    }
}

/// The report that is made of it.
pub(super) fn filled(whole: Whole<'_>) -> Result<Report, ReadError> {
    let Whole {
        format_version,
        newer,
        taken,
        gaps,
        mut evidence,
        meanings,
        sources,
        mut notes,
        ..
    } = whole;
    let mut gaps: HashMap<String, Gap> =
        gaps.into_iter().map(|GapAt { at, gap }| (at, gap)).collect();
    let mut look_up = |saying: &mut Saying| saying.look_up(&meanings);
    for gap in gaps.values_mut() {
        gap.hint.as_deref_mut().into_iter().for_each(&mut look_up);
        gap.tried.iter_mut().for_each(|attempt| look_up(&mut attempt.answer));
    }
    evidence.values_mut().flatten().for_each(|piece| look_up(&mut piece.rule));
    let mut filler = Filler { gaps, evidence, unknown: Vec::new() };
    let machine = filler.root(whole.machine, "machine")?;
    let inventory = filler.root(whole.inventory, "inventory")?;
    let readings = filler.root(whole.readings, "readings")?;
    if newer {
        let version = format_version.to_string();
        notes.push(Note::NewerFormat { version, passed_over: filler.unknown });
    } else if !filler.unknown.is_empty() {
        notes.push(Note::NotKnown { passed_over: filler.unknown });
    }
    Ok(Report { format_version, taken, machine, inventory, readings, sources, notes })
}

/// The envelope, and whether it is of a newer minor version.
fn read<E: DeserializeOwned, S: DeserializeOwned>(
    text: &[u8],
) -> Result<(EnvelopeOf<E, S>, bool), ReadError> {
    // Nearly all reports are read at once. What is wrong with another is looked for with more care.
    if let Ok(read) = serde_json::from_slice::<EnvelopeOf<E, S>>(text)
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

impl ReadError {
    fn of(error: &serde_json::Error, at: String) -> Self {
        // The reader adds line and column to its words.
        let said = error.to_string();
        let said = said.rsplit_once(" at line ").map_or(&*said, |(said, _)| said).to_owned();
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
struct Filler {
    gaps: HashMap<String, Gap>,
    evidence: HashMap<String, Vec<Evidence>>,
    unknown: Vec<String>,
}

impl Filler {
    fn root<R: Described>(&mut self, json: &Value, name: &str) -> Result<R, ReadError> {
        let mut at = Pointer::root();
        at.push(name);
        let mut record = R::default();
        self.record(&mut record, json, &mut at)?;
        Ok(record)
    }

    fn record(
        &mut self,
        record: &mut dyn Record,
        json: &Value,
        at: &mut Pointer,
    ) -> Result<(), ReadError> {
        let Some(members) = json.as_object() else { return Err(wrong(at, "an object", json)) };
        let shape = record.shape();
        for name in members.keys() {
            // A long list of strangers would say no more than its beginning.
            if shape.index_of(name).is_none() && self.unknown.len() < 20 {
                self.unknown.push(format!("{}/{name}", at.as_str()));
            }
        }
        for (index, field) in shape.fields.iter().enumerate() {
            let Some(node) = record.node_mut(index) else { continue };
            let mark = at.push(field.name);
            let member = members.get(field.name);
            match (node, member) {
                (NodeMut::Optional(_), None) => {}
                (NodeMut::Optional(slot), Some(json)) => self.record(slot.fill(), json, at)?,
                (NodeMut::Record(inner), Some(json)) => self.record(inner, json, at)?,
                (NodeMut::Record(_), None) => {}
                (NodeMut::Leaf(fact), Some(json)) if !json.is_null() => {
                    let evidence = self.evidence.remove(at.as_str()).unwrap_or_default();
                    fact.set(json, evidence)
                        .map_err(|shape| wrong(at, &form_words(shape.form), json))?;
                    if let Some(gap) = self.gaps.remove(at.as_str()) {
                        fact.set_hidden_part(Some(gap));
                    }
                }
                (NodeMut::Leaf(fact), none) => {
                    fact.set_missing(self.gap(at, none.is_some()));
                }
                (NodeMut::List(list), Some(Value::Array(items))) => {
                    list.set_missing(None);
                    for (index, item) in items.iter().enumerate() {
                        let mark = at.push_index(index);
                        if let Some(inner) = list.grow() {
                            self.record(inner, item, at)?;
                        }
                        at.back(mark);
                    }
                    list.set_evidence(self.evidence.remove(at.as_str()).unwrap_or_default());
                    list.set_hidden_part(self.gaps.remove(at.as_str()));
                }
                (NodeMut::List(_), Some(json)) if !json.is_null() => {
                    return Err(wrong(at, "a list", json));
                }
                (NodeMut::List(list), none) => {
                    list.set_missing(Some(self.gap(at, none.is_some())));
                }
            }
            at.back(mark);
        }
        Ok(())
    }

    fn gap(&mut self, at: &Pointer, there: bool) -> Gap {
        self.gaps.remove(at.as_str()).unwrap_or_else(|| {
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

fn wrong(at: &Pointer, expected: &str, found: &Value) -> ReadError {
    let found = match found {
        Value::Null => "null".to_owned(),
        Value::Array(_) => "a list".to_owned(),
        Value::Object(_) => "an object".to_owned(),
        Value::String(text) => format!("the string {:?}", crate::fact::clip(text)),
        other => other.to_string(),
    };
    ReadError::WrongForm { at: at.as_str().to_owned(), expected: expected.to_owned(), found }
}
