//! Drawings as SVG within the page, each with what it shows in words.

use maud::{Markup, html};

use super::super::{plain, safe};
use crate::page::{Bar, Node, Package, Packages, SlotGroup, SlotHolds, Tree};

/// How wide a drawing is that takes all the room, in its own units.
const WIDE: f64 = 1000.0;

/// Parts of a bar as they lie: where each begins, and how wide it is.
fn spans(bar: &Bar, width: f64) -> Vec<(f64, f64)> {
    let sum = bar.parts.iter().map(|part| part.size as f64).sum::<f64>();
    let whole = (bar.whole as f64).max(sum).max(1.0);
    // What is there is seen, however small.
    const LEAST: f64 = 3.0;
    let wanted: Vec<f64> = bar
        .parts
        .iter()
        .map(|part| match part.size {
            0 => 0.0,
            size => (size as f64 / whole * width).max(LEAST),
        })
        .collect();
    let over = (wanted.iter().sum::<f64>() / width).max(1.0);
    let mut at = 0.0;
    wanted
        .into_iter()
        .map(|wide| {
            let span = (at, wide / over);
            at += span.1;
            span
        })
        .collect()
}

/// A number with one digit behind the point.
fn n(number: f64) -> String {
    let text = format!("{number:.1}");
    text.strip_suffix(".0").map_or(text.clone(), str::to_owned)
}

/// A bar over the whole width, its parts with their names where there is room, each as full as it is.
pub(super) fn bar(bar: &Bar) -> Markup {
    let mut patterns = (0..3).cycle();
    let parts: Vec<_> = bar.parts.iter().zip(spans(bar, WIDE)).collect();
    html! {
        svg viewBox={ "0 0 " (n(WIDE)) " 42" } role="img" aria-label=(plain::bar(bar)) {
            @for (part, (at, wide)) in &parts {
                @let told = match &part.name {
                    Some(name) if part.says.is_empty() => safe(name).into_owned(),
                    Some(name) => format!("{}, {}", safe(name), safe(&part.says)),
                    None => "free".to_owned(),
                };
                g {
                    title { (told) }
                    @match (&part.name, part.full) {
                        (None, _) => rect.free x=(n(*at)) y="2" width=(n(*wide)) height="20" {},
                        (Some(_), None) => {
                            @let class = patterns.next().unwrap_or(0);
                            rect.edge class={ "edge p" (class) } x=(n(*at)) y="2" width=(n(*wide)) height="20" {}
                        }
                        (Some(_), Some(full)) => {
                            rect.left x=(n(*at)) y="2" width=(n(*wide)) height="20" {}
                            rect.used x=(n(*at)) y="2" width=(n(wide * full.min(10_000) as f64 / 10_000.0)) height="20" {}
                        }
                    }
                    @if let Some(name) = &part.name {
                        @let name = safe(name);
                        // A letter is about seven units wide.
                        @if name.chars().count() as f64 * 7.0 < *wide {
                            text.small x=(n(at + 1.0)) y="36" { (name) }
                        }
                    }
                }
            }
            rect.frame x="0.5" y="1.5" width=(n(WIDE - 1.0)) height="21" {}
        }
    }
}

/// A bar within a line.
pub(super) fn short_bar(bar: &Bar) -> Markup {
    const WIDTH: f64 = 130.0;
    let mut patterns = (0..3).cycle();
    html! {
        svg.inline width=(n(WIDTH)) height="14" viewBox={ "0 0 " (n(WIDTH)) " 14" } role="img" aria-label=(plain::bar(bar)) {
            @for (part, (at, wide)) in bar.parts.iter().zip(spans(bar, WIDTH)) {
                @if part.name.is_some() {
                    @let class = patterns.next().unwrap_or(0);
                    rect class={ "p" (class) } x=(n(at)) y="2" width=(n(wide)) height="10" {}
                }
            }
            rect.frame x="0.5" y="1.5" width=(n(WIDTH - 1.0)) height="11" {}
        }
    }
}

/// How much something is of a whole.
pub(super) fn share(part: u64, whole: u64) -> Markup {
    const WIDTH: f64 = 160.0;
    let share = (part as f64 / whole.max(1) as f64).clamp(0.0, 1.0);
    html! {
        svg.inline width=(n(WIDTH)) height="14" viewBox={ "0 0 " (n(WIDTH)) " 14" } role="img" aria-label={ (n(share * 100.0)) " %" } {
            rect.used x="0" y="2" width=(n(share * WIDTH)) height="10" {}
            rect.frame x="0.5" y="1.5" width=(n(WIDTH - 1.0)) height="11" {}
        }
    }
}

