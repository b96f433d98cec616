//! Standard output and standard error: colour, width, and text made safe.

use crate::page::{Page, Tone};
use std::io::{self, IsTerminal, Write};

use anstream::{AutoStream, ColorChoice, adapter::strip_str};

use super::pager;
use crate::{
    args::Color,
    exit::Failure,
    render::{
        plain, safe,
        text::{coloured, complaint, style},
    },
};

/// The widest page.
const WIDEST: usize = 200;
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
    /// Whether pages are written as plain lines.
    plain: bool,
}

impl Terminal {
    pub(crate) fn new(color: Color, plain: bool) -> Self {
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
            plain,
        }
    }

    /// Prints everything straight on from here.
    #[cfg(feature = "demo")]
    pub(crate) fn unpaged(&mut self) {
        self.height = None;
    }

    /// Whether pages are written as plain lines.
    pub(crate) fn is_plain(&self) -> bool {
        self.plain
    }

    /// A page as it is printed, without colours.
    pub(crate) fn uncoloured(&self, page: &Page) -> String {
        strip_str(&coloured(page, self.width)).to_string()
    }

    fn text(&self, page: &Page) -> String {
        if self.plain { plain::page(page) } else { coloured(page, self.width) }
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
    pub(crate) fn remark_page(&mut self, page: &Page) {
        let text = self.text(page);
        let _ = self.err.write_all(text.as_bytes());
    }

    /// Prints a page.
    pub(crate) fn print(&mut self, page: &Page) -> io::Result<()> {
        let text = self.text(page);
        self.out.write_all(text.as_bytes())?;
        self.out.flush()
    }

    /// Prints a page that may be long: where it is longer than the terminal, a pager shows it.
    pub(crate) fn print_paged(&mut self, page: &Page) -> io::Result<()> {
        let text = self.text(page);
        if self.height.is_none_or(|height| text.lines().count() < height) {
            self.out.write_all(text.as_bytes())?;
            return self.out.flush();
        }
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
        let style = complaint();
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
