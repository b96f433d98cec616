//! Waiting for a subject no longer than it is worth.

use std::{
    io::{self, Read},
    sync::{
        Arc,
        atomic::{AtomicBool, AtomicU64, Ordering},
        mpsc::{self, RecvTimeoutError},
    },
    thread,
    time::Duration,
};

use tectum_survey::own_time::{OwnTime, Still};

use crate::args::Patience;

/// How often to look whether anything moved.
const TICK: Duration = Duration::from_millis(20);

/// What a piece of work has got on with.
#[derive(Debug, Clone, Default)]
pub(crate) struct Progress(Arc<State>);

#[derive(Debug, Default)]
struct State {
    moved: AtomicU64,
    program: AtomicBool,
}

impl Progress {
    /// Something moved.
    fn moved(&self) {
        self.0.moved.fetch_add(1, Ordering::Relaxed);
    }

    /// From now on another program is waited for, which may have its own work to do.
    pub(crate) fn waits_for_a_program(&self) {
        self.0.program.store(true, Ordering::Relaxed);
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
/// Nothing comes of work that was given up. What takes time without waiting does not belong here.
pub(crate) fn within<T: Send + 'static>(
    patience: &Patience,
    work: impl FnOnce(&Progress) -> T + Send + 'static,
) -> Option<T> {
    let progress = Progress::default();
    let (say, heard) = mpsc::channel();
    let own = progress.clone();
    thread::Builder::new()
        .name("opens".to_owned())
        .spawn(move || {
            // Nobody listens to work that was given up.
            let _ = say.send(work(&own));
        })
        .ok()?;
    let (mut clock, mut still) = (OwnTime::begin(), Still::default());
    loop {
        match heard.recv_timeout(TICK) {
            Ok(result) => return Some(result),
            Err(RecvTimeoutError::Disconnected) => return None,
            Err(RecvTimeoutError::Timeout) => {
                let program = progress.0.program.load(Ordering::Relaxed);
                let limit = if program { patience.time_limit } else { patience.deadline };
                let at = (progress.0.moved.load(Ordering::Relaxed), program);
                if still.at(at, clock.look()) > limit {
                    return None;
                }
            }
        }
    }
}
