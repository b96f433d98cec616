//! Waiting for a subject no longer than it is worth.

use std::{
    io::{self, Read},
    sync::{
        Arc, Mutex, PoisonError,
        mpsc::{self, RecvTimeoutError},
    },
    thread,
    time::{Duration, Instant},
};

use crate::args::Patience;

/// How often to look whether anything moved.
const TICK: Duration = Duration::from_millis(20);

/// What a piece of work has got on with.
#[derive(Debug, Clone)]
pub(crate) struct Progress {
    state: Arc<Mutex<(Instant, bool)>>,
}

impl Progress {
    fn new() -> Self {
        Self { state: Arc::new(Mutex::new((Instant::now(), false))) }
    }

    fn update(&self, change: impl FnOnce(&mut (Instant, bool))) -> (Instant, bool) {
        let mut state = self.state.lock().unwrap_or_else(PoisonError::into_inner);
        change(&mut state);
        *state
    }

    /// Something moved.
    fn moved(&self) {
        self.update(|state| state.0 = Instant::now());
    }

    /// From now on another program is waited for, which may have its own work to do.
    pub(crate) fn waits_for_a_program(&self) {
        self.update(|state| state.1 = true);
    }

    /// A reader each answer of which is progress.
    pub(crate) fn reading<R: Read>(&self, reader: R) -> Reading<R> {
        Reading { reader, progress: self.clone() }
    }
}

/// See [`Progress::reading`].
pub(crate) struct Reading<R> {
    reader: R,
    progress: Progress,
}

impl<R: Read> Read for Reading<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.reader.read(buffer)?;
        self.progress.moved();
        Ok(count)
    }
}

/// Does work that may wait for a file, in a thread that is left to itself when nothing has moved for
/// as long as one access may take; where another program is waited for, for as long as a survey may.
/// Nothing comes of work that was given up.
pub(crate) fn within<T: Send + 'static>(
    patience: &Patience,
    work: impl FnOnce(&Progress) -> T + Send + 'static,
) -> Option<T> {
    let progress = Progress::new();
    let (say, heard) = mpsc::channel();
    let own = progress.clone();
    thread::Builder::new()
        .name("opens".to_owned())
        .spawn(move || {
            // Nobody listens to work that was given up.
            let _ = say.send(work(&own));
        })
        .ok()?;
    loop {
        match heard.recv_timeout(TICK) {
            Ok(result) => return Some(result),
            Err(RecvTimeoutError::Disconnected) => return None,
            Err(RecvTimeoutError::Timeout) => {
                let (since, program) = progress.update(|_| {});
                let limit = if program { patience.time_limit } else { patience.deadline };
                if since.elapsed() > limit {
                    return None;
                }
            }
        }
    }
}
