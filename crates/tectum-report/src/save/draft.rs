//! A file on its way to a name.

use std::{
    ffi::{OsStr, OsString},
    fs::File,
    io,
    os::{
        fd::{AsFd, AsRawFd, BorrowedFd},
        unix::ffi::OsStrExt,
    },
};

use rustix::{
    fs::{Access, AtFlags, CWD, Dir, FileType, FlockOperation, Mode, OFlags},
    io::Errno,
};

use super::step::{Step, step};

/// What names on the way begin with; behind it stand the process's number and another.
const PREFIX: &str = ".tectum-";

/// A file that is written. It has no name, where the filesystem has such files, so that nothing stays
/// if the program is killed; elsewhere its name goes with it.
pub(super) struct Draft {
    file: File,
    /// The name, where it needs one, and the folder again.
    named: Option<(std::os::fd::OwnedFd, OsString)>,
}

impl Draft {
    pub(super) fn new(folder: BorrowedFd<'_>) -> io::Result<Self> {
        step(Step::Open)?;
        let owner = Mode::RUSR | Mode::WUSR;
        let flags = OFlags::TMPFILE | OFlags::WRONLY | OFlags::CLOEXEC;
        // Without /proc nothing could give it a name afterwards.
        let nameless = rustix::fs::openat(folder, ".", flags, owner).map(File::from);
        if let Ok(file) = nameless
            && rustix::fs::access(by_number(&file), Access::EXISTS).is_ok()
        {
            lock(&file)?;
            return Ok(Self { file, named: None });
        }
        let flags = OFlags::CREATE | OFlags::EXCL | OFlags::WRONLY | OFlags::CLOEXEC;
        for name in names() {
            match rustix::fs::openat(folder, &name, flags, owner) {
                Err(Errno::EXIST) => {}
                Err(error) => return Err(error.into()),
                Ok(file) => {
                    let file = File::from(file);
                    let named = Some((folder.try_clone_to_owned()?, name));
                    let draft = Self { file, named };
                    lock(&draft.file)?;
                    return Ok(draft);
                }
            }
        }
        Err(io::Error::other("no free name for a temporary file"))
    }

    pub(super) fn file(&self) -> &File {
        &self.file
    }

    /// Brings it onto the disk.
    pub(super) fn sync(&self) -> io::Result<()> {
        step(Step::Sync)?;
        self.file.sync_all()
    }

    /// Gives it its name; `stands` says whether something is known to stand there.
    pub(super) fn publish(
        mut self,
        folder: BorrowedFd<'_>,
        name: &OsStr,
        stands: bool,
    ) -> io::Result<()> {
        let beside = match self.named.take() {
            Some((_, beside)) => beside,
            None => {
                if !stands {
                    step(Step::Link)?;
                    match self.link(folder, name) {
                        Err(Errno::EXIST) => {}
                        answer => return answer.map_err(io::Error::from),
                    }
                }
                step(Step::LinkBeside)?;
                self.name(folder)?
            }
        };
        let renamed = step(Step::Rename)
            .and_then(|()| Ok(rustix::fs::renameat(folder, &beside, folder, name)?));
        if renamed.is_err() {
            // Why the renaming failed is what matters.
            let _ = rustix::fs::unlinkat(folder, &beside, AtFlags::empty());
        }
        renamed
    }

    fn link(&self, folder: BorrowedFd<'_>, name: &OsStr) -> Result<(), Errno> {
        rustix::fs::linkat(CWD, by_number(&self.file), folder, name, AtFlags::SYMLINK_FOLLOW)
    }

    /// A name for it that nothing has.
    fn name(&self, folder: BorrowedFd<'_>) -> io::Result<OsString> {
        for name in names() {
            match self.link(folder, &name) {
                Err(Errno::EXIST) => {}
                Err(error) => return Err(error.into()),
                Ok(()) => return Ok(name),
            }
        }
        Err(io::Error::other("no free name for a temporary file"))
    }
}

impl Drop for Draft {
    fn drop(&mut self) {
        if let Some((folder, name)) = &self.named {
            let _ = rustix::fs::unlinkat(folder, name, AtFlags::empty());
        }
    }
}

/// The path of an open file that has no name (proc_pid_fd(5)).
fn by_number(file: &File) -> String {
    format!("/proc/self/fd/{}", file.as_raw_fd())
}

/// Marks a file as one that is being written, for as long as it is open: others sweep what nobody
/// holds. A filesystem without locks cannot be swept.
fn lock(file: &File) -> io::Result<()> {
    step(Step::Lock)?;
    match rustix::fs::flock(file, FlockOperation::NonBlockingLockExclusive) {
        Ok(()) | Err(Errno::NOTSUP | Errno::NOSYS | Errno::NOLCK) => Ok(()),
        Err(error) => Err(error.into()),
    }
}

fn names() -> impl Iterator<Item = OsString> {
    let process = std::process::id();
    (0..64).map(move |number| format!("{PREFIX}{process}-{number}").into())
}

/// Removes what earlier runs left behind that were killed between two system calls: files of the same
/// user with such a name that nobody holds.
pub(super) fn sweep(folder: BorrowedFd<'_>) {
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
    // What cannot be looked at cannot be swept, and does not stand in the way either.
    let Ok(own) = rustix::fs::openat(folder, ".", flags, Mode::empty()) else { return };
    let Ok(entries) = Dir::read_from(&own) else { return };
    let left = entries.filter_map(Result::ok).filter(|entry| is_ours(entry.file_name().to_bytes()));
    for entry in left {
        let flags = OFlags::RDONLY | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
        let name = entry.file_name();
        let Ok(file) = rustix::fs::openat(&own, name, flags, Mode::empty()) else { continue };
        let Ok(stat) = rustix::fs::fstat(&file) else { continue };
        let regular = FileType::from_raw_mode(stat.st_mode) == FileType::RegularFile;
        let own_user = stat.st_uid == rustix::process::geteuid().as_raw();
        let free = || rustix::fs::flock(&file, FlockOperation::NonBlockingLockExclusive).is_ok();
        if regular && own_user && free() {
            let _ = rustix::fs::unlinkat(&own, name, AtFlags::empty());
        }
    }
}

fn is_ours(name: &[u8]) -> bool {
    let rest = name.strip_prefix(PREFIX.as_bytes()).unwrap_or_default();
    let mut parts = OsStr::from_bytes(rest).as_bytes().split(|byte| *byte == b'-');
    let number = |part: Option<&[u8]>| {
        part.is_some_and(|part| !part.is_empty() && part.iter().all(u8::is_ascii_digit))
    };
    number(parts.next()) && number(parts.next()) && parts.next().is_none()
}

/// The new name is only safe once the folder is on the disk too. A filesystem that cannot sync
/// folders has done all it can.
pub(super) fn sync_folder(folder: BorrowedFd<'_>) {
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
    if step(Step::SyncFolder).is_ok()
        && let Ok(own) = rustix::fs::openat(folder.as_fd(), ".", flags, Mode::empty())
    {
        let _ = rustix::fs::fsync(own);
    }
}
