//! The lock of an archive in a folder: one writes, and whoever reads knows whether somebody wrote since.

use std::{
    fs::File,
    io::{Read, Seek, SeekFrom, Write},
    path::Path,
    thread,
    time::{Duration, Instant},
};

use rustix::fs::{FlockOperation, Mode, OFlags};
use tectum_report::save::step::{Step, step};

use super::layout::LOCK;
use crate::store::StoreError;

/// How long another writer is waited for.
const PATIENCE: Duration = Duration::from_secs(120);

/// How many were saved so far; nothing while somebody saves.
pub(super) fn saved_by_nobody_now(root: &Path) -> Option<u64> {
    let flags = OFlags::RDONLY | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let file = rustix::fs::open(root.join(LOCK), flags, Mode::empty()).ok()?;
    rustix::fs::flock(&file, FlockOperation::NonBlockingLockShared).ok()?;
    Held { file: file.into() }.saved()
}

/// The archive, held against other writers until this goes.
pub(super) struct Held {
    file: File,
}

impl Held {
    /// Holds the archive in a folder.
    pub(super) fn of(root: &Path) -> Result<Self, StoreError> {
        let path = root.join(LOCK);
        let failed = |cause| StoreError::Io { doing: "hold", path: path.clone(), cause };
        step(Step::Hold).map_err(failed)?;
        let flags = OFlags::RDWR | OFlags::CREATE | OFlags::NOFOLLOW | OFlags::CLOEXEC;
        let file = rustix::fs::open(&path, flags, Mode::RUSR | Mode::WUSR)
            .map_err(|cause| failed(cause.into()))?;
        let file = File::from(file);
        let begun = Instant::now();
        loop {
            match rustix::fs::flock(&file, FlockOperation::NonBlockingLockExclusive) {
                Ok(()) => return Ok(Self { file }),
                Err(rustix::io::Errno::WOULDBLOCK | rustix::io::Errno::INTR) => {}
                Err(cause) => return Err(failed(cause.into())),
            }
            if begun.elapsed() > PATIENCE {
                let seconds = PATIENCE.as_secs();
                return Err(StoreError::Held { location: root.display().to_string(), seconds });
            }
            thread::sleep(Duration::from_millis(5));
        }
    }

    /// How many were saved so far, by anybody: where nobody else saved, an index is still right.
    pub(super) fn saved(&mut self) -> Option<u64> {
        let mut text = String::new();
        self.file.seek(SeekFrom::Start(0)).ok()?;
        (&mut self.file).take(32).read_to_string(&mut text).ok()?;
        text.trim().parse().ok()
    }

    /// Counts one more.
    pub(super) fn count_one_more(&mut self) {
        let saved = self.saved().unwrap_or(0) + 1;
        self.count(saved);
    }

    /// Says how many there are now. Where this fails, others look at the files again, which costs time alone.
    pub(super) fn count(&mut self, saved: u64) {
        let _ = self
            .file
            .seek(SeekFrom::Start(0))
            .and_then(|_| self.file.write_all(format!("{saved:<20}\n").as_bytes()));
    }
}
