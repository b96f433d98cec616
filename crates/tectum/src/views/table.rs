//! A table laid out in the columns there are: no cell is broken that a line can hold.

use unicode_width::UnicodeWidthStr;

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

/// The lines of a table, the heading first. Columns whose heading begins with `>` are set to the
/// right. The columns that do not fit stand below their row, and so do the others where the first
/// cell, a path say, takes more than half of the line.
pub(super) fn lay_out(heads: &[&str], rows: &[Vec<String>], room: usize) -> Vec<String> {
    // A column that says nothing in any row takes no room.
    let says =
        |index: usize| rows.iter().any(|row| row.get(index).is_some_and(|it| !it.is_empty()));
    let told: Vec<usize> = (0..heads.len()).filter(|index| *index == 0 || says(*index)).collect();
    if told.len() < heads.len() {
        let pick = |all: &[String]| told.iter().filter_map(|at| all.get(*at).cloned()).collect();
        let heads: Vec<&str> = told.iter().filter_map(|at| heads.get(*at).copied()).collect();
        return lay_out(&heads, &rows.iter().map(|row| pick(row)).collect::<Vec<_>>(), room);
    }
    let first_widest = room / 2;
    let columns: Vec<Column<'_>> = heads
        .iter()
        .enumerate()
        .map(|(index, head)| {
            let name = head.trim_start_matches('>');
            let widths = rows.iter().filter_map(|row| row.get(index)).map(|cell| cell.width());
            let widths = widths.filter(|width| index > 0 || *width <= first_widest);
            Column {
                head: name,
                width: widths.max().unwrap_or(0).max(name.width()),
                right: head.starts_with('>'),
            }
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
    let mut lines = vec![line(kept, &kept.iter().map(|one| one.head).collect::<Vec<_>>())];
    for row in rows {
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
    }
    lines
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

    const HEADS: [&str; 4] = ["mounted at", "", ">used", "from"];

    #[rstest]
    fn what_fits_stands_in_columns() {
        let rows =
            rows(&[&["/", "▕█··▏", "1 GiB", "sda1"], &["/srv/tide", "▕██·▏", "12 GiB", "b"]]);
        let expected = [
            "mounted at           used  from",
            "/           ▕█··▏   1 GiB  sda1",
            "/srv/tide   ▕██·▏  12 GiB  b",
        ];
        assert_eq!(lay_out(&HEADS, &rows, 60), expected);
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
        assert_eq!(lay_out(&HEADS, &rows, 34), expected);
    }

    #[rstest]
    fn a_long_path_has_a_line_of_its_own() {
        let rows = rows(&[&["/srv/archive/of/the/whole/coast", "▕██·▏", "12 GiB", "b"]]);
        let expected = [
            "mounted at           used  from",
            "/srv/archive/of/the/whole/coast",
            "            ▕██·▏  12 GiB  b",
        ];
        assert_eq!(lay_out(&HEADS, &rows, 40), expected);
    }

    proptest! {
        #[test]
        fn no_line_is_too_wide_and_no_cell_that_fits_is_broken(
            cells in prop::collection::vec(prop::collection::vec("[a-z/]{0,30}", 4), 0..6),
            room in 40_usize..120,
        ) {
            let lines = lay_out(&HEADS, &cells, room);
            for line in &lines {
                prop_assert!(line.width() <= room, "{line}");
            }
            for cell in cells.iter().flatten() {
                prop_assert!(lines.iter().any(|line| line.contains(cell.as_str())), "{cell}");
            }
        }
    }
}