/// Where a value stands between nothing and the most.
pub(super) fn level(level: u64) -> Markup {
    const WIDTH: f64 = 90.0;
    let at = (level as f64 / 10_000.0).clamp(0.0, 1.0) * (WIDTH - 6.0);
    html! {
        svg.inline width=(n(WIDTH)) height="12" viewBox={ "0 0 " (n(WIDTH)) " 12" } role="img" aria-label={ (level / 100) " % of the most" } {
            rect.frame x="0.5" y="4.5" width=(n(WIDTH - 1.0)) height="3" {}
            rect.used x=(n(at)) y="1" width="6" height="10" {}
        }
    }
}

/// Numbers one after the other as a line.
pub(super) fn series(numbers: &[i64]) -> Markup {
    const WIDTH: f64 = 240.0;
    const HEIGHT: f64 = 28.0;
    let (Some(least), Some(most)) = (numbers.iter().min(), numbers.iter().max()) else {
        return html! {};
    };
    let span = (*most as f64 - *least as f64).max(1.0);
    let step = WIDTH / (numbers.len().saturating_sub(1)).max(1) as f64;
    let points = numbers.iter().enumerate().map(|(at, number)| {
        let up = (*number as f64 - *least as f64) / span * (HEIGHT - 4.0);
        format!("{},{}", n(at as f64 * step), n(HEIGHT - 2.0 - up))
    });
    let points = points.collect::<Vec<_>>().join(" ");
    html! {
        svg.inline width=(n(WIDTH)) height=(n(HEIGHT)) viewBox={ "0 0 " (n(WIDTH)) " " (n(HEIGHT)) } role="img" aria-label={ (numbers.len()) " numbers from " (least) " to " (most) } {
            polyline.plot points=(points) {}
        }
    }
}

/// Slots in a row, banks apart.
pub(super) fn strip(banks: &[Vec<bool>]) -> Markup {
    let all: usize = banks.iter().map(Vec::len).sum();
    let filled = banks.iter().flatten().filter(|filled| **filled).count();
    let mut at = 0.0;
    let mut places = Vec::new();
    for bank in banks {
        for filled in bank {
            places.push((at, *filled));
            at += 8.0;
        }
        at += 5.0;
    }
    html! {
        svg.inline width=(n(at)) height="14" viewBox={ "0 0 " (n(at)) " 14" } role="img" aria-label={ (filled) " of " (all) " slots filled" } {
            @for (at, filled) in places {
                @if filled { rect.used x=(n(at)) y="1" width="6" height="12" {} }
                @else { rect.frame x=(n(at + 0.5)) y="1.5" width="5" height="11" {} }
            }
        }
        " "
    }
}

/// Memory slots as they sit: a row a bank or channel.
pub(super) fn slots(groups: &[SlotGroup]) -> Markup {
    const WIDTH: f64 = 150.0;
    const HEIGHT: f64 = 40.0;
    let most = groups.iter().map(|group| group.slots.len()).max().unwrap_or(0);
    let labels = groups.iter().map(|group| safe(&group.label).chars().count()).max().unwrap_or(0);
    let left = labels as f64 * 7.5 + 12.0;
    let wide = left + most as f64 * (WIDTH + 8.0);
    let tall = groups.len() as f64 * (HEIGHT + 8.0);
    let told = groups.iter().map(|group| {
        let own = group.slots.iter().map(|slot| format!("{} {}", slot.name, slot.holds.words()));
        format!("{}: {}", group.label, own.collect::<Vec<_>>().join(", "))
    });
    let told = told.collect::<Vec<_>>().join("; ");
    html! {
        svg width=(n(wide)) height=(n(tall)) viewBox={ "0 0 " (n(wide)) " " (n(tall)) } role="img" aria-label=(safe(&told)) {
            @for (row, group) in groups.iter().enumerate() {
                @let y = row as f64 * (HEIGHT + 8.0) + 2.0;
                text.small x="0" y=(n(y + 24.0)) { (safe(&group.label)) }
                @for (at, slot) in group.slots.iter().enumerate() {
                    @let x = left + at as f64 * (WIDTH + 8.0);
                    @let filled = matches!(slot.holds, SlotHolds::Module(_));
                    rect class=(if filled { "left" } else { "free" }) x=(n(x)) y=(n(y)) width=(n(WIDTH)) height=(n(HEIGHT)) rx="3" {}
                    text.small x=(n(x + 8.0)) y=(n(y + 16.0)) { (shortened(&slot.name, 20)) }
                    text x=(n(x + 8.0)) y=(n(y + 32.0)) { (shortened(slot.holds.words(), 18)) }
                }
            }
        }
    }
}

fn shortened(text: &str, most: usize) -> String {
    let text = safe(text);
    match text.chars().count() > most {
        true => text.chars().take(most - 1).chain(['…']).collect(),
        false => text.into_owned(),
    }
}

