//! The text of a report, cut into its members, and those into sections and entries of tables, before any of it is
//! read. Who asks for one value need not look at every sign of a report: as it is printed, a line says what begins
//! in it (`print.rs`), and no text in it holds a line's end.

use std::{borrow::Cow, cell::OnceCell, collections::BTreeMap};

use memchr::memmem;
use serde::{Deserialize, Deserializer, de::DeserializeOwned};
use serde_json::value::RawValue;

use super::{
    compact::{Read, Tables},
    envelope::{Envelope, EnvelopeOf},
};
use crate::version::REPORT;

/// The text of a value, which is not read yet.
#[derive(Debug, Clone, Copy)]
pub(super) struct Cut<'a>(pub(super) &'a [u8]);

impl<'de: 'a, 'a> Deserialize<'de> for Cut<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        <&RawValue>::deserialize(deserializer).map(|raw| Self(raw.get().as_bytes()))
    }
}

/// The entries of a table, which are not read yet.
#[derive(Debug)]
pub(super) enum Rows<'a> {
    /// Each of them.
    Apart(Vec<Cut<'a>>),
    /// All of them, a line each.
    Lines(&'a [u8]),
}

impl<'de: 'a, 'a> Deserialize<'de> for Rows<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Vec::deserialize(deserializer).map(Self::Apart)
    }
}

impl<'a> Rows<'a> {
    /// The entries of a table by its text.
    ///
    /// # Errors
    /// That it is no list.
    pub(super) fn of(table: Cut<'a>) -> Result<Self, serde_json::Error> {
        match rows(table.0) {
            Some(rows) => Ok(rows),
            None => serde_json::from_slice(table.0),
        }
    }

    /// Each of them.
    pub(super) fn split(&mut self) -> &[Cut<'a>] {
        if let Self::Lines(lines) = self {
            let mut begin = 0;
            let ends = memchr::memchr_iter(b'\n', lines).chain([lines.len()]);
            let rows = ends.filter_map(|end| {
                let row = lines.get(begin..end)?;
                begin = end + 1;
                Some(Cut(row.strip_suffix(b",").unwrap_or(row)))
            });
            *self = Self::Apart(rows.collect());
        }
        match self {
            Self::Apart(rows) => rows,
            Self::Lines(_) => &[],
        }
    }

    /// The same, for good.
    pub(super) fn apart(mut self) -> Vec<Cut<'a>> {
        self.split();
        match self {
            Self::Apart(rows) => rows,
            Self::Lines(_) => Vec::new(),
        }
    }
}

/// The sentences that codes stand for, read when they are wanted.
#[derive(Debug)]
pub(super) struct Meanings<'a> {
    pub(super) text: Cut<'a>,
    read: OnceCell<BTreeMap<String, String>>,
}

impl<'de: 'a, 'a> Deserialize<'de> for Meanings<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Cut::deserialize(deserializer).map(Self::from)
    }
}

impl<'a> From<Cut<'a>> for Meanings<'a> {
    fn from(text: Cut<'a>) -> Self {
        Self { text, read: OnceCell::new() }
    }
}

impl Meanings<'_> {
    /// That of a code.
    ///
    /// # Errors
    /// That the text is no table of sentences.
    pub(super) fn of(&self, code: &str) -> Result<Option<Cow<'_, str>>, serde_json::Error> {
        // Most ask for a few of hundreds; as a report is printed, each stands in a line.
        let plain = code.bytes().all(|sign| sign.is_ascii_alphanumeric() || sign == b'-');
        let name = format!("\n  \"{code}\": ");
        let begin = memmem::find(self.text.0, name.as_bytes()).filter(|_| plain);
        let line = begin.and_then(|begin| {
            let line =
                self.text.0.get(begin + name.len()..)?.split(|sign| *sign == b'\n').next()?;
            serde_json::from_slice::<String>(line.strip_suffix(b",").unwrap_or(line)).ok()
        });
        Ok(match line {
            Some(words) => Some(Cow::Owned(words)),
            None => self.all()?.get(code).map(|words| Cow::Borrowed(words.as_str())),
        })
    }

    /// All of them.
    ///
    /// # Errors
    /// That the text is no table of sentences.
    fn all(&self) -> Result<&BTreeMap<String, String>, serde_json::Error> {
        match self.read.get() {
            Some(read) => Ok(read),
            None => {
                let read = serde_json::from_slice(self.text.0)?;
                Ok(self.read.get_or_init(|| read))
            }
        }
    }
}

