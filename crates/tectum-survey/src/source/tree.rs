//! A file tree as a source: the live machine's own root, or a folder that stands in for `/`.

use std::{
    ffi::OsString,
    hash::{DefaultHasher, Hash, Hasher},
    io::Read,
    mem::MaybeUninit,
    os::{
        fd::{AsFd, BorrowedFd, OwnedFd},
        unix::ffi::{OsStrExt, OsStringExt},
    },
    path::{Path, PathBuf},
    sync::{Arc, Mutex, OnceLock, PoisonError},
};

use rustix::{
    fs::{AtFlags, CWD, Dir, FileType, Mode, OFlags},
    io::Errno,
};

use super::{
    Content, FOLDER_LIMIT, Outcome, SystemNames, VolumeUse,
    access::{bytes_text, outcome_of, plain_path},
    archive::{CAPTURE_RECORD, CAPTURE_ROOT},
    aside::{Aside, Helper},
    beside::Beside,
    capture::Stands,
    confined,
    links::{MOST_LINKS, follow},
    mounted::Mounted,
    record::CaptureRecord,
};

/// Where files are read from.
#[derive(Debug)]
pub struct Tree {
    root: OwnedFd,
    kind: Kind,
    /// Folders read from lately, each in the slot that its path's hash names.
    lately: [Mutex<Option<OpenFolder>>; SLOTS],
    /// What system calls answered where a folder was recorded.
    beside: OnceLock<Beside>,
    /// Who asks where an answer may never come.
    aside: Option<Aside>,
    /// What of the kernel's own files is there, on the running machine.
    mounted: Mounted,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    /// This machine: paths are the kernel's, and it may be asked by system call.
    Live,
    /// A folder: every path and every link is resolved inside it.
    Folder,
}

/// Why a tree cannot be opened.
#[derive(Debug, thiserror::Error)]
#[error("cannot open the folder {path}")]
pub struct OpenError {
    /// The folder asked for.
    pub path: String,
    /// What the kernel answered.
    #[source]
    pub cause: std::io::Error,
}

/// A folder that is kept open, with its path.
type OpenFolder = (PathBuf, Arc<OwnedFd>);

/// The most that is read of the table of mounts.
const MOUNTS_LIMIT: usize = 16 << 20;

/// How many folders are kept open.
const SLOTS: usize = 32;

/// Opening never waits for the other end of a FIFO, and never makes a terminal ours.
const READ_FLAGS: OFlags =
    OFlags::RDONLY.union(OFlags::NONBLOCK).union(OFlags::NOCTTY).union(OFlags::CLOEXEC);

const FOLDER_FLAGS: OFlags =
    OFlags::RDONLY.union(OFlags::DIRECTORY).union(OFlags::NONBLOCK).union(OFlags::CLOEXEC);

/// The record of a capture that was unpacked into a folder.
fn unpacked(folder: &Path) -> Option<CaptureRecord> {
    const MOST: u64 = 256 << 20;
    let flags = READ_FLAGS | OFlags::NOFOLLOW;
    let file = rustix::fs::openat(CWD, folder.join(CAPTURE_RECORD), flags, Mode::empty()).ok()?;
    let stat = rustix::fs::fstat(&file).ok()?;
    let regular = FileType::from_raw_mode(stat.st_mode) == FileType::RegularFile;
    if !regular || u64::try_from(stat.st_size).ok()? > MOST {
        return None;
    }
    let mut text = Vec::new();
    std::fs::File::from(file).take(MOST).read_to_end(&mut text).ok()?;
    CaptureRecord::parse(&text).ok()
}

impl Tree {
    /// This machine.
    ///
    /// # Errors
    /// When `/` cannot be opened.
    pub fn live() -> Result<Self, OpenError> {
        Self::open(Path::new("/"), Kind::Live)
    }

