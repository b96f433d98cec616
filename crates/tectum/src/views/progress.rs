//! How far work on many subjects has come, on a terminal.

use std::io::IsTerminal;

use indicatif::{ProgressBar, ProgressStyle};

/// A bar on standard error, where that is a terminal and there is more than one thing to do.
pub(crate) struct Progress(Option<ProgressBar>);

impl Progress {
    pub(crate) fn new(steps: usize) -> Self {
        let shown = steps > 1 && std::io::stderr().is_terminal();
        Self(shown.then(|| {
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
