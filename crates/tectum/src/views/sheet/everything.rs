//! Everything that is known of a section, part by part, whatever it is: written once against the
//! model's declarations. What is missing stands after it, by its reason.

use crate::page::{Page, Sign, Tone};
use std::collections::BTreeMap;

use tectum_report::{
    declare::{AnyFact, Node, Record, fact_at, fields},
    fact::Why,
    model::Readings,
};

use super::why;
use crate::{
    args::Units,
    views::quantity::{fact as shown, field_words},
};

pub(super) fn print(section: &str, record: &dyn Record, units: Units, page: &mut Page) {
    page.gap();
    page.heading(&format!("all that is known of {section}"));
    part("", None, record, units, page);
}

/// How what a section holds was doing, if the report has it.
pub(super) fn readings(section: &str, all: &Readings, units: Units, page: &mut Page) {
    let own = fields(all).find(|(field, _)| field.name == section);
    if let Some((_, Node::Record(record))) = own {
        page.gap();
        page.heading(&format!("how {section} was doing"));
        part("", None, record, units, page);
    }
}

/// Bytes in hexadecimal, sixteen a line, each line with the place of its first.
fn bytes(path: &str, text: &str, page: &mut Page) {
    page.beneath(path, [(Tone::Quiet, "configuration space")]);
    let all: Vec<&str> = text.split(' ').collect();
    let lines = all.chunks(16).enumerate();
    page.fixed(lines.map(|(line, own)| format!("{:02x}  {}", line * 16, own.join(" "))).collect());
}

/// One record: its own values in flowing text, then the records within it.
fn part(path: &str, called: Option<&str>, record: &dyn Record, units: Units, page: &mut Page) {
    let mut said: Vec<(String, String)> = Vec::new();
    let mut missing: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for (field, node) in fields(record) {
        let Node::Leaf(fact) = node else { continue };
        let name = field_words(field.name, fact.leaf_shape().unit);
        match (shown(record, fact, units), fact.missing()) {
            (Some(text), _) => {
                if field.name == "configuration" {
                    continue;
                }
                // What the part is called stands before it.
                if called == Some(&*text) {
                    continue;
                }
                let text = if text.is_empty() { "none" } else { &text };
                said.push((name, text.to_owned()));
            }
            // What such a part does not have is not missing from it.
            (None, Some(gap)) if gap.why != Why::NotApplicable => {
                missing.entry(why(gap)).or_default().push(name);
            }
            _ => {}
        }
    }
    if !said.is_empty() || !missing.is_empty() {
        let mut line = page.beneath(path, []);
        for (number, (name, text)) in said.into_iter().enumerate() {
            line = if number == 0 { line.plain(" ") } else { line.sign(Sign::Between) };
            line = line.quiet(name).plain(" ").plain(text);
        }
        for (reason, names) in missing {
            line = line.quiet(format!(" ({reason}: {})", names.join(", ")));
        }
    }
    for (field, node) in fields(record) {
        if let (Node::Leaf(fact), "configuration") = (&node, field.name)
            && let Some(text) = fact.text()
        {
            bytes(path, &text, page);
        }
        let below = join(path, &field.name.replace('_', " "));
        match node {
            Node::Record(inner) => part(&below, None, inner, units, page),
            Node::List(list) => match list.missing() {
                Some(gap) => {
                    page.beneath(&below, [(Tone::Quiet, why(gap).as_str())]);
                }
                None if list.is_empty() => {
                    page.beneath(&below, [(Tone::Quiet, "none")]);
                }
                None => {
                    for index in 0..list.len() {
                        if let Some(item) = list.get(index) {
                            let name = name_of(item, index);
                            part(&format!("{below} {name}"), Some(&name), item, units, page);
                        }
                    }
                }
            },
            Node::Leaf(_) | Node::Absent => {}
        }
    }
}

fn join(path: &str, name: &str) -> String {
    if path.is_empty() { name.to_owned() } else { format!("{path}, {name}") }
}

/// What a part of a list is called: where it sits, or its number.
fn name_of(record: &dyn Record, index: usize) -> String {
    let shape = record.shape();
    let mut names = shape.place.iter().chain(shape.names);
    let known = |field: &usize| fact_at(record, *field).and_then(AnyFact::text);
    names.find_map(known).unwrap_or_else(|| (index + 1).to_string())
}
