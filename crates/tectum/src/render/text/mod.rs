//! A page as text of a width, for a terminal: a gutter of labels, what is said beside it, tables and drawings under
//! it.

mod drawing;
mod signs;
mod table;

use anstyle::{AnsiColor, Style};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

use self::drawing::Drawn;
use super::safe;
use crate::page::{Block, Line, Page, Piece, Place, TOGETHER, Table, Tone};

pub(super) use self::signs::sign;

/// Columns of the gutter.
pub(super) const GUTTER: usize = 12;

/// Pieces of a line, each with how it is shown.
type Shown = Vec<(Style, String)>;

/// A page as lines no wider than it is wide.
pub(crate) fn lines(page: &Page, width: usize) -> Vec<Vec<(Style, String)>> {
    let mut text = Text { width, lines: Vec::new() };
    for block in page.blocks() {
        text.block(block);
    }
    text.lines
}

/// A page as one text with colours.
pub(crate) fn coloured(page: &Page, width: usize) -> String {
    let mut text = String::new();
    for line in lines(page, width) {
        let mut shown = String::new();
        for (style, part) in line {
            shown.push_str(&format!("{style}{part}{style:#}"));
        }
        text.push_str(shown.trim_end());
        text.push('\n');
    }
    text
}

/// Some blocks as one text without colours.
pub(super) fn bare(blocks: &[&Block], width: usize) -> String {
    let mut text = Text { width, lines: Vec::new() };
    blocks.iter().for_each(|block| text.block(block));
    let mut whole = String::new();
    for line in text.lines {
        let line: String = line.into_iter().map(|(_, part)| part).collect();
        whole.push_str(line.trim_end());
        whole.push('\n');
    }
    whole
}

/// How a piece of text is shown.
pub(crate) fn style(tone: Tone) -> Style {
    match tone {
        Tone::Plain => Style::new(),
        Tone::Strong => Style::new().bold(),
        Tone::Quiet => Style::new().dimmed(),
        Tone::Label => AnsiColor::Cyan.on_default(),
        Tone::Before => AnsiColor::Yellow.on_default(),
        Tone::After => AnsiColor::Green.on_default(),
        Tone::Alarm => AnsiColor::Red.on_default().bold(),
    }
}

/// How the word before a failure is shown.
pub(crate) fn complaint() -> Style {
    style(Tone::Alarm)
}

fn roof() -> Style {
    AnsiColor::Cyan.on_default().bold()
}

struct Text {
    width: usize,
    lines: Vec<Shown>,
}

impl Text {
    /// Columns beside the gutter.
    fn room(&self) -> usize {
        self.width.saturating_sub(GUTTER)
    }

    fn block(&mut self, block: &Block) {
        match block {
            // What they lead to and what they picture stands in words on the page.
            Block::Section(_) | Block::Findings(_) | Block::Tree(_) => {}
            Block::Gap => self.lines.push(Vec::new()),
            Block::Title { name, aside } => self.title(name, aside),
            Block::Heading(text) => {
                self.lines.push(vec![(roof(), "▔▔ ".to_owned())]);
                self.words(style(Tone::Strong), text, 3);
            }
            Block::Command(line) => {
                self.lines.push(vec![(style(Tone::Label), " ❯ ".to_owned())]);
                self.last().push((style(Tone::Strong), safe(line).into_owned()));
            }
            Block::Line(line) => self.line(line),
            Block::Table(table) => self.table(table),
            Block::Bar(bar) => self.drawn(drawing::long_bar(bar, self.room())),
            Block::Slots(groups) => self.drawn(drawing::slots(groups, self.room())),
            Block::Packages(all) => match drawing::packages(all, self.room()) {
                Some(drawn) => self.drawn(drawn),
                None => all.told.iter().for_each(|words| self.said(words, GUTTER, GUTTER)),
            },
            Block::Card(card) => self.drawn(drawing::card(card, self.room())),
            Block::Fixed(lines) => {
                // Where there is little room, the room before them goes first.
                let widest = lines.iter().map(|line| safe(line).width()).max().unwrap_or(0);
                let before = (GUTTER + 4).min(self.width.saturating_sub(widest));
                for line in lines {
                    let line = format!("{}{}", " ".repeat(before), safe(line));
                    self.lines.push(vec![(style(Tone::Plain), line)]);
                }
            }
        }
    }

    fn table(&mut self, table: &Table) {
        let lines = table::lay_out(table, self.room());
        for line in lines.head.into_iter().filter(|line| !line.is_empty()) {
            self.beside_gutter(vec![(style(Tone::Quiet), line)]);
        }
        for (group, rows) in table.groups.iter().zip(lines.groups) {
            if !group.title.is_empty() {
                self.said(&group.title, GUTTER, GUTTER + 2);
            }
            if let Some(bar) = &group.bar {
                self.drawn(drawing::long_bar(bar, self.room()));
            }
            for line in rows {
                self.beside_gutter(vec![(Style::new(), line)]);
            }
        }
    }

    fn drawn(&mut self, lines: Vec<Drawn>) {
        lines.into_iter().for_each(|line| self.beside_gutter(line));
    }

