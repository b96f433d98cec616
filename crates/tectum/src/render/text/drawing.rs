//! Drawings in characters: a disk as a bar, memory slots as they sit, processors as nested boxes.

use anstyle::Style;
use unicode_width::UnicodeWidthStr;

use super::{super::safe, style};
use crate::page::{Bar, Card, Package, Packages, Slot, SlotGroup, SlotHolds, Tone};

/// A line that is laid out.
pub(super) type Drawn = Vec<(Style, String)>;

/// Bars in proportion: each of some sizes as columns of a bar of that width, none that is not zero
/// smaller than one column.
pub(crate) fn proportions(sizes: &[u64], whole: u64, width: usize) -> Vec<usize> {
    let together: u128 = sizes.iter().copied().map(u128::from).sum();
    let whole = u128::from(whole).max(together).max(1);
    let exact = |size: u64| {
        let columns = u128::from(size) * width as u128 / whole;
        usize::try_from(columns).unwrap_or(width)
    };
    let mut columns: Vec<usize> =
        sizes.iter().map(|size| if *size == 0 { 0 } else { exact(*size).max(1) }).collect();
    // What small parts were given is taken from the largest.
    while columns.iter().sum::<usize>() > width {
        match columns.iter_mut().max() {
            Some(largest) if *largest > 1 => *largest -= 1,
            _ => break,
        }
    }
    columns
}

/// The columns of a bar's parts: where they take all of it, no column is left over.
fn columns_of(bar: &Bar, width: usize) -> Vec<usize> {
    let sizes: Vec<u64> = bar.parts.iter().map(|part| part.size).collect();
    let mut columns = proportions(&sizes, bar.whole, width);
    let together: u128 = sizes.iter().copied().map(u128::from).sum();
    let used: usize = columns.iter().sum();
    // What is left over is less than a column shows.
    let column = u128::from(bar.whole) / (width.max(1) as u128);
    if together + column >= u128::from(bar.whole)
        && let Some(largest) = columns.iter_mut().max()
        && *largest > 0
    {
        *largest += width.saturating_sub(used);
    }
    columns
}

/// The patterns of neighbours on a bar, so that they can be told apart without colour.
const PATTERNS: [char; 3] = ['█', '▓', '▒'];
/// What is used of a part whose use is known, and what is not.
const USED: char = '█';
const LEFT: char = '░';
/// What nothing takes.
const FREE: char = '·';

/// Columns of a bar within a line.
const SHORT: usize = 16;

fn edge(text: &str) -> (Style, String) {
    (style(Tone::Quiet), text.to_owned())
}

/// A bar within a line: its parts told apart by their patterns.
pub(super) fn short_bar(bar: &Bar) -> Drawn {
    let mut line = vec![edge("▕")];
    line.extend(patterned(bar, SHORT));
    line.push(edge("▏"));
    line
}

fn patterned(bar: &Bar, width: usize) -> Drawn {
    let columns = columns_of(bar, width);
    let mut patterns = PATTERNS.iter().cycle();
    let mut line = Vec::new();
    for (part, columns) in bar.parts.iter().zip(&columns) {
        let (tone, sign) = match part.name {
            None => (Tone::Quiet, FREE),
            Some(_) => (Tone::Label, patterns.next().copied().unwrap_or(USED)),
        };
        line.push((style(tone), sign.to_string().repeat(*columns)));
    }
    let used: usize = columns.iter().sum();
    line.push((style(Tone::Quiet), FREE.to_string().repeat(width.saturating_sub(used))));
    line
}

/// A bar over the whole room: how full its parts are where that is known, with their names beneath where there is
/// room for them.
pub(super) fn long_bar(bar: &Bar, room: usize) -> Vec<Drawn> {
    let filled = bar.parts.iter().any(|part| part.full.is_some());
    let named = bar.parts.iter().filter(|part| part.name.is_some()).count();
    // Each part but the last has an edge of its own, so that neighbours of one pattern are two.
    let edges = bar.parts.len().saturating_sub(1);
    let width = room.saturating_sub(2);
    if !filled || edges + bar.parts.len() > width {
        let mut line = vec![edge("▕")];
        line.extend(patterned(bar, width));
        line.push(edge("▏"));
        let mut lines = vec![line];
        if named > 0 {
            lines.extend(names(bar, &columns_of(bar, width), 0, room));
        }
        return lines;
    }
    let width = width - edges;
    let columns = columns_of(bar, width);
    let mut line = vec![edge("▕")];
    for (at, (part, columns)) in bar.parts.iter().zip(&columns).enumerate() {
        if at > 0 {
            line.push(edge("│"));
        }
        match (&part.name, part.full) {
            (None, _) => line.push((style(Tone::Quiet), FREE.to_string().repeat(*columns))),
            (Some(_), None) => line.push((style(Tone::Label), "▒".repeat(*columns))),
            (Some(_), Some(full)) => {
                let used = filled_columns(full, *columns);
                line.push((style(Tone::Label), USED.to_string().repeat(used)));
                line.push((style(Tone::Label), LEFT.to_string().repeat(columns - used)));
            }
        }
    }
    let used: usize = columns.iter().sum();
    line.push((style(Tone::Quiet), FREE.to_string().repeat(width.saturating_sub(used))));
    line.push(edge("▏"));
    let mut lines = vec![line];
    lines.extend(names(bar, &columns, 1, room));
    lines
}

