//! How far work on many subjects has come, on a terminal.

use std::{
    io::{IsTerminal, Write},
    sync::atomic::{AtomicBool, Ordering},
    time::{Duration, Instant},
};

use indicatif::{ProgressBar, ProgressStyle};

use crate::interrupt;

/// Whether a line of progress may stand on the terminal.
static STANDS: AtomicBool = AtomicBool::new(false);

/// A line of progress begins to be shown.
fn begins() {
    STANDS.store(true, Ordering::Relaxed);
    interrupt::watch();
}

/// Takes away a line of progress that an interrupt would leave.
pub(crate) fn clear() {
    if STANDS.load(Ordering::Relaxed) {
        let _ = write!(std::io::stderr(), "\r\x1b[2K");
    }
}

/// A bar on standard error, where that is a terminal and there is more than one thing to do.
pub(crate) struct Progress(Option<ProgressBar>);

impl Progress {
    pub(crate) fn new(steps: usize) -> Self {
        let shown = steps > 1 && std::io::stderr().is_terminal();
        Self(shown.then(|| {
            begins();
            let bar = ProgressBar::new(steps as u64);
            match ProgressStyle::with_template(" ▕{wide_bar}▏ {pos} of {len}") {
                Ok(style) => bar.with_style(style.progress_chars("█▌·")),
                // The template is a constant; should it ever be wrong, the usual bar is shown.
                Err(_) => bar,
            }
        }))
    }

    /// Does something that prints, with the bar out of its way.
    pub(crate) fn aside<R>(&self, print: impl FnOnce() -> R) -> R {
        match &self.0 {
            Some(bar) => bar.suspend(print),
            None => print(),
        }
    }

    /// One more is done.
    pub(crate) fn step(&self) {
        self.0.iter().for_each(|bar| bar.inc(1));
    }

    /// All is done.
    pub(crate) fn end(&self) {
        self.0.iter().for_each(ProgressBar::finish_and_clear);
    }
}

/// How long nothing is shown: what ends sooner needs no word.
const PATIENCE: Duration = Duration::from_millis(500);

/// How far work has come of which nobody knows how much there is, on standard error where that is a terminal.
pub(crate) struct Waiting {
    since: Instant,
    shown: Option<ProgressBar>,
}

impl Waiting {
    pub(crate) fn new() -> Self {
        Self { since: Instant::now(), shown: None }
    }

    /// What is to say now.
    pub(crate) fn says(&mut self, text: &str) {
        if self.since.elapsed() < PATIENCE || !std::io::stderr().is_terminal() {
            return;
        }
        let bar = self.shown.get_or_insert_with(|| {
            begins();
            let bar = ProgressBar::new_spinner();
            match ProgressStyle::with_template(" {spinner} {msg}") {
                Ok(style) => bar.with_style(style.tick_chars("▖▘▝▗ ")),
                // The template is a constant; should it ever be wrong, the usual one is shown.
                Err(_) => bar,
            }
        });
        bar.set_message(text.to_owned());
        bar.tick();
    }

    /// Does something that prints, with what is shown out of its way.
    pub(crate) fn aside<R>(&self, print: impl FnOnce() -> R) -> R {
        match &self.shown {
            Some(bar) => bar.suspend(print),
            None => print(),
        }
    }

    /// All is done.
    pub(crate) fn end(&mut self) {
        self.shown.iter().for_each(ProgressBar::finish_and_clear);
    }
}
