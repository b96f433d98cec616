//! Time that this program itself had, for who waits for answers.
//!
//! A program that is stopped (`^Z`, a virtual machine that is paused) or starved of processor time
//! sees hours pass between two instructions. That is no reason to give up on a file that would have
//! answered at once.

use std::{
    sync::mpsc::{Receiver, RecvTimeoutError},
    time::{Duration, Instant},
};

/// Of what passes between two looks, no more than this is held against who is waited for.
const MOST_A_LOOK: Duration = Duration::from_millis(250);

/// A clock that moves on when somebody looks at it, and never far at once.
#[derive(Debug)]
pub struct OwnTime {
    now: Duration,
    looked: Instant,
}

impl OwnTime {
    /// A clock at zero.
    pub fn begin() -> Self {
        Self { now: Duration::ZERO, looked: Instant::now() }
    }

    /// The time since it began, without what passed unseen. It is to be asked at least four times a second.
    pub fn look(&mut self) -> Duration {
        let at = Instant::now();
        self.passes(at.saturating_duration_since(self.looked));
        self.looked = at;
        self.now
    }

    fn passes(&mut self, time: Duration) {
        self.now += time.min(MOST_A_LOOK);
    }
}

/// How often it is looked at the clock while something is waited for.
const TICK: Duration = Duration::from_millis(25);

/// What is said next, if it is said within so much of this program's own time.
///
/// # Errors
/// Nothing was said, or nobody is there to say it.
pub fn said_within<T>(heard: &Receiver<T>, limit: Duration) -> Result<T, RecvTimeoutError> {
    let mut clock = OwnTime::begin();
    loop {
        match heard.recv_timeout(TICK.min(limit)) {
            Err(RecvTimeoutError::Timeout) if clock.look() < limit => {}
            said => return said,
        }
    }
}

/// How long something has stood as it stands.
#[derive(Debug)]
pub struct Still<T> {
    at: Option<T>,
    since: Duration,
}

impl<T> Default for Still<T> {
    fn default() -> Self {
        Self { at: None, since: Duration::ZERO }
    }
}

impl<T: PartialEq> Still<T> {
    /// How long it has been seen at this, by a look at a clock.
    pub fn at(&mut self, at: T, now: Duration) -> Duration {
        if self.at.as_ref() != Some(&at) {
            (self.at, self.since) = (Some(at), now);
        }
        now.saturating_sub(self.since)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_passes_unseen_is_not_held_against_anybody() {
        let mut clock = OwnTime::begin();
        clock.passes(Duration::from_millis(25));
        clock.passes(Duration::from_secs(3600));
        assert_eq!(clock.now, Duration::from_millis(275));
        assert!(clock.look() >= clock.now);
    }

    #[test]
    fn what_moves_is_not_still() {
        let mut still = Still::default();
        let times = [(0, 7), (10, 7), (20, 8), (25, 8), (60, 7)];
        let seen = times.map(|(now, at)| still.at(at, Duration::from_secs(now)).as_secs());
        assert_eq!(seen, [0, 10, 0, 5, 0]);
    }
}
