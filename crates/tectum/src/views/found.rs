//! What a search found: where, and the whole part it belongs to in a line, with the match marked.

use crate::page::{Edge, Page, Said, Sign, Tone};
use tectum_report::{
    declare::{AnyFact, Node, Record, fields},
    fact::Evidence,
    query::{In, Search, SearchHit},
};

use super::quantity::{self, field_words};
use crate::{args::Units, commands::RawTexts};

/// The most of a part that is told, in characters.
const LONGEST: usize = 400;

pub(crate) fn print(
    host: &str,
    hits: &[SearchHit<'_>],
    raw: &RawTexts,
    wanted: &Search,
    units: Units,
    page: &mut Page,
) {
    page.heading(host);
    for hit in hits {
        let said = page.paragraph_of(&hit.path, Tone::Strong);
        if let Some(piece) = hit.evidence {
            said.quiet(format!("  {}", source(piece)));
        }
        let whole = part_in_a_line(hit, units);
        let mut places = wanted.marks(&whole);
        // An amount may be written otherwise than it was asked for: then the value is marked whole.
        if let (true, In::Value, Some((_, fact))) = (places.is_empty(), hit.found_in, hit.value) {
            let value = quantity::fact(hit.part, fact, units).unwrap_or_default();
            places.extend(whole.find(&value).map(|at| at..at + value.len()));
        }
        marked_at(page.beneath_paragraph(), &whole, places);
        let raw = hit.evidence.and_then(|piece| piece.raw.as_deref());
        if let (In::Evidence, Some(raw)) = (hit.found_in, raw.filter(|raw| wanted.is_in(raw))) {
            marked(page.beneath_paragraph().quiet("where it says: "), raw, wanted);
        }
    }
    if !raw.first.is_empty() {
        page.paragraph("in files, but in no value:");
        for one in &raw.first {
            page.paragraph_of(&format!("{}, {}", one.path, one.place), Tone::Strong);
            marked(page.beneath_paragraph(), &one.text, wanted);
        }
        if raw.more > 0 {
            let more = quantity::count(raw.more, "more place", "more places");
            page.paragraph(&format!("and {more}; --count tells how many there are in each"));
        }
    }
    page.gap();
}

fn source(piece: &Evidence) -> String {
    match &piece.place {
        Some(place) => format!("{}, {place}", piece.source),
        None => piece.source.to_string(),
    }
}

/// A text with what is searched for marked.
fn marked(said: Said<'_>, text: &str, wanted: &Search) {
    marked_at(said, text, wanted.marks(text));
}

/// A text with places in it marked.
fn marked_at(said: Said<'_>, text: &str, places: Vec<std::ops::Range<usize>>) {
    let mut said = said;
    let mut end = 0;
    for range in places {
        let (Some(before), Some(own)) = (text.get(end..range.start), text.get(range.clone()))
        else {
            continue;
        };
        let (begin, end_of) = (Sign::Found(Edge::Begin), Sign::Found(Edge::End));
        said = said.plain(before).mark(begin).tone(Tone::After, own).mark(end_of);
        end = range.end;
    }
    said.plain(text.get(end..).unwrap_or_default());
}

/// What a part is called, the value that was found, and what else is known of it.
fn part_in_a_line(hit: &SearchHit<'_>, units: Units) -> String {
    let mut parts = Vec::new();
    if !hit.label.is_empty() {
        parts.push(hit.label.clone());
    }
    let said = |field: &str, record: &dyn Record, fact: &dyn AnyFact| {
        let value = quantity::fact(record, fact, units)?;
        let name = field_words(field, fact.leaf_shape().unit);
        (!value.is_empty()).then(|| format!("{name} {value}"))
    };
    let own = hit.value.map(|(field, _)| field.name);
    if let Some((field, fact)) = hit.value {
        parts.extend(said(field.name, hit.part, fact));
    }
    // Of what is no element of a list, the value alone is told: a section has too many.
    let others = fields(hit.part).filter(|_| !hit.label.is_empty());
    for (field, node) in others {
        if let Node::Leaf(fact) = node
            && Some(field.name) != own
        {
            parts.extend(said(field.name, hit.part, fact));
        }
    }
    let whole = parts.join(", ");
    match whole.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{} …", whole.get(..end).unwrap_or_default()),
        None => whole,
    }
}