    /// This machine, where a helper asks what may never be answered: what lies on network and
    /// user-space filesystems. Without one, such a question can keep the process from ending.
    ///
    /// # Errors
    /// When `/` cannot be opened.
    pub fn live_with(helper: Helper) -> Result<Self, OpenError> {
        let mut tree = Self::live()?;
        let mounts = tree.read(Path::new("/proc/self/mountinfo"), Want::UpTo(MOUNTS_LIMIT)).ok();
        if let Some(mounts) = mounts {
            let table = bytes_text(&mounts.bytes);
            tree.mounted = Mounted::by(&table);
            tree.aside = Aside::on(&table, helper);
        }
        Ok(tree)
    }

    /// Whether a path lies where answers come from another machine or process, and so may never come.
    pub fn is_elsewhere(&self, path: &Path) -> bool {
        self.aside(path).is_some()
    }

    /// Who asks for a path, if not this process: one that lies where answers come from elsewhere, or
    /// is led there by a link. The kernel's own links lead within its own filesystems.
    fn aside(&self, path: &Path) -> Option<&Aside> {
        let aside = self.aside.as_ref()?;
        if path.starts_with("/sys") || path.starts_with("/proc") {
            return Some(aside).filter(|aside| aside.holds(path));
        }
        let followed = follow(path, |step| {
            if aside.holds(step.at) {
                return Err(());
            }
            // What stands on this machine's own filesystems is told without waiting.
            let target = rustix::fs::readlinkat(CWD, step.at, Vec::new()).ok();
            Ok(target
                .filter(|_| step.links < MOST_LINKS)
                .map(|target| OsString::from_vec(target.into_bytes()).into()))
        });
        match followed {
            Ok(real) => Some(aside).filter(|aside| aside.holds(&real)),
            Err(()) => Some(aside),
        }
    }

    /// A folder that stands in for `/`.
    ///
    /// # Errors
    /// When it does not exist, is no folder or may not be opened.
    pub fn folder(path: &Path) -> Result<Self, OpenError> {
        let tree = Self::open(path, Kind::Folder)?;
        if path.file_name().is_some_and(|name| name == CAPTURE_ROOT)
            && let Some(record) = path.parent().and_then(unpacked)
        {
            // What a capture was told by system call goes with the folder that was unpacked of it.
            let _ = tree.beside.set(Beside::of(&record));
        }
        Ok(tree)
    }

    fn open(path: &Path, kind: Kind) -> Result<Self, OpenError> {
        let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::CLOEXEC;
        let root =
            rustix::fs::openat(CWD, path, flags, Mode::empty()).map_err(|errno| OpenError {
                path: bytes_text(path.as_os_str().as_bytes()).into_owned(),
                cause: errno.into(),
            })?;
        Ok(Self {
            root,
            kind,
            lately: std::array::from_fn(|_| Mutex::default()),
            beside: OnceLock::new(),
            aside: None,
            mounted: Mounted::default(),
        })
    }

    /// Whether this is the running machine itself.
    pub fn is_live(&self) -> bool {
        self.kind == Kind::Live
    }

    /// The outcome that a kernel error means for a path.
    fn outcome(&self, path: &Path, errno: Errno) -> Outcome {
        let within = match self.kind {
            Kind::Live => None,
            Kind::Folder => Some(self.root()),
        };
        self.mounted.outcome(path, outcome_of(errno), within)
    }

