//! All values of a section, each with where it is from, or why it is missing: closed until it is asked for.

use std::collections::HashSet;

use maud::{Markup, html};
use tectum_report::{
    declare::{AnyFact, Node, Record, fields},
    fact::{Evidence, Gap, Stance},
    leaf::Whose,
    query::spoken,
    report::Report,
};

use super::{super::safe, copier};
use crate::{args::Units, views::quantity::fact as shown};

/// Where the values of a part are found on a page.
pub(super) fn anchor(part: &str, machine: usize) -> String {
    let bare = part.trim_start_matches('/').replace('/', ".");
    match machine {
        0 | 1 => bare,
        machine => format!("{machine}.{bare}"),
    }
}

/// The values of a section of a report: those of the inventory, then how it was doing. They take no more than `room`
/// letters: a machine of thousands of parts has a hundred thousand values, and a page of all of them could not be
/// opened. The parts that are told are added to `told`.
pub(super) fn all(
    report: &Report,
    section: &str,
    machine: usize,
    room: usize,
    told: &mut HashSet<String>,
) -> Option<Markup> {
    let mut rows = Vec::new();
    let mut room = room;
    let mut left_out = 0;
    for (root, record) in report.roots() {
        let Some(index) = record.shape().index_of(section).filter(|_| root != "machine") else {
            continue;
        };
        if let Some(Node::Record(inner)) = record.node(index) {
            let at = format!("/{root}/{section}");
            walk(inner, &at, &mut |at, record, fact| {
                let part = at.rsplit_once('/').map(|(part, _)| anchor(part, machine));
                let first = part.filter(|part| !told.contains(part));
                let row = row(at, first.as_deref(), record, fact);
                let length = row.0.len();
                match room.checked_sub(length) {
                    Some(left) => {
                        room = left;
                        told.extend(first);
                        rows.push(row);
                    }
                    None => left_out += 1,
                }
            });
        }
    }
    let number = rows.len() + left_out;
    (number > 0).then(|| {
        html! {
            details.all {
                summary { "all " (number) " values, and where each is from" }
                div.scroll tabindex="0" {
                    table {
                        thead { tr { th scope="col" { "value of" } th scope="col" { "is" } } }
                        tbody { @for row in &rows { (row) } }
                    }
                }
                @if left_out > 0 {
                    p.q {
                        "and " (left_out) " more, which are too many for a page: "
                        code { "tectum why " (section) }
                    }
                }
            }
        }
    })
}

fn walk<'a>(
    record: &'a dyn Record,
    at: &str,
    visit: &mut dyn FnMut(&str, &'a dyn Record, &'a dyn AnyFact),
) {
    for (field, node) in fields(record) {
        let at = format!("{at}/{}", field.name);
        match node {
            Node::Leaf(fact) => visit(&at, record, fact),
            Node::Record(inner) => walk(inner, &at, visit),
            Node::List(list) => {
                for index in 0..list.len() {
                    if let Some(item) = list.get(index) {
                        walk(item, &format!("{at}/{index}"), visit);
                    }
                }
            }
            Node::Absent => {}
        }
    }
}

fn row(at: &str, id: Option<&str>, record: &dyn Record, fact: &dyn AnyFact) -> Markup {
    let path = spoken(at);
    let value = shown(record, fact, Units::Iec);
    // What tells one machine or part from all others is what people copy.
    let tells = matches!(fact.leaf_shape().whose, Whose::Owners(_));
    html! {
        tr id=[id] {
            td { code { (safe(&path)) } }
            td {
                @match (&value, fact.missing()) {
                    (Some(text), _) => {
                        details {
                            summary { (safe(text)) }
                            @for piece in fact.evidence() { (evidence(piece)) }
                        }
                        @if tells && !text.is_empty() {
                            @if let Some(exact) = fact.text() { (copier(&exact)) }
                        }
                    }
                    (None, Some(gap)) => (missing(gap)),
                    (None, None) => {}
                }
            }
        }
    }
}

fn evidence(piece: &Evidence) -> Markup {
    let stance = match &piece.stance {
        Stance::Gives => "from ",
        Stance::Agrees => "agrees: ",
        Stance::Differs(_) => "differs: ",
    };
    html! {
        p.q {
            (stance) code { (safe(&piece.source)) }
            @if let Some(place) = &piece.place { ", " (safe(&place.to_string())) }
            @if let Stance::Differs(says) = &piece.stance { ", says " (safe(says)) }
            "; " (safe(&piece.rule.to_string()))
        }
        @if let Some(raw) = &piece.raw { pre.raw { (lines(raw)) } }
    }
}

/// Text of several lines.
fn lines(raw: &str) -> String {
    raw.lines().map(|line| safe(line).into_owned()).collect::<Vec<_>>().join("\n")
}

fn missing(gap: &Gap) -> Markup {
    html! {
        details {
            summary { span.q { (crate::views::sheet::why(gap)) } }
            @for attempt in &gap.tried {
                p.q { "tried " code { (safe(&attempt.source)) } ": " (safe(&attempt.answer.to_string())) }
            }
            @if let Some(hint) = &gap.hint { p.q { (safe(&hint.to_string())) } }
        }
    }
}
