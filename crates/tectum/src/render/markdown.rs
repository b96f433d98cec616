//! A page as Markdown (CommonMark with the tables that code hosts show), for a ticket, a wiki, a repository. Drawings
//! are text in a fence; nothing from a machine is markup, a link, a mention or a reference.

use super::{plain, safe, text};
use crate::page::{Block, Cell, Line, Page, Piece, Place, Sign, TOGETHER, Table, Tone};

/// Columns of a drawing.
const WIDTH: usize = 100;

/// A page as Markdown.
pub(crate) fn page(page: &Page) -> String {
    let mut out = Out { text: String::new(), open: Open::Nothing };
    for block in page.blocks() {
        match block {
            Block::Section(_) | Block::Findings(_) | Block::Tree(_) | Block::Gap => {}
            Block::Title { name, aside } => {
                out.apart();
                out.text.push_str(&format!("# {}\n", escaped(name)));
                if !aside.is_empty() {
                    out.apart();
                    out.text.push_str(&format!("{}\n", escaped(aside)));
                }
            }
            Block::Heading(heading) => {
                out.apart();
                out.text.push_str(&format!("## {}\n", escaped(heading)));
            }
            Block::Command(command) => out.fenced(&safe(command)),
            Block::Line(line) => out.line(line),
            Block::Table(table) => out.table(table),
            Block::Card(card) => {
                out.apart();
                out.text.push_str("| | |\n|---|---|\n");
                for (label, value) in &card.rows {
                    out.text.push_str(&format!("| {label} | {} |\n", escaped(value)));
                }
            }
            Block::Bar(_) | Block::Slots(_) | Block::Packages(_) | Block::Fixed(_) => {
                let drawn = text::bare(&[block], WIDTH);
                let drawn: Vec<&str> =
                    drawn.lines().map(|line| line.get(text::GUTTER..).unwrap_or(line)).collect();
                out.fenced(&drawn.join("\n"));
            }
        }
    }
    out.text
}

/// What was written last, so that what belongs to it is written as its part.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Open {
    Nothing,
    Entry,
    Paragraph,
}

struct Out {
    text: String,
    open: Open,
}

impl Out {
    /// An empty line before what is a block of its own.
    fn apart(&mut self) {
        if !self.text.is_empty() && !self.text.ends_with("\n\n") {
            self.text.push('\n');
        }
        self.open = Open::Nothing;
    }

    fn fenced(&mut self, drawn: &str) {
        self.apart();
        // A fence longer than any that what is drawn could hold.
        let longest = drawn.split(|it| it != '`').map(str::len).max().unwrap_or(0);
        let fence = "`".repeat(longest.max(2) + 1);
        self.text.push_str(&format!("{fence}text\n{drawn}\n{fence}\n"));
    }

    fn line(&mut self, line: &Line) {
        let words = match line.place {
            Place::Entry(_) => words(&line.words),
            _ => at_the_start(words(&line.words)),
        };
        match (&line.place, self.open) {
            (Place::Entry(label), open) => {
                if open != Open::Entry {
                    self.apart();
                }
                self.text.push_str(&format!("- **{}** {words}\n", escaped(label)));
                self.open = Open::Entry;
            }
            (Place::Beside, Open::Entry) => self.text.push_str(&format!("  - {words}\n")),
            (Place::Beneath, Open::Entry) => self.text.push_str(&format!("    - {words}\n")),
            (Place::BeneathParagraph | Place::Beside | Place::Beneath, Open::Paragraph) => {
                self.text.push_str(&format!("- {words}\n"));
            }
            (Place::Beside | Place::Beneath | Place::BeneathParagraph, Open::Nothing) => {
                self.apart();
                self.text.push_str(&format!("- {words}\n"));
                self.open = Open::Paragraph;
            }
            (Place::Paragraph, _) | (Place::BeneathParagraph, Open::Entry) => {
                self.apart();
                self.text.push_str(&format!("{words}\n\n"));
                self.open = Open::Paragraph;
            }
        }
    }