    pub(super) fn root(&self) -> BorrowedFd<'_> {
        self.root.as_fd()
    }

    /// A file's bytes up to `limit`.
    pub(super) fn read(&self, path: &Path, want: Want) -> Result<Content, Outcome> {
        if self.kind == Kind::Folder {
            return self.read_confined(path, want);
        }
        if let Some(aside) = self.aside(path) {
            let (Want::UpTo(limit) | Want::First(limit)) = want;
            return aside.read(path, limit);
        }
        if self.mounted.is_covered(path) {
            return Err(Outcome::NotMounted);
        }
        let file = rustix::fs::openat(CWD, path, READ_FLAGS, Mode::empty())
            .map_err(|errno| self.outcome(path, errno))?;
        // The kernel's own filesystems hold no FIFOs and no devices.
        let in_sysfs = path.starts_with("/sys");
        if !(in_sysfs || path.starts_with("/proc")) {
            require_file(&file)?;
        }
        read(&file, want, if in_sysfs { Known::ShortIsWhole } else { Known::Nothing })
    }

    /// In a folder of unknown origin a device node may stand where a file should: opening some of
    /// them does things, so what stands there is looked at before it is opened.
    ///
    /// Most reads are of many files of one folder, so folders read from lately are kept open and
    /// their plain files are opened from there.
    fn read_confined(&self, path: &Path, want: Want) -> Result<Content, Outcome> {
        let ended = |errno| self.outcome(path, errno);
        if let (Some(parent), Some(name)) = (path.parent(), path.file_name())
            && let Some(folder) = self.open_folder(parent)
        {
            let stat =
                rustix::fs::statat(&*folder, name, AtFlags::SYMLINK_NOFOLLOW).map_err(ended)?;
            match FileType::from_raw_mode(stat.st_mode) {
                FileType::RegularFile => {
                    let flags = READ_FLAGS | OFlags::NOFOLLOW;
                    let file =
                        rustix::fs::openat(&*folder, name, flags, Mode::empty()).map_err(ended)?;
                    let size = usize::try_from(stat.st_size).ok();
                    return read(&file, want, size.map_or(Known::Nothing, Known::Size));
                }
                FileType::Symlink => {}
                _ => return Err(Outcome::WrongKind),
            }
        }
        let file = if rustix::process::geteuid().is_root() {
            let handle =
                confined::open(self.root(), path, OFlags::PATH | OFlags::CLOEXEC).map_err(ended)?;
            require_file(&handle)?;
            confined::reopen(&handle, READ_FLAGS)
        } else {
            confined::open(self.root(), path, READ_FLAGS)
        }
        .map_err(ended)?;
        require_file(&file)?;
        read(&file, want, Known::Nothing)
    }

    /// The folder at a path, kept open since the last time or opened now.
    fn open_folder(&self, path: &Path) -> Option<Arc<OwnedFd>> {
        let mut hasher = DefaultHasher::new();
        path.hash(&mut hasher);
        let slot = self.lately.get(usize::from(hasher.finish().to_le_bytes()[0]) % SLOTS)?;
        let mut slot = slot.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((known, folder)) = &*slot
            && known == path
        {
            return Some(Arc::clone(folder));
        }
        let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::CLOEXEC;
        let folder = Arc::new(confined::open(self.root(), path, flags).ok()?);
        *slot = Some((path.to_owned(), Arc::clone(&folder)));
        Some(folder)
    }

    /// The names in a folder, sorted by their bytes.
    pub(super) fn list(&self, path: &Path) -> Result<(Vec<OsString>, bool), Outcome> {
        if let Some(aside) = self.aside(path) {
            return aside.list(path);
        }
        if self.mounted.is_covered(path) {
            return Err(Outcome::NotMounted);
        }
        let folder = match self.kind {
            Kind::Live => rustix::fs::openat(CWD, path, FOLDER_FLAGS, Mode::empty()),
            Kind::Folder => confined::open(self.root(), path, FOLDER_FLAGS),
        }
        .map_err(|errno| self.outcome(path, errno))?;
        let mut names = Vec::new();
        let mut cut = false;
        for entry in Dir::new(folder).map_err(outcome_of)? {
            let entry = entry.map_err(outcome_of)?;
            let name = entry.file_name().to_bytes();
            if name == b"." || name == b".." {
                continue;
            }
            if names.len() == FOLDER_LIMIT {
                cut = true;
                break;
            }
            names.push(OsString::from_vec(name.to_vec()));
        }
        names.sort_unstable();
        Ok((names, cut))
    }

    /// The path that `path` leads to, inside this tree, once all links are followed.
    pub(super) fn resolve(&self, path: &Path) -> Result<PathBuf, Outcome> {
        if let Some(aside) = self.aside(path) {
            return aside.resolve(path);
        }
        if self.mounted.is_covered(path) {
            return Err(Outcome::NotMounted);
        }
        match self.kind {
            Kind::Live => {
                std::fs::canonicalize(path).map_err(|error| match Errno::from_io_error(&error) {
                    Some(errno) => self.outcome(path, errno),
                    None => Outcome::Failed("an unknown error".into()),
                })
            }
            Kind::Folder => confined::resolve(self.root(), &plain_path(path))
                .map_err(|errno| self.outcome(path, errno)),
        }
    }

    /// What stands at a path whose parents are no links.
    pub(super) fn look(&self, path: &Path) -> Stands {
        if self.aside(path).is_some() {
            // What was read there was read by its own path.
            return Stands::Nothing;
        }
        let flags = OFlags::PATH | OFlags::NOFOLLOW | OFlags::CLOEXEC;
        let opened = match self.kind {
            Kind::Live => rustix::fs::openat(CWD, path, flags, Mode::empty()),
            Kind::Folder => confined::open(self.root(), path, flags),
        };
        let Ok(file) = opened else { return Stands::Nothing };
        let Ok(stat) = rustix::fs::fstat(&file) else { return Stands::Nothing };
        match FileType::from_raw_mode(stat.st_mode) {
            FileType::RegularFile => Stands::File(stat.st_mode & 0o7777),
            FileType::Directory => Stands::Folder,
            FileType::Symlink => match rustix::fs::readlinkat(&file, "", Vec::new()) {
                Ok(target) => Stands::Link(OsString::from_vec(target.into_bytes()).into()),
                Err(_) => Stands::Nothing,
            },
            _ => Stands::Nothing,
        }
    }

    fn beside(&self) -> &Beside {
        self.beside.get_or_init(|| {
            Beside::read(|path| {
                let content =
                    self.read_confined(Path::new(path), Want::UpTo(super::USUAL_LIMIT)).ok()?;
                (!content.cut).then(|| content.bytes.to_vec())
            })
        })
    }

    /// Whether a machine runs there, and no copy of its files is looked at: the kernel itself tells of processes.
    pub(super) fn is_running(&self) -> bool {
        let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
        let proc = rustix::fs::openat(&self.root, "proc", flags, Mode::empty());
        self.is_live()
            || proc
                .and_then(rustix::fs::fstatfs)
                .is_ok_and(|stands| stands.f_type == rustix::fs::PROC_SUPER_MAGIC)
    }

    pub(super) fn statvfs(&self, path: &Path) -> Result<VolumeUse, Outcome> {
        if self.kind == Kind::Folder {
            return self.beside().statvfs(path);
        }
        if let Some(aside) = self.aside(path) {
            return aside.statvfs(path);
        }
        let answer = rustix::fs::statvfs(path).map_err(outcome_of)?;
        let unit = if answer.f_frsize == 0 { answer.f_bsize } else { answer.f_frsize };
        Ok(VolumeUse {
            size_bytes: answer.f_blocks.saturating_mul(unit),
            free_bytes: answer.f_bfree.saturating_mul(unit),
            available_bytes: answer.f_bavail.saturating_mul(unit),
            inodes: answer.f_files,
            free_inodes: answer.f_ffree,
        })
    }

    pub(super) fn uname(&self) -> Result<SystemNames, Outcome> {
        if self.kind == Kind::Folder {
            return self.beside().uname();
        }
        let answer = rustix::system::uname();
        let text = |field: &std::ffi::CStr| bytes_text(field.to_bytes()).into_owned();
        Ok(SystemNames {
            system: text(answer.sysname()),
            node: text(answer.nodename()),
            release: text(answer.release()),
            version: text(answer.version()),
            machine: text(answer.machine()),
        })
    }
}

