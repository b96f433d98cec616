//! A report from JSON.

use std::collections::HashMap;

use serde_json::{Map, Value};

use super::{
    document::{Report, SourceAccess, Taken},
    fact::{Attempt, Evidence, Gap, Stance, Why},
    kinds::{JsonForm, LeafShape},
    model::{Inventory, Machine, Readings},
    pointer::Pointer,
    record::{Described, NodeMut, Record},
    version::{CURRENT, FORMAT, FormatVersion, Readable},
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
    #[error("not a Tectum report: its `format` is not {FORMAT:?}")]
    NotAReport,
    /// A report of a form that this Tectum does not know.
    #[error(
        "the report's format_version is {found}, and this Tectum reads {}.x; read it with the Tectum that wrote it, or a newer one",
        CURRENT.major
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
    /// A part of another form than it must have.
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

impl Report {
    /// Reads a report.
    ///
    /// A report of a newer minor version is read but for what is new in it, and a note says so.
    ///
    /// # Errors
    /// A [`ReadError`] that says what is wrong and where.
    pub fn from_json(text: &[u8]) -> Result<Self, ReadError> {
        let json: Value = serde_json::from_slice(text).map_err(|error| ReadError::NotJson {
            line: error.line(),
            column: error.column(),
            // The reader adds line and column to its words.
            said: error.to_string().split(" at line").next().unwrap_or_default().to_owned(),
        })?;
        let Some(root) = json.as_object() else { return Err(ReadError::NotAReport) };
        if root.get("format").and_then(Value::as_str) != Some(FORMAT) {
            return Err(ReadError::NotAReport);
        }
        let version_text = string(root, "", "format_version")?;
        let other = || ReadError::OtherVersion { found: version_text.clone() };
        let format_version: FormatVersion = version_text.parse().map_err(|()| other())?;
        let newer = match format_version.readable() {
            Readable::No => return Err(other()),
            Readable::ButForNews => true,
            Readable::Yes => false,
        };
        let mut filler =
            Filler { gaps: gaps(root)?, evidence: evidence(root)?, unknown: Vec::new() };
        let machine = filler.root::<Machine>(root, "machine")?;
        let inventory = filler.root::<Inventory>(root, "inventory")?;
        let readings = filler.root::<Readings>(root, "readings")?;
        let mut notes: Vec<String> = match root.get("notes") {
            None => Vec::new(),
            Some(list) => strings(list, "/notes")?,
        };
        if newer {
            notes.push(format!(
                "the report's format_version {format_version} is newer than {CURRENT}; passed over: {}",
                match filler.unknown.as_slice() {
                    [] => "nothing".to_owned(),
                    some => some.join(", "),
                }
            ));
        } else if !filler.unknown.is_empty() {
            notes.push(format!("passed over, not known: {}", filler.unknown.join(", ")));
        }
        Ok(Self {
            format_version,
            taken: taken(root)?,
            machine,
            inventory,
            readings,
            sources: sources(root)?,
            notes,
        })
    }
}

/// Fills records from JSON.
struct Filler {
    gaps: HashMap<String, Gap>,
    evidence: HashMap<String, Vec<Evidence>>,
    unknown: Vec<String>,
}

impl Filler {
    fn root<R: Described>(
        &mut self,
        root: &Map<String, Value>,
        name: &str,
    ) -> Result<R, ReadError> {
        let mut at = Pointer::root();
        at.push(name);
        let json = root.get(name).ok_or_else(|| ReadError::Lacks { at: at.as_str().to_owned() })?;
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
                        .map_err(|shape| wrong(at, &form_words(shape), json))?;
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
            Gap::new(Why::NotProvided).hint(if there {
                "the report does not say why"
            } else {
                "the report has no such field; an older Tectum wrote it"
            })
        })
    }
}

fn form_words(shape: LeafShape) -> String {
    match shape.form {
        JsonForm::String => "a string".into(),
        JsonForm::Term(words) => format!("one of {}", words.join(", ")),
        JsonForm::Unsigned => "an integer from 0 up".into(),
        JsonForm::Signed => "an integer".into(),
        JsonForm::Boolean => "true or false".into(),
        JsonForm::Strings => "a list of strings".into(),
        JsonForm::Unsigneds => "a list of integers from 0 up".into(),
    }
}

fn wrong(at: &Pointer, expected: &str, found: &Value) -> ReadError {
    wrong_at(at.as_str(), expected, found)
}

fn wrong_at(at: &str, expected: &str, found: &Value) -> ReadError {
    let found = match found {
        Value::Null => "null".to_owned(),
        Value::Array(_) => "a list".to_owned(),
        Value::Object(_) => "an object".to_owned(),
        Value::String(text) => format!("the string {:?}", super::fact::clip(text)),
        other => other.to_string(),
    };
    ReadError::WrongForm { at: at.to_owned(), expected: expected.to_owned(), found }
}

fn member<'a>(
    object: &'a Map<String, Value>,
    at: &str,
    name: &str,
) -> Result<&'a Value, ReadError> {
    object.get(name).ok_or_else(|| ReadError::Lacks { at: format!("{at}/{name}") })
}

