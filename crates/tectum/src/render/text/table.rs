//! A table laid out in the columns there are: no cell is broken that a line can hold.

use unicode_width::UnicodeWidthStr;

use super::super::safe;
use crate::page::{Cell, Table, UNKNOWN};

/// Columns of the mark between nothing and the most.
const SCALE: usize = 12;

/// Columns below which what may be left out is.
const NARROW: usize = 75;

/// The lines of a table: those of the heading, and those of each row of each group.
pub(super) struct Lines {
    pub(super) head: Vec<String>,
    pub(super) groups: Vec<Vec<String>>,
}

/// A table laid out in some room.
pub(super) fn lay_out(table: &Table, room: usize) -> Lines {
    let all = || table.groups.iter().flat_map(|group| &group.rows);
    let rows: Vec<Vec<String>> = all().map(|row| row.iter().map(shown).collect()).collect();
    let heads: Vec<(&str, bool)> =
        table.columns.iter().map(|column| (column.head.as_str(), column.numbers)).collect();
    let fits = room >= NARROW || widths(&heads, &rows) <= room;
    // Where there is little room, what may be left out goes before anything is broken.
    let keep = |at: &usize| fits || table.columns.get(*at).is_some_and(|it| !it.optional);
    let kept: Vec<usize> = (0..heads.len()).filter(keep).collect();
    let heads: Vec<(&str, bool)> = kept.iter().filter_map(|at| heads.get(*at).copied()).collect();
    let pick = |row: &Vec<String>| kept.iter().filter_map(|at| row.get(*at).cloned()).collect();
    let rows: Vec<Vec<String>> = rows.iter().map(pick).collect();
    let mut lines = in_columns(&heads, &rows, room).into_iter();
    let head = lines.next().unwrap_or_default();
    let groups =
        table.groups.iter().map(|group| lines.by_ref().take(group.rows.len()).flatten().collect());
    Lines { head, groups: groups.collect() }
}

/// Columns that a table takes where nothing is broken.
fn widths(heads: &[(&str, bool)], rows: &[Vec<String>]) -> usize {
    let widest = |(at, (head, _)): (usize, &(&str, bool))| {
        let cells = rows.iter().filter_map(|row| row.get(at)).map(|cell| cell.width());
        cells.max().unwrap_or(0).max(head.width()) + BETWEEN
    };
    heads.iter().enumerate().map(widest).sum::<usize>().saturating_sub(BETWEEN)
}

/// A cell as text.
fn shown(cell: &Cell) -> String {
    match cell {
        Cell::Text(text) => safe(text).into_owned(),
        Cell::Missing => UNKNOWN.to_owned(),
        Cell::Counts(counts) if counts.is_empty() => UNKNOWN.to_owned(),
        Cell::Counts(counts) => {
            let told = counts
                .iter()
                .map(|(sign, number)| format!("{}{number}", super::sign(*sign).1.trim()));
            told.collect::<Vec<_>>().join(" ")
        }
        Cell::Share { part, whole } => {
            super::drawing::share(*part, *whole).into_iter().map(|(_, text)| text).collect()
        }
        Cell::Level(None) => String::new(),
        Cell::Level(Some(level)) => {
            let place = usize::try_from(level * (SCALE as u64 - 1) / 10_000).unwrap_or(0);
            let place = place.min(SCALE - 1);
            format!("▕{}█{}▏", "·".repeat(place), "·".repeat(SCALE - 1 - place))
        }
    }
}

/// Columns between two cells.
const BETWEEN: usize = 2;

/// Columns by which what does not fit beside a row stands below it.
const INDENT: usize = 4;

/// A column: its heading, how wide it is, whether it is set to the right.
struct Column<'a> {
    head: &'a str,
    width: usize,
    right: bool,
}