/// FIFOs, sockets and devices are refused: reading them may wait for ever or do things.
fn require_file(file: &OwnedFd) -> Result<(), Outcome> {
    let stat = rustix::fs::fstat(file).map_err(outcome_of)?;
    match FileType::from_raw_mode(stat.st_mode) {
        FileType::RegularFile => Ok(()),
        _ => Err(Outcome::WrongKind),
    }
}

/// How much of a file is wanted.
#[derive(Debug, Clone, Copy)]
pub(super) enum Want {
    /// All of it, up to a limit; whether there is more is looked for.
    UpTo(usize),
    /// The first bytes and not one more: what stands behind them is slow to read, or nobody's to see.
    First(usize),
}

/// What is known of a file before it is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Known {
    Nothing,
    /// Its size.
    Size(usize),
    /// That an answer which is shorter than what was asked for is whole, as in sysfs
    /// (`Documentation/filesystems/sysfs.rst`: a value is read at once), but for one of whole pages:
    /// binary attributes give no more than a page at a time.
    ShortIsWhole,
}

/// The smallest page of any architecture, in bytes.
const SMALLEST_PAGE: usize = 4096;

/// Bytes asked for at once.
const CHUNK: usize = 8192;

/// Reads what is wanted. Kernel files give their length as 0 or a page, so their end is where a read
/// gives nothing; a file on a disk ends where its size says, if it is known.
fn read(file: &OwnedFd, want: Want, known: Known) -> Result<Content, Outcome> {
    let mut bytes = Vec::new();
    let mut chunk = [MaybeUninit::<u8>::uninit(); CHUNK];
    let (limit, most) = match want {
        Want::UpTo(limit) => (limit, limit.saturating_add(1)),
        Want::First(length) => (length, length),
    };
    loop {
        let asked = most.saturating_sub(bytes.len()).min(CHUNK);
        let whole = known == Known::Size(bytes.len()) && !bytes.is_empty();
        if asked == 0 || whole {
            break;
        }
        let count = match rustix::io::read(file, chunk.get_mut(..asked).unwrap_or_default()) {
            Ok((given, _)) => {
                bytes.extend_from_slice(given);
                given.len()
            }
            Err(Errno::INTR) => continue,
            // What was given before the error is still worth having, but only if it is something.
            Err(errno) if bytes.is_empty() => return Err(outcome_of(errno)),
            Err(_) => return Ok(Content { bytes: Arc::from(bytes), cut: true }),
        };
        let is_short = count < asked && !count.is_multiple_of(SMALLEST_PAGE);
        if count == 0 || (known == Known::ShortIsWhole && is_short) {
            break;
        }
    }
    let cut = bytes.len() > limit;
    bytes.truncate(limit);
    Ok(Content { bytes: Arc::from(bytes), cut })
}

