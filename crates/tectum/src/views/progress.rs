//! How far work on many subjects has come, on a terminal.
//!
//! A bar of a few lines and not a crate's: those work out how long is left, for which they need the library of
//! mathematics, and that would be loaded at every start of a program that mostly draws no bar.

use std::{
    io::{IsTerminal, Write, stderr},
    sync::{
        Mutex, MutexGuard, PoisonError,
        atomic::{AtomicBool, Ordering},
    },
    time::{Duration, Instant},
};

use terminal_size::terminal_size_of;

use crate::interrupt;

/// Whether a line of progress may stand on the terminal.
static STANDS: AtomicBool = AtomicBool::new(false);

/// A line of progress begins to be shown.
fn begins() {
    STANDS.store(true, Ordering::Relaxed);
    interrupt::watch();
}

/// Takes away a line of progress, one that an interrupt would leave too.
pub(crate) fn clear() {
    if STANDS.load(Ordering::Relaxed) {
        let _ = write!(stderr(), "\r\x1b[2K");
    }
}

/// How wide the terminal is that lines of progress stand on, less the column that a line must leave free.
fn width() -> usize {
    terminal_size_of(stderr()).map_or(79, |(width, _)| usize::from(width.0).saturating_sub(1))
}

/// A line of progress, as it is shown at the moment.
#[derive(Default)]
struct Line {
    shown: Option<Instant>,
}

impl Line {
    /// How long a line stands at least: nobody reads faster, and a terminal is slow.
    const STANDS_FOR: Duration = Duration::from_millis(50);

    /// Shows a line in place of the one before, if that has stood long enough.
    fn show(&mut self, line: impl FnOnce(usize) -> String) {
        if self.shown.is_none_or(|at| at.elapsed() >= Self::STANDS_FOR) {
            self.shown = Some(Instant::now());
            let _ = write!(stderr(), "\r\x1b[2K{}", line(width()));
        }
    }

    /// Takes it away; the next one is shown at once.
    fn take_away(&mut self) {
        if self.shown.take().is_some() {
            clear();
        }
    }
}

/// A bar on standard error, where that is a terminal and there is more than one thing to do.
pub(crate) struct Progress(Option<Mutex<Bar>>);

/// What a bar shows.
struct Bar {
    done: usize,
    steps: usize,
    line: Line,
}

impl Bar {
    fn show(&mut self) {
        let (done, steps) = (self.done, self.steps);
        self.line.show(|width| bar(done, steps, width));
    }
}

/// A bar as wide as it can be, and numbers behind it; the numbers alone where there is no room for one.
fn bar(done: usize, steps: usize, width: usize) -> String {
    let numbers = format!("{done} of {steps}");
    let Some(room) = width.checked_sub(numbers.len() + 4).filter(|room| *room > 0) else {
        return numbers.chars().take(width).collect();
    };
    // Halves of a cell are told apart.
    let halves = (2 * room * done.min(steps)).checked_div(steps).unwrap_or_default();
    let (whole, half) = (halves / 2, halves % 2);
    let rest = room - whole - half;
    format!(" ▕{}{}{}▏ {numbers}", "█".repeat(whole), "▌".repeat(half), "·".repeat(rest))
}

impl Progress {
    pub(crate) fn new(steps: usize) -> Self {
        let shown = steps > 1 && stderr().is_terminal();
        Self(shown.then(|| {
            begins();
            Mutex::new(Bar { done: 0, steps, line: Line::default() })
        }))
    }

    fn bar(&self) -> Option<MutexGuard<'_, Bar>> {
        // A thread that died with it in hand has at most counted one thing less.
        self.0.as_ref().map(|bar| bar.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Does something that prints, with the bar out of its way.
    pub(crate) fn aside<R>(&self, print: impl FnOnce() -> R) -> R {
        let Some(mut bar) = self.bar() else { return print() };
        bar.line.take_away();
        let printed = print();
        bar.show();
        printed
    }

    /// One more is done.
    pub(crate) fn step(&self) {
        if let Some(mut bar) = self.bar() {
            bar.done += 1;
            bar.show();
        }
    }

    /// All is done.
    pub(crate) fn end(&self) {
        if let Some(mut bar) = self.bar() {
            bar.line.take_away();
        }
    }
}

/// How long nothing is shown: what ends sooner needs no word.
const PATIENCE: Duration = Duration::from_millis(500);

/// How far work has come of which nobody knows how much there is, on standard error where that is a terminal.
pub(crate) struct Waiting {
    since: Instant,
    shown: Option<Turning>,
}

/// A sign that turns while something is waited for.
#[derive(Default)]
struct Turning {
    turned: usize,
    line: Line,
}

impl Turning {
    const SIGNS: [char; 4] = ['▖', '▘', '▝', '▗'];

    fn show(&mut self, text: &str) {
        let turned = &mut self.turned;
        self.line.show(|width| {
            *turned += 1;
            let sign = Self::SIGNS.iter().cycle().nth(*turned % Self::SIGNS.len());
            let line = format!(" {} {text}", sign.unwrap_or(&' '));
            line.chars().take(width).collect()
        });
    }
}

impl Waiting {
    pub(crate) fn new() -> Self {
        Self { since: Instant::now(), shown: None }
    }

    /// What is to say now.
    pub(crate) fn says(&mut self, text: &str) {
        if self.since.elapsed() < PATIENCE || !stderr().is_terminal() {
            return;
        }
        let turning = self.shown.get_or_insert_with(|| {
            begins();
            Turning::default()
        });
        turning.show(text);
    }

    /// Does something that prints, with what is shown out of its way.
    pub(crate) fn aside<R>(&mut self, print: impl FnOnce() -> R) -> R {
        if let Some(turning) = &mut self.shown {
            turning.line.take_away();
        }
        print()
    }

    /// All is done.
    pub(crate) fn end(&mut self) {
        if let Some(mut turning) = self.shown.take() {
            turning.line.take_away();
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;
    use unicode_width::UnicodeWidthStr;

    use super::*;

    #[rstest]
    #[case(0, 4, 18, " ▕········▏ 0 of 4")]
    #[case(1, 4, 18, " ▕██······▏ 1 of 4")]
    #[case(3, 16, 19, " ▕█▌······▏ 3 of 16")]
    #[case(4, 4, 18, " ▕████████▏ 4 of 4")]
    #[case(4, 4, 10, "4 of 4")]
    #[case(4, 4, 3, "4 o")]
    #[case(4, 4, 0, "")]
    fn a_bar_is_as_wide_as_there_is_room(
        #[case] done: usize,
        #[case] steps: usize,
        #[case] width: usize,
        #[case] shown: &str,
    ) {
        assert_eq!(bar(done, steps, width), shown);
    }

    proptest! {
        #[test]
        fn a_bar_never_wraps(done in 0usize..2000, steps in 0usize..2000, width in 0usize..300) {
            let shown = bar(done, steps, width);
            prop_assert!(shown.width() <= width, "{shown:?}");
            let filled = shown.chars().filter(|sign| *sign == '█').count();
            let more = bar(done + 1, steps, width).chars().filter(|sign| *sign == '█').count();
            prop_assert!(filled <= more + 1, "what is done grows, but for a digit more");
        }
    }
}
