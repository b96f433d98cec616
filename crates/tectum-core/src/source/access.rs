//! What can be asked at the door, and how an access can end.

use std::{
    borrow::Cow,
    ffi::{OsStr, OsString},
    os::unix::ffi::OsStrExt,
    path::{Path, PathBuf},
    sync::Arc,
    time::Duration,
};

/// What was asked of the machine.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Operation {
    /// The bytes of a file.
    Read,
    /// The names in a folder.
    List,
    /// The path that a path leads to once all links are followed.
    Resolve,
    /// The space of the filesystem a path lies on, statvfs(3).
    Statvfs,
    /// The names of the kernel and host, uname(2).
    Uname,
}

impl Operation {
    /// All operations.
    pub const ALL: [Self; Self::COUNT] =
        [Self::Read, Self::List, Self::Resolve, Self::Statvfs, Self::Uname];

    /// How many operations there are.
    pub(crate) const COUNT: usize = 5;

    /// Its place in [`Operation::ALL`].
    pub(crate) fn index(self) -> usize {
        self as usize
    }

    /// The word used in reports.
    pub fn word(self) -> &'static str {
        match self {
            Self::Read => "read",
            Self::List => "list",
            Self::Resolve => "resolve",
            Self::Statvfs => "statvfs",
            Self::Uname => "uname",
        }
    }
}

/// How an access ended.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Outcome {
    /// Answered in full.
    Done,
    /// Answered up to the size limit; there was more.
    Cut,
    /// There is nothing at the path.
    NotFound,
    /// The kernel refused it to this user.
    PermissionDenied,
    /// Something else than a regular file stands where a file should be (or no folder where a
    /// folder should be).
    WrongKind,
    /// No answer within the deadline.
    TimedOut,
    /// The whole survey's time was up before this was asked.
    OutOfTime,
    /// This source cannot answer such a question: a folder makes no system calls.
    Unsupported,
    /// The capture was made without asking this, so it holds no answer.
    NotCaptured,
    /// The capture says that it holds an answer, and does not.
    Damaged,
    /// The kernel answered with another error, by its name (`EIO`).
    Failed(Cow<'static, str>),
}

impl Outcome {
    /// The words used in reports and messages.
    pub fn words(&self) -> Cow<'static, str> {
        match self {
            Self::Done => "done".into(),
            Self::Cut => "cut at the size limit".into(),
            Self::NotFound => "not found".into(),
            Self::PermissionDenied => "permission denied".into(),
            Self::WrongKind => "not a regular file or folder".into(),
            Self::TimedOut => "timed out".into(),
            Self::OutOfTime => "not asked, the survey's time was up".into(),
            Self::Unsupported => "this source makes no system calls".into(),
            Self::NotCaptured => "not in the capture".into(),
            Self::Damaged => "missing from the capture, which says it holds it".into(),
            Self::Failed(name) => format!("failed with {name}").into(),
        }
    }

    /// The outcome that the words of a report or capture name.
    pub fn from_words(words: &str) -> Self {
        let plain = [
            Self::Done,
            Self::Cut,
            Self::NotFound,
            Self::PermissionDenied,
            Self::WrongKind,
            Self::TimedOut,
            Self::OutOfTime,
            Self::Unsupported,
            Self::NotCaptured,
            Self::Damaged,
        ];
        plain.into_iter().find(|outcome| outcome.words() == words).unwrap_or_else(|| {
            let name = words.strip_prefix("failed with ").unwrap_or(words);
            Self::Failed(name.to_owned().into())
        })
    }

    /// The outcome that a kernel error means.
    pub(crate) fn from_errno(errno: rustix::io::Errno) -> Self {
        use rustix::io::Errno;
        match errno {
            Errno::NOENT | Errno::NODEV | Errno::NXIO | Errno::NOTDIR => Self::NotFound,
            Errno::ACCESS | Errno::PERM => Self::PermissionDenied,
            Errno::ISDIR => Self::WrongKind,
            Errno::IO => Self::Failed("EIO".into()),
            Errno::INVAL => Self::Failed("EINVAL".into()),
            Errno::BUSY => Self::Failed("EBUSY".into()),
            Errno::AGAIN => Self::Failed("EAGAIN".into()),
            Errno::OPNOTSUPP => Self::Failed("EOPNOTSUPP".into()),
            Errno::NODATA => Self::Failed("ENODATA".into()),
            Errno::LOOP => Self::Failed("ELOOP".into()),
            Errno::NAMETOOLONG => Self::Failed("ENAMETOOLONG".into()),
            other => Self::Failed(format!("error {}", other.raw_os_error()).into()),
        }
    }
}