/// How many columns of some are filled: one at the least where anything is.
fn filled_columns(full: u64, columns: usize) -> usize {
    let exact = u128::from(full.min(10_000)) * columns as u128;
    let columns_of = usize::try_from(exact.div_ceil(10_000)).unwrap_or(columns);
    columns_of.min(columns)
}

/// The names of parts, each beneath its own where it fits.
fn names(bar: &Bar, columns: &[usize], between: usize, room: usize) -> Option<Drawn> {
    let mut text = String::new();
    let mut at = 1;
    for (part, columns) in bar.parts.iter().zip(columns) {
        if let Some(name) = &part.name {
            let name = safe(name);
            // A blank behind it keeps it from its neighbour's.
            if name.width() < columns + between && at + name.width() <= room {
                text.push_str(&" ".repeat(at.saturating_sub(text.width())));
                text.push_str(&name);
            }
        }
        at += columns + between;
    }
    (!text.is_empty()).then(|| vec![(style(Tone::Quiet), text)])
}

/// Columns of a share.
const SHARE: usize = 20;

/// How much something is of a whole.
pub(super) fn share(part: u64, whole: u64) -> Drawn {
    let filled = u128::from(part) * SHARE as u128;
    let filled = usize::try_from(filled.div_ceil(u128::from(whole.max(1)))).unwrap_or(SHARE);
    let filled = filled.min(SHARE);
    vec![
        (style(Tone::After), USED.to_string().repeat(filled)),
        (style(Tone::Quiet), FREE.to_string().repeat(SHARE - filled)),
    ]
}

/// One sign for each slot, banks apart, where they are few enough.
pub(super) fn strip(banks: &[Vec<bool>], most: usize) -> Drawn {
    let mut line = Vec::new();
    for bank in banks {
        for filled in bank {
            let (tone, sign) = if *filled { (Tone::Label, "▮") } else { (Tone::Quiet, "▯") };
            line.push((style(tone), sign.to_owned()));
        }
        line.push((Style::new(), " ".to_owned()));
    }
    if banks.iter().map(Vec::len).sum::<usize>() > most {
        let filled = banks.iter().flatten().filter(|filled| **filled).count();
        let all = banks.iter().map(Vec::len).sum::<usize>();
        return share(filled as u64, all as u64).into_iter().chain([edge(" ")]).collect();
    }
    line
}

/// Eight steps of a small column.
const STEPS: [char; 8] = ['▁', '▂', '▃', '▄', '▅', '▆', '▇', '█'];
/// The most columns of a line of them.
const WIDEST: usize = 60;

/// Numbers as small columns. Of more numbers than columns each column tells several: the highest of them.
pub(super) fn series(numbers: &[i64]) -> Drawn {
    let (Some(least), Some(most)) = (numbers.iter().min(), numbers.iter().max()) else {
        return Vec::new();
    };
    let span = i128::from(*most) - i128::from(*least);
    let each = numbers.len().div_ceil(WIDEST).max(1);
    let line = numbers
        .chunks(each)
        .filter_map(|chunk| chunk.iter().max())
        .filter_map(|value| {
            let above = i128::from(*value) - i128::from(*least);
            let step = if span == 0 { 0 } else { above * 7 / span };
            STEPS.get(usize::try_from(step).ok()?)
        })
        .collect();
    vec![(style(Tone::After), line)]
}

/// The widest label of a group of slots.
const WIDEST_LABEL: usize = 20;
/// The widest name in a drawing.
const WIDEST_NAME: usize = 24;

