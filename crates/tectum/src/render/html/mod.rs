//! A page as one HTML file that asks for nothing else: no font, no picture, no script comes from anywhere. Its policy
//! (Content Security Policy 3) allows this style and this script by their digests and nothing besides, so what a
//! machine says stays text even if it were taken for something else.

mod drawing;
mod values;

use std::collections::HashSet;

use base64::{Engine, engine::general_purpose::STANDARD};
use maud::{DOCTYPE, Markup, PreEscaped, html};
use ring::digest::SHA256;
use tectum_report::report::Report;

use super::safe;
use crate::page::{Block, Cell, Column, Found, Group, Line, Page, Piece, Place, Sign, Table, Tone};

const STYLE: &str = include_str!("style.css");
const SCRIPT: &str = include_str!("script.js");

/// A page, with all values of the reports that it tells of.
pub(crate) fn page(page: &Page, reports: &[&Report]) -> String {
    let body = Body::of(page, reports);
    let title = body.title.clone().unwrap_or_else(|| "Tectum".to_owned());
    let digest = |text: &str| {
        format!("'sha256-{}'", STANDARD.encode(ring::digest::digest(&SHA256, text.as_bytes())))
    };
    let policy = format!(
        "default-src 'none'; style-src {}; script-src {}; base-uri 'none'; form-action 'none'",
        digest(STYLE),
        digest(SCRIPT)
    );
    let nav = body.sections.iter().filter(|section| section.machine == 1);
    let nav = nav.filter_map(|section| section.name);
    let whole = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content=(policy);
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta name="referrer" content="no-referrer";
                meta name="generator" content=(concat!("tectum ", env!("CARGO_PKG_VERSION")));
                title { (safe(&title)) }
                style { (PreEscaped(STYLE)) }
            }
            body {
                header.top {
                    div.roof {}
                    @for part in &body.head { (part) }
                }
                div.tools {
                    label for="filter" { "Show only" }
                    input #filter type="search" autocomplete="off" spellcheck="false"
                        placeholder="words, a serial number …";
                    output #filtered for="filter" aria-live="polite" {}
                    @if body.sections.len() > 2 && body.machine < 2 {
                        nav aria-label="Sections" {
                            ul {
                                @for name in nav { li { a href={ "#" (name) } { (name) } } }
                            }
                        }
                    }
                }
                main {
                    @for section in &body.sections { (section.markup()) }
                }
                footer { "Made by " (concat!("Tectum ", env!("CARGO_PKG_VERSION"))) ". This file needs no network and sends nothing." }
                script { (PreEscaped(SCRIPT)) }
            }
        }
    };
    whole.into_string()
}

/// A page that is larger could not be opened in good time.
const LARGEST: usize = 4_800_000;
/// Letters that values have in any case.
const LEAST_FOR_VALUES: usize = 200_000;

/// What stands in a frame of its own.
struct Section {
    name: Option<&'static str>,
    /// Which machine's it is, from 1.
    machine: usize,
    parts: Vec<Markup>,
    values: Option<Markup>,
}

impl Section {
    fn markup(&self) -> Markup {
        html! {
            section id=[self.name.map(|name| anchor(name, self.machine))] aria-label=[self.name] {
                @for part in &self.parts { (part) }
                @if let Some(values) = &self.values { (values) }
            }
        }
    }
}

/// Where a section of a machine is found on the page.
fn anchor(section: &str, machine: usize) -> String {
    match machine {
        0 | 1 => section.to_owned(),
        machine => format!("{section}-{machine}"),
    }
}

struct Body {
    /// How many machines the page tells of so far.
    machine: usize,
    title: Option<String>,
    head: Vec<Markup>,
    sections: Vec<Section>,
}

impl Body {
    fn of(page: &Page, reports: &[&Report]) -> Self {
        let mut body = Self { machine: 0, title: None, head: Vec::new(), sections: Vec::new() };
        // What findings lead to is known when all values are told.
        let mut odd = Vec::new();
        for block in page.blocks() {
            match block {
                Block::Title { name, aside } => body.title(name, aside),
                Block::Section(name) => body.push(Some(name), Vec::new(), None),
                Block::Findings(all) => {
                    body.push(None, Vec::new(), None);
                    odd.push((body.sections.len() - 1, body.machine, all));
                }
                // What stands before anything else says what the page is about.
                Block::Line(line) if body.sections.is_empty() && line.place == Place::Paragraph => {
                    body.head.push(html! { p.row { (words(&line.words)) } });
                }
                Block::Gap if body.sections.is_empty() => {}
                other => {
                    let section = body.last();
                    // What is said first of a section has its heading.
                    let first = section.name.is_some() && section.parts.is_empty();
                    section.parts.push(self::block(other, first));
                }
            }
        }
        let told = body.add_values(reports);
        for (at, machine, all) in odd {
            if let Some(section) = body.sections.get_mut(at) {
                section.parts.insert(0, findings(all, machine, &told));
            }
        }
        body.sections.retain(|section| !section.parts.is_empty() || section.values.is_some());
        body
    }

