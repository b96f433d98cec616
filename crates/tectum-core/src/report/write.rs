//! A report as JSON.

use serde::{
    Serialize, Serializer,
    ser::{SerializeMap, SerializeSeq},
};

use super::{
    document::{Report, SourceAccess, Taken},
    fact::{Attempt, Evidence, Gap, Stance},
    record::{Node, Record, fields},
    version::FORMAT,
    walk::Met,
};

/// A record as plain values: what is missing is `null`, what is absent is left out.
pub struct Plain<'a>(pub &'a dyn Record);

impl Serialize for Plain<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        for (field, node) in fields(self.0) {
            match node {
                Node::Absent => {}
                Node::Leaf(fact) => map.serialize_entry(field.name, &fact.json())?,
                Node::Record(record) => map.serialize_entry(field.name, &Plain(record))?,
                Node::List(list) if list.missing().is_some() => {
                    map.serialize_entry(field.name, &())?;
                }
                Node::List(list) => map.serialize_entry(field.name, &PlainList(list))?,
            }
        }
        map.end()
    }
}

struct PlainList<'a>(&'a dyn super::record::AnyList);

impl Serialize for PlainList<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(Some(self.0.len()))?;
        for index in 0..self.0.len() {
            if let Some(record) = self.0.get(index) {
                list.serialize_element(&Plain(record))?;
            }
        }
        list.end()
    }
}

impl Serialize for Report {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("format", FORMAT)?;
        map.serialize_entry("format_version", &self.format_version.to_string())?;
        map.serialize_entry("taken", &self.taken)?;
        for (name, root) in self.roots() {
            map.serialize_entry(name, &Plain(root))?;
        }
        map.serialize_entry("gaps", &Gaps(self))?;
        map.serialize_entry("evidence", &AllEvidence(self))?;
        map.serialize_entry("sources", &self.sources)?;
        map.serialize_entry("notes", &self.notes)?;
        map.serialize_entry("inventory_digest", &self.inventory_digest())?;
        map.end()
    }
}

impl Serialize for Taken {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("at", &self.at.to_string())?;
        map.serialize_entry("tool", &self.tool)?;
        map.serialize_entry("subject", &self.subject)?;
        map.serialize_entry("privileged", &self.privileged)?;
        map.serialize_entry("sections", &self.sections)?;
        map.serialize_entry("elapsed_ms", &self.elapsed_ms)?;
        map.end()
    }
}

impl Serialize for SourceAccess {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("path", &self.path)?;
        map.serialize_entry("operation", &self.operation)?;
        map.serialize_entry("outcome", &self.outcome)?;
        map.serialize_entry("bytes", &self.bytes)?;
        map.serialize_entry("elapsed_us", &self.elapsed_us)?;
        map.end()
    }
}

struct Gaps<'a>(&'a Report);

impl Serialize for Gaps<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(self.0.gaps().iter().map(|(at, gap)| GapAt { at, gap }))
    }
}

struct GapAt<'a> {
    at: &'a str,
    gap: &'a Gap,
}

impl Serialize for GapAt<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("at", self.at)?;
        map.serialize_entry("why", self.gap.why.word())?;
        if let Some(source) = &self.gap.source {
            map.serialize_entry("source", &**source)?;
        }
        if let Some(hint) = &self.gap.hint {
            map.serialize_entry("hint", hint)?;
        }
        if let Some(raw) = &self.gap.raw {
            map.serialize_entry("raw", &**raw)?;
        }
        if !self.gap.tried.is_empty() {
            map.serialize_entry("tried", &self.gap.tried)?;
        }
        map.end()
    }
}

impl Serialize for Attempt {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(Some(2))?;
        map.serialize_entry("source", &*self.source)?;
        map.serialize_entry("answer", &self.answer)?;
        map.end()
    }
}

struct AllEvidence<'a>(&'a Report);

impl Serialize for AllEvidence<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        let mut result = Ok(());
        self.0.walk(&mut |at, _, met| {
            let evidence = match met {
                Met::Leaf(fact) => fact.evidence(),
                Met::List(list) => list.evidence(),
                Met::Record(_) => &[],
            };
            if !evidence.is_empty() && result.is_ok() {
                result = map.serialize_entry(at.as_str(), evidence);
            }
        });
        result?;
        map.end()
    }
}

impl Serialize for Evidence {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("source", &*self.source)?;
        if let Some(place) = &self.place {
            map.serialize_entry("where", place)?;
        }
        map.serialize_entry("rule", &self.rule)?;
        if let Some(raw) = &self.raw {
            map.serialize_entry("raw", &**raw)?;
        }
        match &self.stance {
            Stance::Gives => {}
            Stance::Agrees => map.serialize_entry("stance", "agrees")?,
            Stance::Differs(says) => {
                map.serialize_entry("stance", "differs")?;
                map.serialize_entry("says", says)?;
            }
        }
        map.end()
    }
}