    fn table(&mut self, table: &Table) {
        let said = |at: usize| {
            let mut cells = table.groups.iter().flat_map(|group| &group.rows);
            cells.any(|row| row.get(at).is_some_and(|it| plain::cell(it).is_some()))
        };
        let kept: Vec<usize> =
            (0..table.columns.len()).filter(|at| *at == 0 || said(*at)).collect();
        let columns: Vec<_> = kept.iter().filter_map(|at| table.columns.get(*at)).collect();
        let titled = table.groups.iter().any(|group| !group.title.is_empty());
        for (number, group) in table.groups.iter().enumerate() {
            if titled && !group.title.is_empty() {
                self.apart();
                self.text.push_str(&format!("{}\n", words(&group.title)));
            }
            if let Some(bar) = &group.bar {
                let drawn = text::bare(&[&Block::Bar(bar.clone())], WIDTH);
                let drawn: Vec<&str> =
                    drawn.lines().map(|line| line.get(text::GUTTER..).unwrap_or(line)).collect();
                self.fenced(&drawn.join("\n"));
            }
            // Each group of several has a table of its own.
            if titled || number == 0 {
                self.apart();
                let heads = columns.iter().map(|column| escaped(&column.head));
                self.text.push_str(&format!("| {} |\n", heads.collect::<Vec<_>>().join(" | ")));
                let lines = columns.iter().map(|it| if it.numbers { "---:" } else { "---" });
                self.text.push_str(&format!("|{}|\n", lines.collect::<Vec<_>>().join("|")));
            }
            for row in &group.rows {
                let cells = kept.iter().filter_map(|at| row.get(*at)).map(cell);
                self.text.push_str(&format!("| {} |\n", cells.collect::<Vec<_>>().join(" | ")));
            }
        }
        self.open = Open::Nothing;
    }
}

fn cell(cell: &Cell) -> String {
    match cell {
        Cell::Text(text) => escaped(text),
        other => plain::cell(other).map(|text| escaped(&text)).unwrap_or_default(),
    }
}

fn words(pieces: &[Piece]) -> String {
    let mut text = String::new();
    for piece in pieces {
        match piece {
            Piece::Text(tone, own) => {
                let own = own.replace(TOGETHER, " ");
                let bare = own.trim();
                let (before, after) = match bare {
                    "" => (own.as_str(), ""),
                    bare => own.split_once(bare).unwrap_or_default(),
                };
                text.push_str(before);
                match tone {
                    Tone::Strong | Tone::Alarm if !bare.is_empty() => {
                        text.push_str(&format!("**{}**", escaped(bare)));
                    }
                    _ => text.push_str(&escaped(bare)),
                }
                text.push_str(after);
            }
            Piece::Identity(own) => text.push_str(&format!("`{}`", code(own))),
            Piece::Sign(Sign::Action) => text.push_str("→ "),
            Piece::Sign(Sign::Becomes) => text.push_str(" → "),
            Piece::Sign(Sign::Quote) => {}
            Piece::Sign(sign) => text.push_str(&escaped(&plain::words(&[Piece::Sign(*sign)]))),
            other => text.push_str(&escaped(&plain::words(std::slice::from_ref(other)))),
        }
    }
    text.trim_end().to_owned()
}

/// A text within ticks: it holds none of them.
fn code(text: &str) -> String {
    safe(text).replace('`', "'")
}

/// A text that is nothing but text to whatever shows Markdown: what steers is shown as its number, signs of markup
/// are escaped, and what would be a tag, a mention, a reference or a link is taken apart.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in safe(text).chars() {
        match character {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            // Those that a backslash does not keep from being found by the host.
            '@' => out.push_str("&#64;"),
            '#' => out.push_str("&#35;"),
            '\\' | '`' | '*' | '_' | '[' | ']' | '|' | '~' | '$' | '^' => {
                out.push('\\');
                out.push(character);
            }
            plain => out.push(plain),
        }
    }
    // A bare address would become a link.
    let mut out = out.replace("://", "&#58;//").replace("www.", "www&#46;");
    while out.contains("  ") {
        out = out.replace("  ", " ");
    }
    out
}

/// A line's text that is no list, rule or heading by what it begins with.
fn at_the_start(out: String) -> String {
    match out.chars().next() {
        Some('-' | '+' | '=') => format!("\\{out}"),
        Some(digit) if digit.is_ascii_digit() => {
            let end = out.find(|it: char| !it.is_ascii_digit()).unwrap_or(out.len());
            match out.get(end..).and_then(|rest| rest.chars().next()) {
                Some('.' | ')') => {
                    let (number, rest) = out.split_at(end);
                    format!("{number}\\{rest}")
                }
                _ => out,
            }
        }
        _ => out,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("<script>", "&lt;script&gt;")]
    #[case("a|b", "a\\|b")]
    #[case("@root", "&#64;root")]
    #[case("#12", "&#35;12")]
    #[case("https://x.invalid", "https&#58;//x.invalid")]
    #[case("- item", "\\- item")]
    #[case("1. item", "1\\. item")]
    #[case("![x](y)", "!\\[x\\](y)")]
    #[case("two\nlines", "two\\\\u{a}lines")]
    fn no_text_is_markup(#[case] text: &str, #[case] shown: &str) {
        assert_eq!(at_the_start(escaped(text)), shown);
    }
}
