//! Opening paths inside a folder as if the folder were `/`: absolute links and `..` stay inside.
//!
//! Kernels from 5.6 on do this themselves (`openat2` with `RESOLVE_IN_ROOT`). Where that call is
//! missing or forbidden, the path is walked part by part, each opened relative to the one before
//! without following links, so that nothing that changes underneath can lead outside.

use std::{
    collections::VecDeque,
    ffi::{OsStr, OsString},
    os::{
        fd::{AsRawFd, BorrowedFd, OwnedFd},
        unix::ffi::OsStrExt,
    },
    path::{Path, PathBuf},
};

use rustix::{
    fs::{AtFlags, CWD, FileType, Mode, OFlags, ResolveFlags},
    io::Errno,
};

use super::{access::path_parts, links::MOST_LINKS};

/// Opens `path` inside `root`.
pub(super) fn open(root: BorrowedFd<'_>, path: &Path, flags: OFlags) -> Result<OwnedFd, Errno> {
    let inside = ResolveFlags::IN_ROOT | ResolveFlags::NO_MAGICLINKS;
    match rustix::fs::openat2(root, path, flags, Mode::empty(), inside) {
        // Not there, or forbidden by a sandbox that does not know the call.
        Err(Errno::NOSYS | Errno::PERM | Errno::AGAIN) => {
            walk(root, path, flags).map(|end| end.file)
        }
        answer => answer,
    }
}

/// Opens again what `handle`, opened as a mere place, stands for.
pub(super) fn reopen(handle: &OwnedFd, flags: OFlags) -> Result<OwnedFd, Errno> {
    let path = format!("/proc/self/fd/{}", handle.as_raw_fd());
    rustix::fs::openat(CWD, path.as_str(), flags, Mode::empty())
}

/// The path inside `root` that `path` leads to once all links are followed.
pub(super) fn resolve(root: BorrowedFd<'_>, path: &Path) -> Result<PathBuf, Errno> {
    walk(root, path, OFlags::PATH | OFlags::CLOEXEC).map(|end| end.path)
}

struct End {
    file: OwnedFd,
    path: PathBuf,
}

/// The portable way: one part at a time.
fn walk(root: BorrowedFd<'_>, path: &Path, flags: OFlags) -> Result<End, Errno> {
    let place = OFlags::PATH | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    let mut parts: VecDeque<OsString> = path_parts(path).collect();
    let mut above: Vec<(OwnedFd, OsString)> = Vec::new();
    let mut links = 0;
    while let Some(part) = parts.pop_front() {
        if part == ".." {
            above.pop();
            continue;
        }
        let here = above.last().map_or(root, |(fd, _)| std::os::fd::AsFd::as_fd(fd));
        let next = rustix::fs::openat(here, &part, place, Mode::empty())?;
        let stat = rustix::fs::fstat(&next)?;
        if FileType::from_raw_mode(stat.st_mode) != FileType::Symlink {
            above.push((next, part));
            continue;
        }
        links += 1;
        if links > MOST_LINKS {
            return Err(Errno::LOOP);
        }
        let target = rustix::fs::readlinkat(&next, "", Vec::new())?.into_bytes();
        if target.starts_with(b"/") {
            above.clear();
        }
        let mut ahead: VecDeque<OsString> =
            path_parts(Path::new(OsStr::from_bytes(&target))).collect();
        ahead.append(&mut parts);
        parts = ahead;
    }
    let mut resolved = PathBuf::from("/");
    resolved.extend(above.iter().map(|(_, name)| name));
    let file = match above.pop() {
        None => rustix::fs::openat(root, ".", flags, Mode::empty())?,
        Some((end, _)) if flags.contains(OFlags::PATH) => {
            // A folder was asked for: the last part must be one.
            if flags.contains(OFlags::DIRECTORY) {
                let stat = rustix::fs::statat(&end, "", AtFlags::EMPTY_PATH)?;
                if FileType::from_raw_mode(stat.st_mode) != FileType::Directory {
                    return Err(Errno::NOTDIR);
                }
            }
            end
        }
        Some((_, name)) => {
            let parent = above.last().map_or(root, |(fd, _)| std::os::fd::AsFd::as_fd(fd));
            rustix::fs::openat(parent, &name, flags | OFlags::NOFOLLOW, Mode::empty())?
        }
    };
    Ok(End { file, path: resolved })
}

#[cfg(test)]
mod tests {
    use std::os::fd::AsFd;

    use rstest::rstest;

    use super::*;

    fn tree() -> tempfile::TempDir {
        let folder = tempfile::tempdir().unwrap();
        let root = folder.path();
        std::fs::create_dir_all(root.join("etc/deep")).unwrap();
        std::fs::write(root.join("etc/name"), "inside").unwrap();
        let link = |target: &str, name: &str| {
            std::os::unix::fs::symlink(target, root.join(name)).unwrap();
        };
        link("/etc/name", "absolute");
        link("../../../../../../etc/name", "upward");
        link("etc", "folder");
        link("/", "root");
        link("loop-b", "loop-a");
        link("loop-a", "loop-b");
        folder
    }

    /// Both ways of opening must answer alike.
    #[rstest]
    #[case("etc/name", Ok("/etc/name"))]
    #[case("/etc/name", Ok("/etc/name"))]
    #[case("absolute", Ok("/etc/name"))]
    #[case("upward", Ok("/etc/name"))]
    #[case("folder/deep/../name", Ok("/etc/name"))]
    #[case("root/root/../etc/./name", Ok("/etc/name"))]
    #[case("../../../etc/name", Ok("/etc/name"))]
    #[case("loop-a", Err(Errno::LOOP))]
    #[case("etc/none", Err(Errno::NOENT))]
    #[case("etc/name/more", Err(Errno::NOTDIR))]
    fn a_path_never_leaves_the_folder(#[case] path: &str, #[case] expected: Result<&str, Errno>) {
        let folder = tree();
        let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::CLOEXEC;
        let root = rustix::fs::open(folder.path(), flags, Mode::empty()).unwrap();
        let read = OFlags::RDONLY | OFlags::CLOEXEC;
        let walked = walk(root.as_fd(), Path::new(path), read);
        assert_eq!(
            walked.as_ref().map(|end| end.path.clone()).map_err(|errno| *errno),
            expected.map(PathBuf::from)
        );
        let identity = |file: &OwnedFd| {
            let stat = rustix::fs::fstat(file).unwrap();
            (stat.st_dev, stat.st_ino)
        };
        assert_eq!(
            open(root.as_fd(), Path::new(path), read).map(|file| identity(&file)),
            walked.map(|end| identity(&end.file))
        );
    }
}