/// A name in a drawing: as wide as it is shown, and no wider than a drawing bears.
fn in_drawing(name: &str, widest: usize) -> String {
    let shown = safe(name);
    if shown.width() <= widest {
        return shown.into_owned();
    }
    let mut text = String::new();
    for character in shown.chars() {
        let next = unicode_width::UnicodeWidthChar::width(character).unwrap_or(0);
        if text.width() + next >= widest {
            break;
        }
        text.push(character);
    }
    text.push('…');
    text
}

fn padded(text: &str, width: usize) -> String {
    format!("{text}{}", " ".repeat(width.saturating_sub(text.width())))
}

/// Slots as they sit: those of a group in one row, as far as there is room.
pub(super) fn slots(groups: &[SlotGroup], room: usize) -> Vec<Drawn> {
    let all = || groups.iter().flat_map(|group| &group.slots);
    let name = |slot: &Slot| in_drawing(&slot.name, WIDEST_NAME);
    let names = all().map(|slot| name(slot).width()).max().unwrap_or(0);
    let sizes = all().map(|slot| safe(slot.holds.words()).width()).max().unwrap_or(0);
    let labels = groups.iter().map(|group| in_drawing(&group.label, WIDEST_LABEL));
    let labels: Vec<String> = labels.collect();
    let label_width = labels.iter().map(|label| label.width()).max().unwrap_or(0);
    let columns = (room.saturating_sub(label_width + 2) / (names + sizes + 5)).max(1);
    let mut lines = Vec::new();
    for (group, label) in groups.iter().zip(&labels) {
        for (row, part) in group.slots.chunks(columns).enumerate() {
            let shown = if row == 0 { label.as_str() } else { "" };
            let mut line = vec![edge(&format!("{}  ", padded(shown, label_width)))];
            for slot in part {
                let filled = matches!(slot.holds, SlotHolds::Module(_));
                let (open, close, tone) =
                    if filled { ("▐", "▌", Tone::Label) } else { ("┆", "┆", Tone::Quiet) };
                line.push((style(tone), open.to_owned()));
                line.push(edge(&format!("{} ", padded(&name(slot), names))));
                let holds = safe(slot.holds.words());
                let holds = format!("{}{holds}", " ".repeat(sizes.saturating_sub(holds.width())));
                line.push((style(if filled { Tone::Strong } else { Tone::Quiet }), holds));
                line.push((style(tone), format!("{close}  ")));
            }
            lines.push(line);
        }
    }
    lines
}

/// Packages that a drawing holds.
const MOST_PACKAGES: usize = 4;

/// Processors as boxes: cores in a row, and under them the caches that they share; nothing where there is no room.
pub(super) fn packages(all: &Packages, room: usize) -> Option<Vec<Drawn>> {
    let cores = || all.packages.iter().flat_map(|package| &package.cores);
    let cell = cores().map(|core| core.width()).max().unwrap_or(0).max(5) + 2;
    let most = all.packages.iter().map(|package| package.cores.len()).max().unwrap_or(0);
    if most == 0 || most * (cell + 1) + 3 > room || all.packages.len() > MOST_PACKAGES {
        return None;
    }
    Some(all.packages.iter().flat_map(|package| boxed(package, cell)).collect())
}

fn boxed(package: &Package, cell: usize) -> Vec<Drawn> {
    let title = format!(" {} ", safe(&package.title));
    let inner = (package.cores.len() * (cell + 1) + 1).max(title.width() + 1);
    let line = "─".repeat(inner - title.width());
    let mut lines = vec![vec![edge("╭"), (style(Tone::Plain), title), edge(&format!("{line}╮"))]];
    let mut row = vec![edge("│"), (Style::new(), " ".into())];
    for core in &package.cores {
        row.push((style(Tone::Label), "▐".into()));
        row.push((style(Tone::Strong), padded(core, cell - 2)));
        row.push((style(Tone::Label), "▌ ".into()));
    }
    let used = package.cores.len() * (cell + 1) + 1;
    row.push((Style::new(), " ".repeat(inner - used)));
    row.push(edge("│"));
    lines.push(row);
    for caches in &package.caches {
        let mut row = " ".to_owned();
        let mut next = 0;
        for cache in caches {
            row.push_str(&" ".repeat(cache.first.saturating_sub(next) * (cell + 1)));
            let width = cache.cores * (cell + 1) - 1;
            let long = match &cache.size {
                Some(size) => format!("{} {size}", cache.name),
                None => cache.name.clone(),
            };
            let text = if long.width() + 2 <= width { &long } else { &cache.name };
            let rest = width.saturating_sub(text.width() + 2);
            let (left, right) = ("╌".repeat(rest / 2), "╌".repeat(rest - rest / 2));
            row.push_str(&format!("└{left}{text}{right}┘ "));
            next = cache.first + cache.cores;
        }
        row.push_str(&" ".repeat(inner.saturating_sub(row.width())));
        let row: String = row.chars().take(inner).collect();
        lines.push(vec![edge("│"), edge(&row), edge("│")]);
    }
    lines.push(vec![edge(&format!("╰{}╯", "─".repeat(inner)))]);
    lines
}