fn string(object: &Map<String, Value>, at: &str, name: &str) -> Result<String, ReadError> {
    let json = member(object, at, name)?;
    let text = json.as_str();
    text.map(str::to_owned).ok_or_else(|| wrong_at(&format!("{at}/{name}"), "a string", json))
}

fn number(object: &Map<String, Value>, at: &str, name: &str) -> Result<u64, ReadError> {
    let json = member(object, at, name)?;
    json.as_u64().ok_or_else(|| wrong_at(&format!("{at}/{name}"), "an integer from 0 up", json))
}

fn strings(json: &Value, at: &str) -> Result<Vec<String>, ReadError> {
    json.as_array()
        .and_then(|list| list.iter().map(|one| one.as_str().map(str::to_owned)).collect())
        .ok_or_else(|| wrong_at(at, "a list of strings", json))
}

/// An object with the pointer to it.
type Placed<'a> = (String, &'a Map<String, Value>);

/// The elements of a list of objects.
fn objects<'a>(
    root: &'a Map<String, Value>,
    name: &'static str,
) -> Result<Vec<Placed<'a>>, ReadError> {
    let at = format!("/{name}");
    let json = member(root, "", name)?;
    let list = json.as_array().ok_or_else(|| wrong_at(&at, "a list", json))?;
    list.iter()
        .enumerate()
        .map(|(index, item)| {
            let at = format!("{at}/{index}");
            match item.as_object() {
                Some(object) => Ok((at, object)),
                None => Err(wrong_at(&at, "an object", item)),
            }
        })
        .collect()
}

fn taken(root: &Map<String, Value>) -> Result<Taken, ReadError> {
    let at = "/taken";
    let json = member(root, "", "taken")?;
    let taken = json.as_object().ok_or_else(|| wrong_at(at, "an object", json))?;
    let time = string(taken, at, "at")?;
    let privileged = member(taken, at, "privileged")?;
    Ok(Taken {
        at: time.parse().map_err(|_| {
            wrong_at("/taken/at", "a time as in RFC 3339", &Value::String(time.clone()))
        })?,
        tool: string(taken, at, "tool")?,
        subject: string(taken, at, "subject")?,
        privileged: privileged
            .as_bool()
            .ok_or_else(|| wrong_at("/taken/privileged", "true or false", privileged))?,
        sections: strings(member(taken, at, "sections")?, "/taken/sections")?,
        elapsed_ms: number(taken, at, "elapsed_ms")?,
    })
}

fn sources(root: &Map<String, Value>) -> Result<Vec<SourceAccess>, ReadError> {
    objects(root, "sources")?
        .into_iter()
        .map(|(at, source)| {
            Ok(SourceAccess {
                path: string(source, &at, "path")?,
                operation: string(source, &at, "operation")?,
                outcome: string(source, &at, "outcome")?,
                bytes: number(source, &at, "bytes")?,
                elapsed_us: number(source, &at, "elapsed_us")?,
            })
        })
        .collect()
}

fn gaps(root: &Map<String, Value>) -> Result<HashMap<String, Gap>, ReadError> {
    objects(root, "gaps")?
        .into_iter()
        .map(|(at, json)| {
            let word = string(json, &at, "why")?;
            let why = Why::from_word(&word).ok_or_else(|| {
                let words = Why::ALL.map(Why::word).join(", ");
                let found = Value::String(word.clone());
                wrong_at(&format!("{at}/why"), &format!("one of {words}"), &found)
            })?;
            let text = |name: &str| json.get(name).and_then(Value::as_str);
            let tried = json.get("tried").and_then(Value::as_array).map_or(&[][..], Vec::as_slice);
            let gap = Gap {
                why,
                source: text("source").map(Into::into),
                hint: text("hint").map(|hint| hint.to_owned().into()),
                raw: text("raw").map(Into::into),
                tried: tried
                    .iter()
                    .filter_map(|attempt| {
                        Some(Attempt {
                            source: attempt.get("source")?.as_str()?.into(),
                            answer: attempt.get("answer")?.as_str()?.to_owned().into(),
                        })
                    })
                    .collect(),
            };
            Ok((string(json, &at, "at")?, gap))
        })
        .collect()
}

fn evidence(root: &Map<String, Value>) -> Result<HashMap<String, Vec<Evidence>>, ReadError> {
    let json = member(root, "", "evidence")?;
    let all = json.as_object().ok_or_else(|| wrong_at("/evidence", "an object", json))?;
    all.iter()
        .map(|(at, list)| {
            let list = list
                .as_array()
                .ok_or_else(|| wrong_at(&format!("/evidence/{at}"), "a list", list))?;
            Ok((at.clone(), list.iter().filter_map(one_evidence).collect()))
        })
        .collect()
}

fn one_evidence(json: &Value) -> Option<Evidence> {
    let text = |name: &str| json.get(name).and_then(Value::as_str);
    Some(Evidence {
        source: text("source")?.into(),
        place: text("where").map(|place| place.to_owned().into()),
        rule: text("rule")?.to_owned().into(),
        raw: text("raw").map(Into::into),
        stance: match text("stance") {
            Some("agrees") => Stance::Agrees,
            Some("differs") => Stance::Differs(text("says").unwrap_or_default().to_owned()),
            _ => Stance::Gives,
        },
    })
}