    /// Adds the values of each section, in the room that is left on a page, of which each that comes has its share;
    /// returns which parts are told.
    fn add_values(&mut self, reports: &[&Report]) -> HashSet<String> {
        let used: usize =
            self.sections.iter().flat_map(|it| &it.parts).map(|part| part.0.len()).sum();
        let mut left = LARGEST.saturating_sub(used).max(LEAST_FOR_VALUES);
        let mut told = HashSet::new();
        let number = self.sections.iter().filter(|section| section.name.is_some()).count();
        let named = self.sections.iter_mut().filter_map(|it| Some((it.name?, it)));
        for (at, (name, section)) in named.enumerate() {
            let Some(report) = reports.get(section.machine.saturating_sub(1)) else { continue };
            let share = left / number.saturating_sub(at).max(1);
            let own = values::all(report, name, section.machine, share, &mut told);
            left = left.saturating_sub(own.as_ref().map_or(0, |own| own.0.len()));
            section.values = own;
        }
        told
    }

    /// The top of a page; of one that tells of several machines, the top of one of them.
    fn title(&mut self, name: &str, aside: &str) {
        let (name, aside) = (safe(name), safe(aside));
        if self.title.is_none() {
            self.title = Some(format!("{name}, {aside}"));
            self.head.push(html! { h1 { (name) } p.aside { (aside) } });
        } else {
            let id = anchor("machine", self.machine + 1);
            let own = html! { h1 id=(id) { (name) } p.aside { (aside) } };
            self.push(None, vec![own], None);
        }
        self.machine += 1;
    }

    fn push(&mut self, name: Option<&'static str>, parts: Vec<Markup>, values: Option<Markup>) {
        self.sections.push(Section { name, machine: self.machine, parts, values });
    }

    fn last(&mut self) -> &mut Section {
        if self.sections.is_empty() {
            self.push(None, Vec::new(), None);
        }
        let end = self.sections.len() - 1;
        // There is a last section: one was just pushed if there was none.
        #[allow(clippy::indexing_slicing)]
        &mut self.sections[end]
    }
}

/// Findings, each with the way to the section that it is of.
fn findings(all: &[Found], machine: usize, told: &HashSet<String>) -> Markup {
    html! {
        div.odd {
            h2 { "What is odd" }
            ul {
                @for found in all {
                    li {
                        (sign(found.sign)) " "
                        a href={ "#" (anchor(&found.section, machine)) } { (safe(&found.label)) }
                        ": " (safe(&found.says))
                        @let values = values::anchor(&found.part, machine);
                        @if told.contains(&values) {
                            " " a.q href={ "#" (values) } aria-label={ "values of " (safe(&found.label)) } { "values" }
                        }
                    }
                }
            }
        }
    }
}

fn block(block: &Block, first: bool) -> Markup {
    match block {
        Block::Title { .. } | Block::Section(_) | Block::Findings(_) => html! {},
        Block::Gap => html! { div.gap {} },
        Block::Heading(text) => html! { h3 { (safe(text)) } },
        Block::Command(line) => html! { pre.row { code { "$ " (safe(line)) } } },
        Block::Line(own) => line(own, first),
        Block::Table(own) => table(own),
        Block::Bar(own) => html! { div.drawn { (drawing::bar(own)) } },
        Block::Slots(groups) => {
            html! { div.drawn.scroll tabindex="0" { (drawing::slots(groups)) } }
        }
        Block::Packages(all) => match drawing::packages(all) {
            Some(drawn) => html! { div.drawn.scroll tabindex="0" { (drawn) } },
            None => html! { @for own in &all.told { div.row.beside { (words(own)) } } },
        },
        Block::Tree(tree) => html! { div.drawn.scroll tabindex="0" { (drawing::tree(tree)) } },
        Block::Card(card) => html! {
            dl.card {
                @for (label, value) in &card.rows {
                    div.row { dt { (label) } dd { (safe(value)) } }
                }
            }
        },
        Block::Fixed(lines) => html! {
            pre tabindex="0" { @for own in lines { (safe(own)) "\n" } }
        },
    }
}

fn line(line: &Line, first: bool) -> Markup {
    let pieces = line.words.as_slice();
    let becomes = pieces.iter().position(|it| matches!(it, Piece::Sign(Sign::Becomes)));
    match (&line.place, becomes) {
        (Place::Entry(label), _) => html! {
            div.row.entry {
                @if first { h2.label { (safe(label)) } } @else { div.label { (safe(label)) } }
                div { (words(pieces)) }
            }
        },
        (Place::Beside, _) => html! { div.row.beside { (words(pieces)) } },
        // A value before and after, side by side.
        (Place::Beneath, Some(at)) => {
            let (left, right) = pieces.split_at(at);
            let (name, before) = left
                .split_first()
                .map_or((&[][..], left), |(name, rest)| (std::slice::from_ref(name), rest));
            html! {
                div.row.change {
                    span { (words(name)) }
                    del { (words(before)) }
                    ins { (words(right.get(1..).unwrap_or_default())) }
                }
            }
        }
        (Place::Beneath, None) => html! { div.row.beneath { (words(pieces)) } },
        (Place::Paragraph, _) => html! { div.row.paragraph { (words(pieces)) } },
        (Place::BeneathParagraph, _) => html! { div.row.under { (words(pieces)) } },
    }
}

