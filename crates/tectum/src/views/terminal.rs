//! Standard output and standard error: colour, width, and text made safe.

use std::{
    borrow::Cow,
    io::{self, IsTerminal, Write},
};

use anstream::{AutoStream, ColorChoice, adapter::strip_str};
use anstyle::{AnsiColor, Style};

use tectum_report::json::print::is_harmful;

use super::{
    page::{Sheet, Tone},
    pager,
};
use crate::{args::Color, exit::Failure};

/// The widest page: longer lines are hard to read.
const WIDEST: usize = 110;
/// The width where the output is no terminal.
const USUAL: usize = 100;
/// The narrowest width that pages are laid out for.
const NARROWEST: usize = 40;

/// Where results and remarks go.
pub(crate) struct Terminal {
    out: AutoStream<io::Stdout>,
    err: AutoStream<io::Stderr>,
    width: usize,
    /// Lines of the terminal that the output goes to, where long answers may be paged.
    height: Option<usize>,
}

impl Terminal {
    pub(crate) fn new(color: Color) -> Self {
        let choice = match color {
            Color::Auto => ColorChoice::Auto,
            Color::Always => ColorChoice::Always,
            Color::Never => ColorChoice::Never,
        };
        let measured = io::stdout()
            .is_terminal()
            .then(terminal_size::terminal_size)
            .flatten()
            .map(|(width, height)| (usize::from(width.0), usize::from(height.0)));
        // COLUMNS is how a user says the width where none can be measured.
        let told = || std::env::var("COLUMNS").ok()?.parse().ok();
        let width = measured.map(|(width, _)| width).or_else(told).unwrap_or(USUAL);
        Self {
            out: AutoStream::new(io::stdout(), choice),
            err: AutoStream::new(io::stderr(), choice),
            width: width.clamp(NARROWEST, WIDEST),
            height: measured.map(|(_, height)| height),
        }
    }

    /// Prints everything straight on from here.
    pub(crate) fn unpaged(&mut self) {
        self.height = None;
    }

    /// Columns that a page may use.
    pub(crate) fn width(&self) -> usize {
        self.width
    }

    /// Standard output, for what is not a page.
    pub(crate) fn out(&mut self) -> &mut impl Write {
        &mut self.out
    }

    /// Standard output, for bytes that are no text.
    pub(crate) fn out_raw(&mut self) -> io::Stdout {
        io::stdout()
    }

    /// Prints a page on standard error.
    pub(crate) fn remark_page(&mut self, page: &Sheet) {
        let text = render(page);
        let _ = self.err.write_all(text.as_bytes());
    }

    /// Prints a page.
    pub(crate) fn print(&mut self, page: &Sheet) -> io::Result<()> {
        let text = render(page);
        self.out.write_all(text.as_bytes())?;
        self.out.flush()
    }

    /// Prints a page that may be long: where it is longer than the terminal, a pager shows it.
    pub(crate) fn print_paged(&mut self, page: &Sheet) -> io::Result<()> {
        if self.height.is_none_or(|height| page.lines().len() < height) {
            return self.print(page);
        }
        let text = render(page);
        let shown = match self.out.current_choice() {
            ColorChoice::Never => pager::show(&strip_str(&text).to_string()),
            _ => pager::show(&text),
        };
        if shown { Ok(()) } else { self.print(page) }
    }

    /// Says something on standard error. A standard error that is closed hears nothing.
    pub(crate) fn remark(&mut self, said: &str) {
        let style = style(Tone::Quiet);
        let _ = writeln!(self.err, "{style}tectum: {}{style:#}", safe(said));
    }

    /// Says on standard error why a command failed.
    pub(crate) fn complain(&mut self, failure: &(dyn std::error::Error + 'static)) {
        let style = style(Tone::Alarm);
        let chain = std::iter::successors(Some(failure), |error| error.source());
        let said: Vec<String> = chain.map(words).collect();
        let _ = writeln!(self.err, "{style}tectum:{style:#} {}", said.join(": "));
    }
}

/// What a failure says. A mistake in a file is shown over several lines, each of which is made safe; no line
/// end of anything else is one here.
fn words(failure: &(dyn std::error::Error + 'static)) -> String {
    let whole = failure.to_string();
    match failure.downcast_ref::<Failure>() {
        Some(Failure::Expectations(_)) => {
            whole.lines().map(|line| safe(line).into_owned()).collect::<Vec<_>>().join("\n")
        }
        _ => safe(&whole).into_owned(),
    }
}

fn render(page: &Sheet) -> String {
    let mut text = String::new();
    for line in page.lines() {
        let mut shown = String::new();
        for (tone, part) in line {
            let style = style(*tone);
            let part = safe(part);
            shown.push_str(&format!("{style}{part}{style:#}"));
        }
        text.push_str(shown.trim_end());
        text.push('\n');
    }
    text
}

fn style(tone: Tone) -> Style {
    match tone {
        Tone::Plain => Style::new(),
        Tone::Strong => Style::new().bold(),
        Tone::Quiet => Style::new().dimmed(),
        Tone::Label => AnsiColor::Cyan.on_default(),
        Tone::Roof => AnsiColor::Cyan.on_default().bold(),
        Tone::Before => AnsiColor::Yellow.on_default(),
        Tone::After => AnsiColor::Green.on_default(),
        Tone::Alarm => AnsiColor::Red.on_default().bold(),
    }
}

/// Text that does nothing to a terminal: control characters, and those that turn the direction of
/// writing, are shown as `\u{…}`.
pub(crate) fn safe(text: &str) -> Cow<'_, str> {
    if !text.contains(is_harmful) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 16);
    for character in text.chars() {
        if is_harmful(character) {
            shown.extend(character.escape_unicode());
        } else {
            shown.push(character);
        }
    }
    Cow::Owned(shown)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("plain é ▇", "plain é ▇")]
    #[case("\u{1b}[31mred\u{7}", "\\u{1b}[31mred\\u{7}")]
    #[case("a\nb\tc", "a\\u{a}b\\u{9}c")]
    #[case("\u{9b}0m", "\\u{9b}0m")]
    #[case("user\u{202e}txt", "user\\u{202e}txt")]
    fn nothing_that_steers_a_terminal_passes(#[case] text: &str, #[case] shown: &str) {
        assert_eq!(safe(text), shown);
    }
}
