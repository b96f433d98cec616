//! A page as plain lines, for a screen reader and a log: no box, no column that must be seen, no sign without its
//! words. A line is as long as what it says.

use super::safe;
use crate::page::{Bar, Block, Cell, Line, Page, Piece, Place, Sign, SlotGroup, TOGETHER, Table};

/// A page as text.
pub(crate) fn page(page: &Page) -> String {
    let mut text = String::new();
    for block in page.blocks() {
        match block {
            // What they lead to and what they picture stands in words on the page.
            Block::Section(_) | Block::Findings(_) | Block::Tree(_) => {}
            Block::Gap => {
                // One empty line is as good as two.
                if !text.is_empty() && !text.ends_with("\n\n") {
                    text.push('\n');
                }
            }
            Block::Title { name, aside } if aside.is_empty() => line(&mut text, &safe(name)),
            Block::Title { name, aside } => {
                line(&mut text, &format!("{}: {}", safe(name), safe(aside)));
            }
            Block::Heading(heading) => line(&mut text, &format!("{}:", safe(heading))),
            Block::Command(command) => line(&mut text, &format!("$ {}", safe(command))),
            Block::Line(own) => said(&mut text, own),
            Block::Table(own) => table(&mut text, own),
            Block::Bar(own) => line(&mut text, &format!("  {}", bar(own))),
            Block::Slots(groups) => slots(&mut text, groups),
            Block::Packages(all) => {
                for words in &all.told {
                    line(&mut text, &format!("  {}", self::words(words)));
                }
            }
            Block::Card(card) => {
                for (label, value) in &card.rows {
                    line(&mut text, &format!("  {label}: {}", safe(value)));
                }
            }
            Block::Fixed(lines) => {
                lines.iter().for_each(|own| line(&mut text, &format!("    {}", safe(own))));
            }
        }
    }
    text
}

fn line(text: &mut String, own: &str) {
    text.push_str(own.trim_end());
    text.push('\n');
}

fn said(text: &mut String, own: &Line) {
    let words = words(&own.words);
    match &own.place {
        Place::Entry(label) => line(text, &format!("{}: {words}", safe(label))),
        Place::Beside | Place::BeneathParagraph => line(text, &format!("  {words}")),
        Place::Beneath => line(text, &format!("    {words}")),
        Place::Paragraph => line(text, &words),
    }
}

/// Pieces as words.
pub(super) fn words(pieces: &[Piece]) -> String {
    let mut text = String::new();
    for piece in pieces {
        match piece {
            Piece::Text(_, own) => text.push_str(&safe(own).replace(TOGETHER, " ")),
            Piece::Identity(own) => text.push_str(&safe(own)),
            Piece::Sign(sign) => text.push_str(spoken(*sign)),
            Piece::Mark(_) => {}
            Piece::Bar(own) => text.push_str(&format!("({})", bar(own))),
            Piece::Strip(banks) => {
                let all: usize = banks.iter().map(Vec::len).sum();
                let filled = banks.iter().flatten().filter(|filled| **filled).count();
                text.push_str(&format!("{filled} of {all} filled, "));
            }
            Piece::Share { part, whole } => text.push_str(&share(*part, *whole)),
            // What they reach stands beneath them in words.
            Piece::Series(numbers) => text.push_str(&format!("{} numbers", numbers.len())),
        }
    }
    while text.contains("  ") {
        text = text.replace("  ", " ");
    }
    text
}

/// How much something is of a whole.
fn share(part: u64, whole: u64) -> String {
    format!("{} %", u128::from(part) * 100 / u128::from(whole.max(1)))
}

/// A sign in words.
pub(super) fn spoken(sign: Sign) -> &'static str {
    match sign {
        Sign::Critical => "critical: ",
        Sign::Warning => "warning: ",
        Sign::Notice => "notice: ",
        Sign::Accepted => "accepted: ",
        Sign::Action => "to do: ",
        Sign::Becomes => " became ",
        Sign::RestsOn => " on ",
        Sign::Quote => "it says: ",
        Sign::Between => ", ",
        Sign::Found(_) => "",
    }
}

/// The parts of a bar, in their order.
pub(super) fn bar(bar: &Bar) -> String {
    let whole = u128::from(bar.whole.max(1));
    let parts = bar.parts.iter().map(|part| {
        let share = match u128::from(part.size) * 100 / whole {
            0 => "under 1".to_owned(),
            share => share.to_string(),
        };
        let full = part.full.map(|full| format!(", {} % full", full / 100)).unwrap_or_default();
        match &part.name {
            Some(name) => format!("{} {share} %{full}", safe(name)),
            None => format!("free {share} %"),
        }
    });
    parts.collect::<Vec<_>>().join("; ")
}

fn slots(text: &mut String, groups: &[SlotGroup]) {
    for group in groups {
        let own = group.slots.iter();
        let own = own.map(|slot| format!("{} {}", safe(&slot.name), safe(slot.holds.words())));
        let own = own.collect::<Vec<_>>().join(", ");
        match group.label.as_str() {
            "" => line(text, &format!("  {own}")),
            label => line(text, &format!("  {}: {own}", safe(label))),
        }
    }
}

/// A row a line: what it is of, then each column's heading with what it says.
fn table(text: &mut String, table: &Table) {
    for group in &table.groups {
        if !group.title.is_empty() {
            line(text, &format!("  {}:", words(&group.title)));
        }
        if let Some(own) = &group.bar {
            line(text, &format!("    {}", bar(own)));
        }
        for row in &group.rows {
            let mut cells = row.iter().zip(&table.columns);
            let first = cells.next().and_then(|(cell, _)| self::cell(cell)).unwrap_or_default();
            let others = cells.filter_map(|(cell, column)| {
                let said = self::cell(cell)?;
                Some(match column.head.as_str() {
                    "" => said,
                    head => format!("{head} {said}"),
                })
            });
            let others = others.collect::<Vec<_>>().join("; ");
            let between = if first.is_empty() || others.is_empty() { "" } else { ": " };
            line(text, &format!("    {first}{between}{others}"));
        }
    }
}

/// What a cell says, if anything.
pub(super) fn cell(cell: &Cell) -> Option<String> {
    match cell {
        Cell::Text(text) if !text.is_empty() => Some(safe(text).into_owned()),
        Cell::Counts(counts) if !counts.is_empty() => {
            let told = counts.iter().map(|(sign, number)| {
                let word = spoken(*sign).trim_end_matches(": ");
                format!("{number} {word}")
            });
            Some(told.collect::<Vec<_>>().join(", "))
        }
        Cell::Level(Some(level)) => Some(format!("{} % of the most", level / 100)),
        Cell::Share { part, whole } => Some(share(*part, *whole)),
        Cell::Text(_) | Cell::Missing | Cell::Counts(_) | Cell::Level(None) => None,
    }
}
