//! A page of text in the tool's own look: a gutter of labels, what is said beside it, tables and
//! drawings under it.

use unicode_width::UnicodeWidthStr;

use super::{table, terminal::safe};

/// How a piece of text is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Tone {
    /// As it is.
    Plain,
    /// What matters most.
    Strong,
    /// What matters least.
    Quiet,
    /// A label.
    Label,
    /// The line over a page.
    Roof,
    /// A value before.
    Before,
    /// A value after.
    After,
    /// Something wrong.
    Alarm,
}

/// A space between words that stand on one line.
pub(crate) const TOGETHER: char = '\u{a0}';

/// Columns of the gutter.
const GUTTER: usize = 12;

type Line = Vec<(Tone, String)>;

/// A page.
pub(crate) struct Sheet {
    width: usize,
    lines: Vec<Line>,
}

/// What is said beside a label, wrapped within the page's width.
pub(crate) struct Said<'a> {
    page: &'a mut Sheet,
    /// Columns before a line that goes on.
    indent: usize,
}

impl Sheet {
    pub(crate) fn new(width: usize) -> Self {
        Self { width, lines: Vec::new() }
    }

    pub(crate) fn lines(&self) -> &[Line] {
        &self.lines
    }

    /// Columns beside the gutter.
    pub(crate) fn room(&self) -> usize {
        self.width - GUTTER
    }

    /// An empty line.
    pub(crate) fn gap(&mut self) {
        self.lines.push(Vec::new());
    }

    /// The top of a page: a roof, the name under it, and what else says who it is at the right.
    pub(crate) fn roof(&mut self, name: &str, aside: &str) {
        self.lines.push(vec![(Tone::Roof, "▔".repeat(self.width))]);
        let (name, aside) = (safe(name).into_owned(), safe(aside).into_owned());
        let blank = self.width.saturating_sub(name.width() + aside.width() + 1);
        if blank == 0 {
            for (tone, text) in [(Tone::Strong, name), (Tone::Quiet, aside)] {
                self.lines.push(vec![(Tone::Plain, " ".into())]);
                self.words(tone, &text, 1);
            }
        } else {
            self.lines.push(vec![
                (Tone::Plain, " ".into()),
                (Tone::Strong, name),
                (Tone::Quiet, format!("{}{aside}", " ".repeat(blank))),
            ]);
        }
    }