    fn beside_gutter(&mut self, parts: Shown) {
        let mut line = vec![(Style::new(), " ".repeat(GUTTER))];
        line.extend(parts);
        self.lines.push(line);
    }

    /// A roof, the name under it, and what else says who it is at the right.
    fn title(&mut self, name: &str, aside: &str) {
        self.lines.push(vec![(roof(), "▔".repeat(self.width))]);
        let (name, aside) = (safe(name).into_owned(), safe(aside).into_owned());
        let blank = self.width.saturating_sub(name.width() + aside.width() + 1);
        if blank == 0 {
            for (tone, text) in [(Tone::Strong, name), (Tone::Quiet, aside)] {
                self.lines.push(vec![(Style::new(), " ".into())]);
                self.words(style(tone), &text, 1);
            }
        } else {
            self.lines.push(vec![
                (Style::new(), " ".into()),
                (style(Tone::Strong), name),
                (style(Tone::Quiet), format!("{}{aside}", " ".repeat(blank))),
            ]);
        }
    }

    fn line(&mut self, line: &Line) {
        match &line.place {
            Place::Entry(label) => {
                let label = safe(label);
                let pad = GUTTER.saturating_sub(label.width() + 1);
                let shown = style(Tone::Label);
                self.lines.push(vec![(shown, format!(" {label}{}", " ".repeat(pad)))]);
                if pad == 0 {
                    self.lines.push(vec![(Style::new(), " ".repeat(GUTTER))]);
                }
                self.go_on(&line.words, GUTTER);
            }
            Place::Beside => self.said(&line.words, GUTTER, GUTTER),
            Place::Beneath => self.said(&line.words, GUTTER + 2, GUTTER + 4),
            Place::Paragraph => self.said(&line.words, 1, 3),
            Place::BeneathParagraph => self.said(&line.words, 5, 5),
        }
    }

    /// Words on a line of their own.
    fn said(&mut self, words: &[Piece], begin: usize, indent: usize) {
        self.lines.push(vec![(Style::new(), " ".repeat(begin))]);
        self.go_on(words, indent);
    }

    /// Words on the last line, and where it is full on others.
    fn go_on(&mut self, words: &[Piece], indent: usize) {
        for piece in words {
            match piece {
                Piece::Text(tone, text) => self.words(style(*tone), text, indent),
                Piece::Identity(text) => self.words(style(Tone::Quiet), text, indent),
                Piece::Sign(sign) | Piece::Mark(sign) => {
                    let (tone, sign) = signs::sign(*sign);
                    self.words(style(tone), sign, indent);
                }
                Piece::Bar(bar) => self.together(drawing::short_bar(bar), indent),
                Piece::Strip(banks) => {
                    self.together(drawing::strip(banks, self.room() / 2), indent);
                }
                Piece::Share { part, whole } => {
                    self.together(drawing::share(*part, *whole), indent);
                }
                Piece::Series(numbers) => self.together(drawing::series(numbers), indent),
            }
        }
    }

    /// What stands on one line.
    fn together(&mut self, parts: Shown, indent: usize) {
        let width: usize = parts.iter().map(|(_, part)| part.width()).sum();
        if self.used() + width > self.width && self.used() > indent {
            self.lines.push(vec![(Style::new(), " ".repeat(indent))]);
        }
        self.last().extend(parts);
    }

    fn used(&mut self) -> usize {
        self.last().iter().map(|(_, part)| part.width()).sum()
    }

    /// Adds words to the last line, going on below at the indent where it is full. A space that breaks no line
    /// ([`TOGETHER`]) is printed as any other.
    fn words(&mut self, style: Style, text: &str, indent: usize) {
        let text = safe(text).into_owned();
        let mut first = true;
        for word in text.split(' ').map(|word| word.replace(TOGETHER, " ")) {
            let word = word.as_str();
            let space = if first { "" } else { " " };
            first = false;
            let used = self.used();
            let at_start = self.last().iter().all(|(_, part)| part.trim().is_empty());
            let piece = if at_start { word.to_owned() } else { format!("{space}{word}") };
            if word.width() > self.width.saturating_sub(indent) {
                self.chopped(style, &piece, indent);
            } else if !at_start && used + piece.width() > self.width {
                self.lines.push(vec![(Style::new(), " ".repeat(indent))]);
                self.last().push((style, word.to_owned()));
            } else {
                self.last().push((style, piece));
            }
        }
    }

    /// A word that no line can hold, cut where lines end.
    fn chopped(&mut self, style: Style, word: &str, indent: usize) {
        let mut used = self.used();
        let mut chunk = String::new();
        for character in word.chars() {
            let width = character.width().unwrap_or(0);
            if used + width > self.width {
                self.last().push((style, std::mem::take(&mut chunk)));
                self.lines.push(vec![(Style::new(), " ".repeat(indent))]);
                used = indent;
            }
            chunk.push(character);
            used += width;
        }
        self.last().push((style, chunk));
    }

    fn last(&mut self) -> &mut Shown {
        if self.lines.is_empty() {
            self.lines.push(Vec::new());
        }
        let end = self.lines.len() - 1;
        // There is a last line: one was just pushed if there was none.
        #[allow(clippy::indexing_slicing)]
        &mut self.lines[end]
    }
}