/// An access that gave nothing: which, where and why.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{}: {}", .path, .outcome.words())]
pub struct AccessError {
    /// What was asked.
    pub operation: Operation,
    /// The path asked for, as text.
    pub path: Arc<str>,
    /// How it ended.
    pub outcome: Outcome,
}

/// One line of the log.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Access {
    /// What was asked.
    pub operation: Operation,
    /// The path asked for, as text.
    pub path: Arc<str>,
    /// How it ended.
    pub outcome: Outcome,
    /// Bytes given.
    pub bytes: u64,
    /// Time taken.
    pub elapsed: Duration,
}

/// A file's bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Content {
    /// The bytes, up to the size limit.
    pub bytes: Arc<[u8]>,
    /// Whether there was more than the limit lets through.
    pub cut: bool,
}

/// What uname(2) answers.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SystemNames {
    /// The kernel's name.
    pub system: String,
    /// The host's name.
    pub node: String,
    /// The kernel's release.
    pub release: String,
    /// The kernel's version.
    pub version: String,
    /// The architecture the kernel answers with.
    pub machine: String,
}

/// What statvfs(3) answers, in bytes and counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct VolumeUse {
    /// Size in bytes.
    pub size_bytes: u64,
    /// Free bytes, those kept for root included.
    pub free_bytes: u64,
    /// Free bytes for everybody.
    pub available_bytes: u64,
    /// Inodes.
    pub inodes: u64,
    /// Free inodes.
    pub free_inodes: u64,
}

/// A path as text: bytes that are not valid UTF-8 are written `\xNN`.
pub(crate) fn path_text(path: &Path) -> Cow<'_, str> {
    bytes_text(path.as_os_str().as_bytes())
}

/// Bytes as text: those that are not valid UTF-8 are written `\xNN`, so that none is lost.
pub(crate) fn bytes_text(bytes: &[u8]) -> Cow<'_, str> {
    if let Ok(text) = std::str::from_utf8(bytes) {
        return Cow::Borrowed(text);
    }
    let mut text = String::with_capacity(bytes.len() + 16);
    for chunk in bytes.utf8_chunks() {
        text.push_str(chunk.valid());
        for byte in chunk.invalid() {
            text.push_str(&format!("\\x{byte:02X}"));
        }
    }
    Cow::Owned(text)
}

/// The parts of a path, `.` and empty ones left out: `..` stands, and no link is looked at.
pub(super) fn path_parts(path: &Path) -> impl DoubleEndedIterator<Item = OsString> + '_ {
    path.as_os_str()
        .as_bytes()
        .split(|byte| *byte == b'/')
        .filter(|part| !part.is_empty() && *part != b".")
        .map(|part| OsStr::from_bytes(part).to_owned())
}

/// A path made absolute and free of `.`, empty and `..` parts, as text only: no link is looked at.
/// A `..` at the root stays there.
pub(crate) fn plain_path(path: &Path) -> PathBuf {
    let mut plain = PathBuf::from("/");
    for part in path_parts(path) {
        if part == ".." {
            plain.pop();
        } else {
            plain.push(part);
        }
    }
    plain
}
