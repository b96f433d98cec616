//! Where a path leads, link by link, as the kernel with `protected_symlinks` and `protected_fifos`
//! would go (`Documentation/admin-guide/sysctl/fs.rst`).

use std::{
    collections::VecDeque,
    ffi::{OsStr, OsString},
    fs::File,
    io,
    os::{
        fd::{AsFd, BorrowedFd, OwnedFd},
        unix::ffi::{OsStrExt, OsStringExt},
    },
    path::{Component, Path},
};

use rustix::{
    fs::{AtFlags, CWD, FileType, Mode, OFlags, Stat},
    io::Errno,
};

/// Where something can be written.
pub(super) enum Place {
    /// A name in a folder, at which a regular file stands, or nothing.
    Name { folder: OwnedFd, name: OsString, stands: bool },
    /// What is no regular file.
    Stream(File),
}

/// As many links as the kernel follows.
const MOST_LINKS: usize = 40;

/// The kernel's own filesystem of processes: a link there leads to what the process has open, and not
/// to what its text says.
const PROC: rustix::fs::FsWord = 0x9FA0;

/// Follows a path to where it leads.
pub(super) fn find(path: &Path) -> io::Result<Place> {
    let mut rest = parts(path);
    let mut folder = open_folder(CWD, OsStr::new(if path.is_absolute() { "/" } else { "." }))?;
    let mut links = 0;
    while let Some(name) = rest.pop_front() {
        let last = rest.is_empty();
        if name == ".." {
            folder = open_folder(folder.as_fd(), &name)?;
            continue;
        }
        let stat = match rustix::fs::statat(&folder, &name, AtFlags::SYMLINK_NOFOLLOW) {
            Ok(stat) => stat,
            Err(Errno::NOENT) if last => return Ok(Place::Name { folder, name, stands: false }),
            Err(error) => return Err(error.into()),
        };
        match FileType::from_raw_mode(stat.st_mode) {
            FileType::Symlink if is_of_processes(folder.as_fd()) => {
                if last {
                    return stream(folder.as_fd(), &name, OFlags::APPEND);
                }
                let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::CLOEXEC;
                folder = rustix::fs::openat(&folder, &name, flags, Mode::empty())?;
            }
            FileType::Symlink => {
                links += 1;
                if links > MOST_LINKS {
                    return Err(Errno::LOOP.into());
                }
                trusted(folder.as_fd(), &stat, "a link")?;
                let target = rustix::fs::readlinkat(&folder, &name, Vec::new())?;
                let target = OsString::from_vec(target.into_bytes());
                let target = Path::new(&target);
                if target.is_absolute() {
                    folder = open_folder(CWD, OsStr::new("/"))?;
                }
                for part in parts(target).into_iter().rev() {
                    rest.push_front(part);
                }
            }
            FileType::Directory if last => return Err(Errno::ISDIR.into()),
            FileType::Directory => folder = open_folder(folder.as_fd(), &name)?,
            FileType::RegularFile if last => {
                return Ok(Place::Name { folder, name, stands: true });
            }
            _ if !last => return Err(Errno::NOTDIR.into()),
            FileType::BlockDevice => {
                return Err(io::Error::other(
                    "a disk stands there, and what is on it would be lost",
                ));
            }
            FileType::CharacterDevice => {
                return stream(folder.as_fd(), &name, OFlags::NOFOLLOW);
            }
            _ => {
                trusted(folder.as_fd(), &stat, "something else than a file")?;
                return stream(folder.as_fd(), &name, OFlags::NOFOLLOW);
            }
        }
    }
    Err(Errno::ISDIR.into())
}

/// The names of a path, in their order.
fn parts(path: &Path) -> VecDeque<OsString> {
    let mut names: VecDeque<OsString> = path
        .components()
        .filter_map(|part| match part {
            Component::Normal(name) => Some(name.to_owned()),
            Component::ParentDir => Some("..".into()),
            _ => None,
        })
        .collect();
    // What ends with a slash is a folder.
    if path.as_os_str().as_bytes().ends_with(b"/") {
        names.push_back(".".into());
    }
    names
}

fn open_folder(at: BorrowedFd<'_>, name: &OsStr) -> io::Result<OwnedFd> {
    let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    Ok(rustix::fs::openat(at, name, flags, Mode::empty())?)
}

fn is_of_processes(folder: BorrowedFd<'_>) -> bool {
    rustix::fs::fstatfs(folder).is_ok_and(|stat| stat.f_type == PROC)
}

/// In a folder in which anybody may put something, only what this user or the folder's owner put there
/// is trusted.
fn trusted(folder: BorrowedFd<'_>, stat: &Stat, what: &str) -> io::Result<()> {
    let of = rustix::fs::fstat(folder)?;
    let mode = Mode::from_raw_mode(of.st_mode);
    let anybodys = mode.contains(Mode::SVTX) && mode.contains(Mode::WOTH);
    let own = rustix::process::geteuid().as_raw();
    if anybodys && stat.st_uid != own && stat.st_uid != of.st_uid {
        return Err(io::Error::other(format!(
            "{what} of user {} stands there, in a folder that anybody may write to; name another path",
            stat.st_uid
        )));
    }
    Ok(())
}

/// Opens what is no regular file, without waiting for anybody.
fn stream(folder: BorrowedFd<'_>, name: &OsStr, more: OFlags) -> io::Result<Place> {
    let flags = OFlags::WRONLY | OFlags::NONBLOCK | OFlags::NOCTTY | OFlags::CLOEXEC | more;
    let file = match rustix::fs::openat(folder, name, flags, Mode::empty()) {
        Err(Errno::NXIO) => return Err(io::Error::other("nobody reads from what stands there")),
        answer => answer?,
    };
    // Once it is open, a slow reader is waited for.
    let own = rustix::fs::fcntl_getfl(file.as_fd())?;
    rustix::fs::fcntl_setfl(&file, own - OFlags::NONBLOCK)?;
    Ok(Place::Stream(file.into()))
}