/// So many packages and cores are drawn; more are told.
const MOST_PACKAGES: usize = 8;
const MOST_CORES: usize = 64;
/// Cores in a row.
const IN_A_ROW: usize = 16;

/// Processors as boxes: their cores, and the caches that these share.
pub(super) fn packages(all: &Packages) -> Option<Markup> {
    let most = all.packages.iter().map(|package| package.cores.len()).max().unwrap_or(0);
    if most == 0 || most > MOST_CORES || all.packages.len() > MOST_PACKAGES {
        return None;
    }
    Some(html! { @for package in &all.packages { (boxed(package)) } })
}

fn boxed(package: &Package) -> Markup {
    const CORE: f64 = 58.0;
    let columns = package.cores.len().min(IN_A_ROW);
    let rows = package.cores.len().div_ceil(IN_A_ROW);
    // Caches lie under a single row of cores; where there are several rows, they are told in words.
    let caches = if rows == 1 { package.caches.as_slice() } else { &[] };
    let wide = (columns as f64 * CORE + 16.0)
        .max(safe(&package.title).chars().count() as f64 * 8.0 + 20.0);
    let tall = 26.0 + rows as f64 * 32.0 + caches.len() as f64 * 24.0 + 6.0;
    let cores = package.cores.join("; ");
    let told = format!("{}: {} cores, CPUs by core: {cores}", package.title, package.cores.len());
    html! {
        svg width=(n(wide)) height=(n(tall)) viewBox={ "0 0 " (n(wide)) " " (n(tall)) } role="img" aria-label=(safe(&told)) {
            rect.frame x="0.5" y="0.5" width=(n(wide - 1.0)) height=(n(tall - 4.0)) rx="4" {}
            text x="8" y="17" { (safe(&package.title)) }
            @for (at, core) in package.cores.iter().enumerate() {
                @let x = 8.0 + (at % IN_A_ROW) as f64 * CORE;
                @let y = 24.0 + (at / IN_A_ROW) as f64 * 32.0;
                rect.left x=(n(x)) y=(n(y)) width=(n(CORE - 6.0)) height="26" rx="2" {}
                text.small x=(n(x + 6.0)) y=(n(y + 17.0)) { (shortened(core, 7)) }
            }
            @for (row, caches) in caches.iter().enumerate() {
                @let y = 28.0 + rows as f64 * 32.0 + row as f64 * 24.0;
                @for cache in caches {
                    @let x = 8.0 + cache.first as f64 * CORE;
                    @let width = cache.cores as f64 * CORE - 6.0;
                    rect.frame x=(n(x)) y=(n(y)) width=(n(width)) height="18" rx="2" {}
                    @let long = match &cache.size { Some(size) => format!("{} {size}", cache.name), None => cache.name.clone() };
                    @let text = if long.chars().count() as f64 * 7.0 < width { long } else { cache.name.clone() };
                    text.small x=(n(x + 5.0)) y=(n(y + 13.0)) { (text) }
                }
            }
        }
    }
}

/// Things that hang together: what hangs on a thing stands below it, and a line leads there.
pub(super) fn tree(tree: &Tree) -> Markup {
    const ROW: f64 = 22.0;
    const STEP: f64 = 22.0;
    let mut rows = Vec::new();
    for root in &tree.roots {
        flatten(root, 0, None, &mut rows);
    }
    let letters = rows.iter().map(|row| row.depth as f64 * 3.2 + row.text.chars().count() as f64);
    let wide = letters.fold(10.0, f64::max) * 7.2 + 30.0;
    let tall = rows.len() as f64 * ROW + 6.0;
    let told: Vec<&str> = rows.iter().map(|row| row.text.as_str()).collect();
    html! {
        svg width=(n(wide)) height=(n(tall)) viewBox={ "0 0 " (n(wide)) " " (n(tall)) } role="img" aria-label={ (tree.title) ": " (told.join("; ")) } {
            @for (at, row) in rows.iter().enumerate() {
                @let (x, y) = (row.depth as f64 * STEP + 4.0, at as f64 * ROW + 16.0);
                @if let Some(parent) = row.parent {
                    @let from = parent as f64 * ROW + 20.0;
                    path.wire d={ "M" (n(x - STEP + 6.0)) " " (n(from)) "V" (n(y - 4.0)) "H" (n(x - 3.0)) } {}
                }
                text x=(n(x)) y=(n(y)) { (row.text) }
            }
        }
    }
}

struct Row {
    depth: usize,
    parent: Option<usize>,
    text: String,
}

fn flatten(node: &Node, depth: usize, parent: Option<usize>, rows: &mut Vec<Row>) {
    let own = rows.len();
    rows.push(Row { depth, parent, text: shortened(&node.text, 110) });
    node.below.iter().for_each(|below| flatten(below, depth + 1, Some(own), rows));
}