/// Columns of a card's labels.
const LABELS: usize = 14;

/// A card: labels at the left, what they say beside them, going on below where it is long.
pub(super) fn card(card: &Card, room: usize) -> Vec<Drawn> {
    if card.rows.is_empty() {
        return Vec::new();
    }
    let inner = room.saturating_sub(4).max(LABELS + 10);
    let border = |left: &str, right: &str| edge(&format!("{left}{}{right}", "─".repeat(inner + 2)));
    let mut lines = vec![vec![border("╭", "╮")]];
    let rows: Vec<(&str, String)> =
        card.rows.iter().map(|(label, value)| (*label, safe(value).into_owned())).collect();
    let half = inner / 2;
    let short = |value: &str| LABELS + value.width() < half;
    let mut left = rows.as_slice();
    // Two short ones share a line.
    while let Some((first, rest)) = left.split_first() {
        let second = rest.first().filter(|second| short(&first.1) && short(&second.1));
        left = match second {
            Some(_) => rest.get(1..).unwrap_or_default(),
            None => rest,
        };
        let width = if second.is_some() { half } else { inner };
        for (index, line) in textwrap::wrap(&first.1, width - LABELS).into_iter().enumerate() {
            let label = if index == 0 { first.0 } else { "" };
            let mut parts = vec![edge(&format!("│ {label:<LABELS$}"))];
            let mut used = LABELS + line.width();
            parts.push((style(Tone::Plain), line.into_owned()));
            if let Some((label, value)) = second {
                let gap = " ".repeat(half.saturating_sub(used));
                parts.push(edge(&format!("{gap}{label:<LABELS$}")));
                parts.push((style(Tone::Plain), value.clone()));
                used = half + LABELS + value.width();
            }
            parts.push(edge(&format!("{} │", " ".repeat(inner.saturating_sub(used)))));
            lines.push(parts);
        }
    }
    lines.push(vec![border("╰", "╯")]);
    lines
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::page::Part;

    #[rstest]
    #[case(&[50, 50], 100, 10, &[5, 5])]
    #[case(&[1, 999_999], 1_000_000, 10, &[1, 9])]
    #[case(&[0, 100], 100, 10, &[0, 10])]
    #[case(&[u64::MAX, u64::MAX], 1, 10, &[5, 5])]
    #[case(&[], 0, 10, &[])]
    fn small_parts_stay_visible(
        #[case] sizes: &[u64],
        #[case] whole: u64,
        #[case] width: usize,
        #[case] columns: &[usize],
    ) {
        let found = proportions(sizes, whole, width);
        assert_eq!(found, columns);
        assert!(found.iter().sum::<usize>() <= width.max(found.len()));
    }

    fn text(lines: &[Drawn]) -> Vec<String> {
        lines.iter().map(|line| line.iter().map(|(_, part)| part.as_str()).collect()).collect()
    }

    fn part(name: &str, size: u64, full: Option<u64>) -> Part {
        Part { name: Some(name.to_owned()), says: String::new(), size, full }
    }

    #[test]
    fn how_full_a_part_is_shows_where_it_lies() {
        let bar = Bar {
            whole: 100,
            parts: vec![part("sda1", 20, Some(5_000)), part("sda2", 60, None), Part::free(20)],
        };
        assert_eq!(text(&long_bar(&bar, 24)), ["▕██░░│▒▒▒▒▒▒▒▒▒▒▒▒│····▏", " sda1 sda2"]);
    }

    #[test]
    fn a_name_that_its_part_has_no_room_for_is_left_out() {
        let bar = Bar {
            whole: 100,
            parts: vec![part("nvme0n1p1", 2, Some(1)), part("nvme0n1p2", 98, Some(10_000))],
        };
        assert_eq!(text(&long_bar(&bar, 24)), ["▕█│████████████████████▏", "   nvme0n1p2"]);
    }
}
