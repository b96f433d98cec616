//! Files written whole or not at all.
//!
//! What is no regular file (a pipe, a device, a FIFO, `/dev/stdout`) is written into, never replaced.
//! A regular file is written without a name and gets its name when it is whole, so that the path
//! holds the whole or what it held before, whatever happens in between; another name of the old file
//! keeps the old content. A link is written through where the kernel with `protected_symlinks` would
//! follow it, and refused elsewhere; one that leads to nothing is written through too.

mod draft;
mod place;
pub mod step;

use std::{
    ffi::OsStr,
    io::{self, BufWriter, Write},
    os::fd::{AsFd, BorrowedFd},
    path::{Path, PathBuf},
    thread,
    time::{Duration, Instant},
};

use rustix::fs::{AtFlags, FlockOperation, Mode, OFlags};

use self::{
    draft::{Draft, sweep, sync_folder},
    place::{Place, find},
    step::{Step, step},
};

/// Why a file could not be written. What stood at the path before still stands there.
#[derive(Debug, thiserror::Error)]
#[error("cannot write {}: {doing}", path.display())]
pub struct SaveError {
    /// The file that was to be written.
    pub path: PathBuf,
    /// What failed.
    pub doing: &'static str,
    /// What the system answered.
    #[source]
    pub cause: io::Error,
}

/// What was written into.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Saved {
    /// A file of its own.
    File,
    /// Something that others read from while it is written, or a device.
    Stream,
}

/// Writes a file, whole or not at all, for its owner only (mode 0600): reports hold serial numbers.
///
/// # Errors
/// A [`SaveError`] that says what failed.
pub fn write_whole(
    path: &Path,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<Saved, SaveError> {
    let failed = because(path);
    match find(path).map_err(failed("finding where it goes"))? {
        Place::Stream(file) => {
            let mut buffered = BufWriter::new(file);
            write(&mut buffered).and_then(|()| buffered.flush()).map_err(failed("writing"))?;
            Ok(Saved::Stream)
        }
        Place::Name { folder, name, stands } => {
            sweep(folder.as_fd());
            let draft = written(folder.as_fd(), write).map_err(failed("writing"))?;
            draft
                .publish(folder.as_fd(), &name, stands)
                .map_err(failed("giving the file its name"))?;
            sync_folder(folder.as_fd());
            Ok(Saved::File)
        }
    }
}

/// Writes a file, and beside it another of which the first one's writer gives the content; the name
/// of that is the file's with `ending` behind it. At no moment do the two of different writings stand
/// beside each other: the old second file goes before the first is replaced.
///
/// Beside what is no regular file nothing is written.
///
/// # Errors
/// A [`SaveError`] that says what failed.
pub fn write_pair(
    path: &Path,
    ending: &str,
    write: impl FnOnce(&mut dyn Write) -> io::Result<Vec<u8>>,
) -> Result<Saved, SaveError> {
    let failed = because(path);
    match find(path).map_err(failed("finding where it goes"))? {
        Place::Stream(file) => {
            let mut buffered = BufWriter::new(file);
            write(&mut buffered)
                .and_then(|_| buffered.flush())
                .map_err(failed("writing"))
                .map(|()| Saved::Stream)
        }
        Place::Name { folder, name, stands } => {
            sweep(folder.as_fd());
            let mut content = Vec::new();
            let first = written(folder.as_fd(), |to| {
                content = write(to)?;
                Ok(())
            })
            .map_err(failed("writing"))?;
            let second = written(folder.as_fd(), |to| to.write_all(&content))
                .map_err(failed("writing what stands beside it"))?;
            let mut beside = name.clone();
            beside.push(ending);
            let held = hold(folder.as_fd()).map_err(failed("waiting for another writer"))?;
            remove(folder.as_fd(), &beside)
                .and_then(|()| first.publish(folder.as_fd(), &name, stands))
                .map_err(failed("giving the file its name"))?;
            second
                .publish(folder.as_fd(), &beside, false)
                .map_err(failed("giving its name to what stands beside it"))?;
            sync_folder(folder.as_fd());
            drop(held);
            Ok(Saved::File)
        }
    }
}

fn because(path: &Path) -> impl Fn(&'static str) -> Box<dyn FnOnce(io::Error) -> SaveError> {
    let path = path.to_owned();
    move |doing| {
        let path = path.clone();
        Box::new(move |cause| SaveError { path, doing, cause })
    }
}

/// A draft with its content, on the disk.
fn written(
    folder: BorrowedFd<'_>,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> io::Result<Draft> {
    let draft = Draft::new(folder)?;
    let mut buffered = BufWriter::new(draft.file());
    step(Step::Write)?;
    write(&mut buffered)?;
    buffered.flush()?;
    drop(buffered);
    draft.sync()?;
    Ok(draft)
}

fn remove(folder: BorrowedFd<'_>, name: &OsStr) -> io::Result<()> {
    step(Step::Remove)?;
    match rustix::fs::unlinkat(folder, name, AtFlags::empty()) {
        Ok(()) | Err(rustix::io::Errno::NOENT) => Ok(()),
        Err(error) => Err(error.into()),
    }
}

/// How long another writer of a pair in the same folder is waited for: it only renames.
const PATIENCE: Duration = Duration::from_secs(10);

/// Holds a folder, so that two pairs are not mixed. It is let go when the file is closed.
fn hold(folder: BorrowedFd<'_>) -> io::Result<std::os::fd::OwnedFd> {
    step(Step::Hold)?;
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
    let own = rustix::fs::openat(folder, ".", flags, Mode::empty())?;
    let begun = Instant::now();
    loop {
        match rustix::fs::flock(&own, FlockOperation::NonBlockingLockExclusive) {
            Ok(()) => return Ok(own),
            Err(rustix::io::Errno::WOULDBLOCK | rustix::io::Errno::INTR)
                if begun.elapsed() < PATIENCE =>
            {
                thread::sleep(Duration::from_millis(20));
            }
            Err(error) => return Err(error.into()),
        }
    }
}

#[cfg(test)]
mod tests;