/// The lines of cells that are text, those of each row together, the heading first. Columns of numbers are set to the right. The columns that do not fit stand below their row, and so do the others where the first
/// cell, a path say, takes more than half of the line.
fn in_columns(heads: &[(&str, bool)], rows: &[Vec<String>], room: usize) -> Vec<Vec<String>> {
    // A column that says nothing in any row takes no room.
    let says =
        |index: usize| rows.iter().any(|row| row.get(index).is_some_and(|it| !it.is_empty()));
    let told: Vec<usize> = (0..heads.len()).filter(|index| *index == 0 || says(*index)).collect();
    if told.len() < heads.len() {
        let pick = |all: &[String]| told.iter().filter_map(|at| all.get(*at).cloned()).collect();
        let heads: Vec<(&str, bool)> =
            told.iter().filter_map(|at| heads.get(*at).copied()).collect();
        return in_columns(&heads, &rows.iter().map(|row| pick(row)).collect::<Vec<_>>(), room);
    }
    let first_widest = room / 2;
    let columns: Vec<Column<'_>> = heads
        .iter()
        .enumerate()
        .map(|(index, (name, right))| {
            let widths = rows.iter().filter_map(|row| row.get(index)).map(|cell| cell.width());
            let widths = widths.filter(|width| index > 0 || *width <= first_widest);
            Column { head: name, width: widths.max().unwrap_or(0).max(name.width()), right: *right }
        })
        .collect();
    let mut used = 0;
    let beside = columns
        .iter()
        .take_while(|column| {
            let fits = used + column.width <= room;
            used += column.width + BETWEEN;
            fits
        })
        .count()
        .max(1);
    let (kept, below) = columns.split_at(beside.min(columns.len()));
    let mut all = vec![vec![line(kept, &kept.iter().map(|one| one.head).collect::<Vec<_>>())]];
    for row in rows {
        let mut lines = Vec::new();
        let cells: Vec<&str> = row.iter().map(String::as_str).collect();
        let (near, far) = cells.split_at(beside.min(cells.len()));
        match near.split_first() {
            Some((first, rest)) if first.width() > kept.first().map_or(0, |one| one.width) => {
                lines.extend(folded(first, room, 0));
                let under: Vec<&str> = std::iter::once("").chain(rest.iter().copied()).collect();
                if under.iter().any(|cell| !cell.is_empty()) {
                    lines.push(line(kept, &under));
                }
            }
            _ => lines.push(line(kept, near)),
        }
        let said: Vec<String> = below
            .iter()
            .zip(far)
            .filter(|(_, cell)| !matches!(**cell, "" | "·"))
            .map(|(column, cell)| match column.head {
                "" => (*cell).to_owned(),
                head => format!("{head}: {cell}"),
            })
            .collect();
        if !said.is_empty() {
            lines.extend(folded(&said.join("; "), room, INDENT));
        }
        all.push(lines);
    }
    all
}

/// Cells in their columns.
fn line(columns: &[Column<'_>], cells: &[&str]) -> String {
    let mut text = String::new();
    for (column, cell) in columns.iter().zip(cells) {
        let pad = " ".repeat(column.width.saturating_sub(cell.width()));
        match column.right {
            true => text.extend([&pad, *cell]),
            false => text.extend([*cell, &pad]),
        }
        text.push_str(&" ".repeat(BETWEEN));
    }
    text.truncate(text.trim_end().len());
    text
}

/// A text in lines, broken between words; a word that no line holds is broken.
fn folded(text: &str, room: usize, indent: usize) -> Vec<String> {
    let indent = " ".repeat(indent);
    let options = textwrap::Options::new(room.max(1))
        .initial_indent(&indent)
        .subsequent_indent(&indent)
        .word_separator(textwrap::WordSeparator::AsciiSpace)
        .word_splitter(textwrap::WordSplitter::NoHyphenation);
    textwrap::wrap(text, options).into_iter().map(std::borrow::Cow::into_owned).collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    fn rows(rows: &[&[&str]]) -> Vec<Vec<String>> {
        rows.iter().map(|row| row.iter().map(|cell| (*cell).to_owned()).collect()).collect()
    }

    const HEADS: [(&str, bool); 4] =
        [("mounted at", false), ("", false), ("used", true), ("from", false)];

    #[rstest]
    fn what_fits_stands_in_columns() {
        let rows =
            rows(&[&["/", "▕█··▏", "1 GiB", "sda1"], &["/srv/tide", "▕██·▏", "12 GiB", "b"]]);
        let expected = [
            "mounted at           used  from",
            "/           ▕█··▏   1 GiB  sda1",
            "/srv/tide   ▕██·▏  12 GiB  b",
        ];
        assert_eq!(in_columns(&HEADS, &rows, 60).concat(), expected);
    }

    #[rstest]
    fn columns_that_do_not_fit_stand_below_their_row() {
        let rows = rows(&[
            &["/srv/tide", "▕██·▏", "12 GiB", "mapper/vg0-a-long-name"],
            &["/", "", "·", "·"],
        ]);
        let expected = [
            "mounted at           used",
            "/srv/tide   ▕██·▏  12 GiB",
            "    from: mapper/vg0-a-long-name",
            "/                       ·",
        ];
        assert_eq!(in_columns(&HEADS, &rows, 34).concat(), expected);
    }

    #[rstest]
    fn a_long_path_has_a_line_of_its_own() {
        let rows = rows(&[&["/srv/archive/of/the/whole/coast", "▕██·▏", "12 GiB", "b"]]);
        let expected = [
            "mounted at           used  from",
            "/srv/archive/of/the/whole/coast",
            "            ▕██·▏  12 GiB  b",
        ];
        assert_eq!(in_columns(&HEADS, &rows, 40).concat(), expected);
    }

    proptest! {
        #[test]
        fn no_line_is_too_wide_and_no_cell_that_fits_is_broken(
            cells in prop::collection::vec(prop::collection::vec("[a-z/]{0,30}", 4), 0..6),
            room in 40_usize..120,
        ) {
            let lines = in_columns(&HEADS, &cells, room).concat();
            for line in &lines {
                prop_assert!(line.width() <= room, "{line}");
            }
            for cell in cells.iter().flatten() {
                prop_assert!(lines.iter().any(|line| line.contains(cell.as_str())), "{cell}");
            }
        }
    }
}