/// The members of a report, as they are printed one after the other.
const MEMBERS: [&str; 11] = [
    "format",
    "format_version",
    "inventory_digest",
    "taken",
    "machine",
    "inventory",
    "readings",
    "findings",
    "notes",
    "meanings",
    ORIGINS,
];

/// The last of them: what stands in its lines is indented no more than a member.
const ORIGINS: &str = "origins";

/// The tables of origins, as they are printed one after the other.
const TABLES: [&str; 8] =
    ["folders", "texts", "sayings", "ways", "recipes", "parts", "visits", "accesses"];

impl<'a> EnvelopeOf<'a> {
    /// The envelope of a text that is laid out as a report of this Tectum is printed; nothing for any other, which
    /// has to be read.
    pub(super) fn by_lines(text: &'a [u8]) -> Option<Self> {
        let members = members(text.strip_suffix(b"\n")?, 1, Some(ORIGINS))?;
        let mut values: [&[u8]; MEMBERS.len()] = [&[]; MEMBERS.len()];
        if members.len() != MEMBERS.len() {
            return None;
        }
        for ((value, name), (own, text)) in values.iter_mut().zip(MEMBERS).zip(members) {
            *value = (own == name).then_some(text)?;
        }
        let [
            format,
            version,
            digest,
            taken,
            machine,
            inventory,
            readings,
            _,
            notes,
            meanings,
            tables,
        ] = values;
        let own = read::<String>(format)? == REPORT.name;
        let format_version = read(version).filter(|version| own && *version == REPORT.current)?;
        Some(Envelope {
            format: REPORT.name.into(),
            format_version,
            inventory_digest: read(digest)?,
            taken: read(taken)?,
            machine: Cut(machine),
            inventory: Cut(inventory),
            readings: Cut(readings),
            findings: None,
            notes: read(notes)?,
            meanings: Cut(meanings).into(),
            origins: Some(tables_by_lines(tables)?),
            gaps: None,
            evidence: None,
            sources: None,
        })
    }
}

fn read<T: DeserializeOwned>(text: &[u8]) -> Option<T> {
    serde_json::from_slice(text).ok()
}

/// The tables of origins, of a text laid out as it is printed.
fn tables_by_lines(text: &[u8]) -> Option<Read<'_>> {
    let mut rest = text.strip_prefix(b"{")?.strip_suffix(b"\n }")?;
    let mut values: [&[u8]; TABLES.len()] = [&[]; TABLES.len()];
    for (index, value) in values.iter_mut().enumerate() {
        let begin = format!("\n \"{}\": ", TABLES.get(index)?);
        rest = rest.strip_prefix(begin.as_bytes())?;
        let end = match TABLES.get(index + 1) {
            Some(next) => memmem::find(rest, format!(",\n \"{next}\": ").as_bytes())?,
            None => rest.len(),
        };
        (*value, rest) = rest.split_at_checked(end)?;
        rest = rest.strip_prefix(b",").unwrap_or(rest);
    }
    let [folders, texts, sayings, ways, recipes, parts, visits, accesses] = values;
    let parts = match parts {
        b"{}" => Vec::new(),
        // In the tables nothing is indented deeper.
        some => members_within(some.strip_prefix(b"{")?.strip_suffix(b"\n }")?, 1, None)?,
    };
    let parts =
        parts.into_iter().map(|(pattern, parts)| (pattern.to_owned(), Cut(parts))).collect();
    Some(Tables {
        folders: rows(folders)?,
        texts: rows(texts)?,
        sayings: rows(sayings)?,
        ways: rows(ways)?,
        recipes: rows(recipes)?,
        parts,
        visits: rows(visits)?,
        accesses: Cut(accesses),
    })
}

