//! What is in an archive: machines, looks at them, what is not as it should be.

use crate::page::{Cell, Page, Tone};
use jiff::Timestamp;
use tectum_archive::{
    store::{Entry, Latest, Problem, Verified},
    written::{FindingCounts, Mark},
};
use tectum_report::{finding::Severity, leaf::Bytes};

use super::{
    findings,
    quantity::{count, size},
};
use crate::args::Units;

/// A point in time as lists tell it.
pub(crate) fn moment(at: Timestamp) -> String {
    at.strftime("%Y-%m-%d %H:%M UTC").to_string()
}

/// A day.
pub(crate) fn day(at: Timestamp) -> String {
    at.strftime("%Y-%m-%d").to_string()
}

/// The machines of an archive.
pub(crate) fn machines(location: &str, machines: &[Latest], page: &mut Page) {
    page.title("archive", location);
    if machines.is_empty() {
        page.entry("machines").plain("none yet");
        return;
    }
    page.entry("machines").plain(count(machines.len(), "machine", "machines"));
    let rows: Vec<Vec<String>> = machines
        .iter()
        .map(|one| {
            vec![
                one.name(),
                one.observations.to_string(),
                one.states.to_string(),
                day(one.last_seen),
                day(one.unchanged_since),
                one.machine.clone(),
            ]
        })
        .collect();
    let heads = ["machine", ">looks", ">states", "last seen", "unchanged since", "key"];
    page.table(&heads, rows);
}

/// Every look at a machine.
pub(crate) fn looks(host: &str, key: &str, entries: &[Entry], marks: &[Mark], page: &mut Page) {
    page.title(host, key);
    let mut by_time: Vec<&Entry> = entries.iter().collect();
    by_time.sort_by_key(|one| (one.at, one.number));
    let mut before: Option<&Entry> = None;
    let mut rows = Vec::new();
    for one in by_time {
        let changed = before.is_some_and(|before| before.state != one.state);
        let own: Vec<&str> = marks
            .iter()
            .filter(|mark| mark.observation == one.number)
            .map(|mark| mark.name.as_str())
            .collect();
        rows.push(vec![
            Cell::from(moment(one.at)),
            Cell::from(match (before, changed) {
                (None, _) => "first seen".to_owned(),
                (_, true) => "changed".to_owned(),
                (_, false) => "as before".to_owned(),
            }),
            odd(one.findings),
            Cell::from(if one.privileged { String::new() } else { "not as root".to_owned() }),
            Cell::from(own.join(", ")),
            Cell::from(one.number.to_string()),
        ]);
        before = Some(one);
    }
    page.table(&["seen", "state", "odd", "", "marks", ">look"], rows);
}

/// How much was odd, in as little room as there is in a row.
pub(crate) fn odd(found: FindingCounts) -> Cell {
    let told = Severity::BY_RANK.into_iter().filter(|severity| found.of(*severity) > 0);
    Cell::Counts(told.map(|severity| (findings::mark(severity).1, found.of(severity))).collect())
}

/// What is not as it should be.
pub(crate) fn verified(location: &str, sum: &Verified, problems: &[Problem], page: &mut Page) {
    let damage = problems.iter().filter(|one| one.is_damage).count();
    let aside = if damage == 0 { "whole" } else { "damaged" };
    page.title("archive", &format!("{location}, {aside}"));
    page.entry("looked at").plain(format!(
        "{}, {}, {}, {}",
        count(usize::try_from(sum.machines).unwrap_or(usize::MAX), "machine", "machines"),
        count(usize::try_from(sum.observations).unwrap_or(usize::MAX), "look", "looks"),
        count(usize::try_from(sum.states).unwrap_or(usize::MAX), "state", "states"),
        size(Bytes(sum.bytes), Units::Iec)
    ));
    for (label, is_damage, tone) in
        [("damage", true, Tone::Strong), ("to know", false, Tone::Plain)]
    {
        let own = problems.iter().filter(|one| one.is_damage == is_damage);
        for (number, one) in own.enumerate() {
            let said = if number == 0 { page.entry(label) } else { page.beside() };
            said.tone(tone, &one.said).quiet(format!(" {}", one.what));
        }
    }
    if damage == 0 {
        page.entry("whole")
            .plain("every look is there, each behind the one that was saved before it");
    }
}

/// What goes of a machine.
pub(crate) fn going(host: &str, going: &[&Entry], of: usize, done: bool, page: &mut Page) {
    let words = if done { "removed" } else { "would be removed" };
    let looks = count(going.len(), "look", "looks");
    page.entry(host).strong(format!("{looks} of {of} {words}"));
    let days: Vec<String> = going.iter().map(|one| day(one.at)).collect();
    let told: Vec<String> = days
        .chunk_by(|a, b| a == b)
        .filter_map(|same| {
            let first = same.first()?;
            Some(if same.len() == 1 { first.clone() } else { format!("{first} ({})", same.len()) })
        })
        .collect();
    let more = told.len().saturating_sub(MOST_DAYS);
    let shown = told.get(..told.len().min(MOST_DAYS)).unwrap_or_default().join(", ");
    let more = if more > 0 { format!(" and on {more} more days") } else { String::new() };
    page.beside().quiet(format!("{shown}{more}"));
}

/// So many days are told one by one.
const MOST_DAYS: usize = 24;