    /// A label in the gutter; what is said goes beside it.
    pub(crate) fn entry(&mut self, label: &str) -> Said<'_> {
        let label = safe(label);
        let pad = GUTTER.saturating_sub(label.width() + 1);
        if pad == 0 {
            self.lines.push(vec![(Tone::Label, format!(" {label}"))]);
            self.lines.push(vec![(Tone::Plain, " ".repeat(GUTTER))]);
        } else {
            self.lines.push(vec![(Tone::Label, format!(" {label}{}", " ".repeat(pad)))]);
        }
        Said { page: self, indent: GUTTER }
    }

    /// Another line beside the gutter.
    pub(crate) fn beside(&mut self) -> Said<'_> {
        self.lines.push(vec![(Tone::Plain, " ".repeat(GUTTER))]);
        Said { page: self, indent: GUTTER }
    }

    /// A line beneath what was said beside the gutter: a name, and what it has to say.
    pub(crate) fn beneath<'a>(
        &mut self,
        name: &str,
        parts: impl IntoIterator<Item = (Tone, &'a str)>,
    ) {
        self.lines.push(vec![(Tone::Plain, " ".repeat(GUTTER + 2))]);
        self.words(Tone::Quiet, name, GUTTER + 2);
        for (tone, part) in parts {
            self.words(Tone::Plain, " ", GUTTER + 4);
            self.words(tone, part, GUTTER + 4);
        }
    }

    /// A line beside the gutter that is laid out already and not wrapped.
    pub(crate) fn drawn(&mut self, parts: impl IntoIterator<Item = (Tone, String)>) {
        let mut line = vec![(Tone::Plain, " ".repeat(GUTTER))];
        line.extend(parts);
        self.lines.push(line);
    }

    /// A line beside the gutter that begins with what is laid out already.
    pub(crate) fn drawn_and_said(
        &mut self,
        parts: impl IntoIterator<Item = (Tone, String)>,
    ) -> Said<'_> {
        self.drawn(parts);
        let drawn: usize = self.last().iter().map(|(_, part)| part.width()).sum();
        Said { page: self, indent: drawn.min(GUTTER + 30) }
    }

    /// A line over what belongs together.
    pub(crate) fn heading(&mut self, text: &str) {
        self.lines.push(vec![(Tone::Roof, "▔▔ ".into()), (Tone::Strong, text.to_owned())]);
    }

    /// Text over the page's width, wrapped.
    pub(crate) fn paragraph(&mut self, text: &str) {
        self.lines.push(vec![(Tone::Plain, " ".into())]);
        self.words(Tone::Plain, text, 1);
    }

    /// The beginning of a paragraph over the page's width.
    pub(crate) fn paragraph_of(&mut self, text: &str, tone: Tone) -> Said<'_> {
        self.lines.push(vec![(Tone::Plain, " ".into())]);
        self.words(tone, text, 3);
        Said { page: self, indent: 3 }
    }

    /// A line beneath the beginning of a paragraph.
    pub(crate) fn beneath_paragraph(&mut self) -> Said<'_> {
        self.lines.push(vec![(Tone::Plain, " ".repeat(5))]);
        Said { page: self, indent: 5 }
    }

    /// A command as it is typed.
    pub(crate) fn command(&mut self, line: &str) {
        self.lines.push(vec![(Tone::Label, " ❯ ".into()), (Tone::Strong, line.to_owned())]);
    }

    /// A table beside the gutter. Columns whose heading begins with `>` are set to the right.
    pub(crate) fn table(&mut self, heads: &[&str], rows: &[Vec<String>]) {
        let rows: Vec<Vec<String>> = rows
            .iter()
            .map(|row| row.iter().map(|cell| safe(cell).into_owned()).collect())
            .collect();
        for (index, line) in table::lay_out(heads, &rows, self.room()).into_iter().enumerate() {
            let tone = if index == 0 { Tone::Quiet } else { Tone::Plain };
            self.drawn([(tone, line)]);
        }
    }

    /// Adds words to the last line, going on below at the indent where it is full. A space that breaks no line
    /// ([`TOGETHER`]) is printed as any other.
    fn words(&mut self, tone: Tone, text: &str, indent: usize) {
        let text = safe(text).into_owned();
        let mut first = true;
        for word in text.split(' ').map(|word| word.replace(TOGETHER, " ")) {
            let word = word.as_str();
            let space = if first { "" } else { " " };
            first = false;
            let used: usize = self.last().iter().map(|(_, part)| part.width()).sum();
            let at_start = self.last().iter().all(|(_, part)| part.trim().is_empty());
            let piece = if at_start { word.to_owned() } else { format!("{space}{word}") };
            if word.width() > self.width - indent {
                self.chopped(tone, &piece, indent);
            } else if !at_start && used + piece.width() > self.width {
                self.lines.push(vec![(Tone::Plain, " ".repeat(indent))]);
                self.last().push((tone, word.to_owned()));
            } else {
                self.last().push((tone, piece));
            }
        }
    }

    /// A word that no line can hold, cut where lines end.
    fn chopped(&mut self, tone: Tone, word: &str, indent: usize) {
        let mut used: usize = self.last().iter().map(|(_, part)| part.width()).sum();
        let mut chunk = String::new();
        for character in word.chars() {
            let width = unicode_width::UnicodeWidthChar::width(character).unwrap_or(0);
            if used + width > self.width {
                self.last().push((tone, std::mem::take(&mut chunk)));
                self.lines.push(vec![(Tone::Plain, " ".repeat(indent))]);
                used = indent;
            }
            chunk.push(character);
            used += width;
        }
        self.last().push((tone, chunk));
    }

    fn last(&mut self) -> &mut Line {
        if self.lines.is_empty() {
            self.lines.push(Vec::new());
        }
        let end = self.lines.len() - 1;
        // There is a last line: one was just pushed if there was none.
        #[allow(clippy::indexing_slicing)]
        &mut self.lines[end]
    }
}

impl Said<'_> {
    pub(crate) fn tone(self, tone: Tone, text: impl AsRef<str>) -> Self {
        self.page.words(tone, text.as_ref(), self.indent);
        self
    }

    pub(crate) fn plain(self, text: impl AsRef<str>) -> Self {
        self.tone(Tone::Plain, text)
    }

    pub(crate) fn strong(self, text: impl AsRef<str>) -> Self {
        self.tone(Tone::Strong, text)
    }

    pub(crate) fn quiet(self, text: impl AsRef<str>) -> Self {
        self.tone(Tone::Quiet, text)
    }
}
