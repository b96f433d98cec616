//! What can be asked at the door, and how an access can end.

use std::{
    borrow::Cow,
    ffi::{OsStr, OsString},
    os::unix::ffi::OsStrExt,
    path::{Path, PathBuf},
    sync::Arc,
    time::Duration,
};

pub use tectum_report::report::{Operation, Outcome};

/// The outcome that a kernel error means.
pub(crate) fn outcome_of(errno: rustix::io::Errno) -> Outcome {
    use rustix::io::Errno;
    match errno {
        Errno::NOENT | Errno::NODEV | Errno::NXIO | Errno::NOTDIR => Outcome::NotFound,
        Errno::ACCESS | Errno::PERM => Outcome::PermissionDenied,
        Errno::ISDIR => Outcome::WrongKind,
        Errno::IO => Outcome::Failed("EIO".into()),
        Errno::INVAL => Outcome::Failed("EINVAL".into()),
        Errno::BUSY => Outcome::Failed("EBUSY".into()),
        Errno::AGAIN => Outcome::Failed("EAGAIN".into()),
        Errno::OPNOTSUPP => Outcome::Failed("EOPNOTSUPP".into()),
        Errno::NODATA => Outcome::Failed("ENODATA".into()),
        Errno::LOOP => Outcome::Failed("ELOOP".into()),
        Errno::NAMETOOLONG => Outcome::Failed("ENAMETOOLONG".into()),
        other => Outcome::Failed(format!("error {}", other.raw_os_error()).into()),
    }
}

/// An access that gave nothing: which, where and why.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{path}: {outcome}")]
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