/// The entries of a table, each in a line.
fn rows(text: &[u8]) -> Option<Rows<'_>> {
    if text == b"[]" {
        return Some(Rows::Apart(Vec::new()));
    }
    text.strip_prefix(b"[\n")?.strip_suffix(b"\n ]").map(Rows::Lines)
}

/// The members of an object whose lines begin with so many blanks, by their names, if that is how it is laid out. What
/// stands behind the name that is said to be the last is its value, however its lines begin.
pub(super) fn members<'a>(
    text: &'a [u8],
    blanks: usize,
    last: Option<&str>,
) -> Option<Vec<(&'a str, &'a [u8])>> {
    if text == b"{}" {
        return Some(Vec::new());
    }
    let end = format!("\n{}}}", " ".repeat(blanks.checked_sub(1)?));
    members_within(text.strip_prefix(b"{")?.strip_suffix(end.as_bytes())?, blanks, last)
}

/// The same, of what stands between the brackets.
fn members_within<'a>(
    text: &'a [u8],
    blanks: usize,
    last: Option<&str>,
) -> Option<Vec<(&'a str, &'a [u8])>> {
    let mut rest = text;
    let begin = format!("\n{}\"", " ".repeat(blanks));
    let (begin, behind_name) = (memmem::Finder::new(&begin), memmem::Finder::new("\": "));
    let mut members = Vec::new();
    while !rest.is_empty() {
        let named = rest.strip_prefix(begin.needle())?;
        let (name, value) = named.split_at_checked(behind_name.find(named)?)?;
        let name = std::str::from_utf8(name).ok()?;
        // A name with a sign that is written otherwise than it stands would have to be read.
        if name.contains(['"', '\\', '\n']) {
            return None;
        }
        let value = value.strip_prefix(behind_name.needle())?;
        let end = match last == Some(name) {
            true => None,
            false => begin.find(value),
        };
        let (value, further) = value.split_at_checked(end.unwrap_or(value.len()))?;
        members.push((name, if further.is_empty() { value } else { value.strip_suffix(b",")? }));
        rest = further;
    }
    Some(members)
}

#[cfg(test)]
mod tests {
    use jiff::Timestamp;

    use super::*;
    use crate::{
        json::write::Form,
        model::Inventory,
        report::{Observed, Report, SourceAccess, Taken},
    };

    /// A report of which nothing is known is cut, and the same without what makes its tables: otherwise every report
    /// would be read sign by sign, and nothing but the time would show it.
    #[test]
    fn a_report_is_cut_as_it_is_printed() {
        let taken = Taken {
            at: Timestamp::UNIX_EPOCH,
            tool: "a tool".to_owned(),
            subject: "a subject".to_owned(),
            privileged: true,
            sections: vec!["memory".to_owned()],
            elapsed_ms: 1,
        };
        let access: SourceAccess =
            serde_json::from_str(r#"{"path":"/proc/x","operation":"read","outcome":"done"}"#)
                .unwrap();
        for (inventory, accesses) in [
            (Inventory::default(), vec![]),
            (Inventory { memory: Some(Default::default()), ..Inventory::default() }, vec![access]),
        ] {
            let observed = Observed { inventory, ..Observed::default() };
            let mut report = Report::new(observed, taken.clone(), accesses, Vec::new());
            for field in ["installed_bytes", "free_slots"] {
                if let Some(fact) = report.fact_mut(&format!("/inventory/memory/{field}")) {
                    fact.set(&1.into(), Vec::new()).unwrap();
                }
            }
            let mut text = Vec::new();
            report.write(&mut text, Form::Compact).unwrap();
            let cut = EnvelopeOf::by_lines(&text).unwrap();
            let sections = members(cut.inventory.0, 2, None).unwrap();
            assert_eq!(sections.len(), usize::from(report.inventory.memory.is_some()));
            for (_, section) in sections {
                assert!(members(section, 3, None).unwrap().len() >= 2);
            }
            assert!(matches!(cut.origins.unwrap().ways, Rows::Lines(_)));
        }
    }
}