/// Pieces of a line.
fn words(pieces: &[Piece]) -> Markup {
    html! {
        @for piece in pieces {
            @match piece {
                Piece::Text(tone, text) => (toned(*tone, text)),
                Piece::Identity(text) => { (safe(text)) (copier(text)) }
                Piece::Sign(own) | Piece::Mark(own) => (sign(*own)),
                Piece::Bar(bar) => (drawing::short_bar(bar)),
                Piece::Strip(banks) => (drawing::strip(banks)),
                Piece::Share { part, whole } => (drawing::share(*part, *whole)),
                Piece::Series(numbers) => (drawing::series(numbers)),
            }
        }
    }
}

fn toned(tone: Tone, text: &str) -> Markup {
    let text = safe(text);
    match tone {
        Tone::Plain => html! { (text) },
        Tone::Strong => html! { strong { (text) } },
        Tone::Quiet => html! { span.q { (text) } },
        Tone::Label => html! { span.label-tone { (text) } },
        Tone::Before => html! { span.before { (text) } },
        Tone::After => html! { span.after { (text) } },
        Tone::Alarm => html! { span.alarm { (text) } },
    }
}

/// A button that copies a text.
fn copier(text: &str) -> Markup {
    html! {
        button.copy type="button" data-copy=(text) aria-label={ "Copy " (safe(text)) } { "copy" }
    }
}

/// A sign, with its word for those who do not see it.
fn sign(sign: Sign) -> Markup {
    let (tone, shown) = super::text::sign(sign);
    let class = match tone {
        Tone::Alarm => "sign alarm",
        Tone::Before => "sign before",
        Tone::Label => "sign label-tone",
        _ => "sign q",
    };
    let word = super::plain::spoken(sign).trim().trim_end_matches([':', ',']);
    match word {
        "" => html! { span class=(class) { (shown) } },
        word => {
            html! { span class=(class) role="img" aria-label=(word) { (shown.trim_end()) } " " }
        }
    }
}

fn table(table: &Table) -> Markup {
    let said = |at: usize| {
        let mut rows = table.groups.iter().flat_map(|group| &group.rows);
        rows.any(|row| row.get(at).is_some_and(|cell| super::plain::cell(cell).is_some()))
    };
    let kept: Vec<usize> = (0..table.columns.len()).filter(|at| *at == 0 || said(*at)).collect();
    let columns: Vec<&Column> = kept.iter().filter_map(|at| table.columns.get(*at)).collect();
    let [group] = table.groups.as_slice() else {
        return html! {
            div.scroll tabindex="0" {
                table.of-groups {
                    thead { tr { @for column in &columns { (head(column, false)) } } }
                    @for group in &table.groups { (of_group(group, &kept, &columns)) }
                }
            }
        };
    };
    let sortable = group.rows.len() > 2;
    html! {
        div.scroll tabindex="0" {
            table {
                thead { tr { @for column in &columns { (head(column, sortable)) } } }
                tbody { @for own in &group.rows { (row(own, &kept, &columns)) } }
            }
        }
    }
}

fn head(column: &Column, sortable: bool) -> Markup {
    let class = column.numbers.then_some("n");
    html! {
        @if sortable && !column.head.is_empty() {
            th scope="col" class=[class] { button type="button" { (column.head) } }
        } @else if column.head.is_empty() {
            td {}
        } @else {
            th scope="col" class=[class] { (column.head) }
        }
    }
}

fn class_of(column: &Column) -> Option<&'static str> {
    match (column.numbers, column.identity) {
        (true, _) => Some("n"),
        (_, true) => Some("id"),
        _ => None,
    }
}

fn of_group(group: &Group, kept: &[usize], columns: &[&Column]) -> Markup {
    html! {
        tbody {
            @if !group.title.is_empty() || group.bar.is_some() {
                tr.of {
                    th scope="rowgroup" colspan=(columns.len()) {
                        (words(&group.title))
                        @if let Some(bar) = &group.bar { (drawing::bar(bar)) }
                    }
                }
            }
            @for own in &group.rows { (row(own, kept, columns)) }
        }
    }
}

fn row(row: &[Cell], kept: &[usize], columns: &[&Column]) -> Markup {
    let cells = kept.iter().filter_map(|at| row.get(*at)).zip(columns);
    html! {
        tr {
            @for (cell, column) in cells {
                td class=[class_of(column)] {
                    @match cell {
                        Cell::Text(text) => {
                            (safe(text))
                            @if column.identity && !text.is_empty() { (copier(text)) }
                        }
                        Cell::Missing => span.q title="not known" { "·" },
                        Cell::Counts(counts) => span.counts {
                            @for (own, number) in counts { (sign(*own)) (number) " " }
                        },
                        Cell::Level(Some(level)) => (drawing::level(*level)),
                        Cell::Share { part, whole } => (drawing::share(*part, *whole)),
                        Cell::Level(None) => {}
                    }
                }
            }
        }
    }
}