#[cfg(test)]
mod tests {
    use std::io::{PipeWriter, Read, Write};

    use rstest::rstest;

    use super::*;

    /// A pipe that holds so many bytes; what nobody asks for stays in it.
    fn pipe(length: usize) -> (OwnedFd, std::fs::File, PipeWriter) {
        let (reader, mut writer) = std::io::pipe().unwrap();
        writer.write_all(&vec![7; length]).unwrap();
        let rest = std::fs::File::from(OwnedFd::from(reader.try_clone().unwrap()));
        (OwnedFd::from(reader), rest, writer)
    }

    #[rstest]
    #[case(Want::First(256), 256)]
    #[case(Want::First(64), 64)]
    // One byte more tells whether there is more.
    #[case(Want::UpTo(100), 101)]
    fn no_more_is_asked_for_than_is_wanted(#[case] want: Want, #[case] asked: usize) {
        let (file, mut rest, writer) = pipe(4096);
        let content = read(&file, want, Known::Nothing).unwrap();
        drop(writer);
        let mut left = Vec::new();
        rest.read_to_end(&mut left).unwrap();
        assert_eq!(left.len(), 4096 - asked);
        let (limit, cut) = match want {
            Want::UpTo(limit) => (limit, true),
            Want::First(length) => (length, false),
        };
        assert_eq!((content.bytes.len(), content.cut), (limit, cut));
    }

    #[rstest]
    #[case(300, 300)]
    // A whole page may not be all: the next read tells.
    #[case(4096, 4096)]
    #[case(5000, 5000)]
    fn a_short_answer_is_whole_where_it_is_known_to_be(
        #[case] length: usize,
        #[case] expected: usize,
    ) {
        let (file, _, writer) = pipe(length);
        // With its writer open, a pipe that is asked again waits; it is closed where that must be.
        let writer = (length == 300 || length == 5000).then_some(writer);
        let content = read(&file, Want::UpTo(1 << 20), Known::ShortIsWhole).unwrap();
        assert_eq!((content.bytes.len(), content.cut), (expected, false));
        drop(writer);
    }
}
