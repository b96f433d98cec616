//! Files written whole or not at all.

use std::{
    fs::Permissions,
    io::{self, BufWriter, Write},
    os::unix::fs::PermissionsExt,
    path::{Path, PathBuf},
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

/// Writes a file: into a temporary one beside it, synced, then renamed, so that the path holds the
/// whole or what it held before.
///
/// The file is for its owner only (mode 0600): reports hold serial numbers.
///
/// # Errors
/// A [`SaveError`] that says what failed.
pub fn write_whole(
    path: &Path,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), SaveError> {
    let failed =
        |doing: &'static str| move |cause| SaveError { path: path.to_owned(), doing, cause };
    // A link is written through; a device or FIFO is not what a saved file should replace.
    let target = match std::fs::canonicalize(path) {
        Ok(target) if target.is_file() => target,
        Ok(_) => {
            let cause = io::Error::other("something else than a regular file stands there");
            return Err(failed("looking at what stands there")(cause));
        }
        Err(error) if error.kind() == io::ErrorKind::NotFound => path.to_owned(),
        Err(error) => return Err(failed("looking at what stands there")(error)),
    };
    let folder = match target.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    };
    if let Some(nameless) = nameless(folder) {
        let mut buffered = BufWriter::new(&nameless);
        write(&mut buffered).and_then(|()| buffered.flush()).map_err(failed("writing"))?;
        drop(buffered);
        nameless.sync_all().map_err(failed("syncing"))?;
        return name(&nameless, folder, &target).map_err(failed("giving the file its name"));
    }
    let temporary = tempfile::Builder::new()
        .prefix(".tectum-")
        .permissions(Permissions::from_mode(0o600))
        .tempfile_in(folder)
        .map_err(failed("making a temporary file beside it"))?;
    {
        let mut buffered = BufWriter::new(temporary.as_file());
        write(&mut buffered).and_then(|()| buffered.flush()).map_err(failed("writing"))?;
    }
    temporary.as_file().sync_all().map_err(failed("syncing"))?;
    temporary.persist(&target).map_err(|error| failed("renaming")(error.error))?;
    sync_folder(folder);
    Ok(())
}

/// A file without a name, of which nothing stays if the program is killed while it writes; `None`
/// where the filesystem has no such files.
fn nameless(folder: &Path) -> Option<std::fs::File> {
    use rustix::fs::{CWD, Mode, OFlags};
    let flags = OFlags::TMPFILE | OFlags::WRONLY | OFlags::CLOEXEC;
    let file = rustix::fs::openat(CWD, folder, flags, Mode::RUSR | Mode::WUSR).ok()?;
    Some(file.into())
}

/// Gives a nameless file a name beside the target, then the target's.
fn name(file: &std::fs::File, folder: &Path, target: &Path) -> io::Result<()> {
    use rustix::fs::{AtFlags, CWD};
    use std::os::fd::AsRawFd;
    let from = format!("/proc/self/fd/{}", file.as_raw_fd());
    let beside = (0..64).find_map(|number| {
        let beside = folder.join(format!(".tectum-{}-{number}", std::process::id()));
        match rustix::fs::linkat(CWD, from.as_str(), CWD, &beside, AtFlags::SYMLINK_FOLLOW) {
            Err(rustix::io::Errno::EXIST) => None,
            Err(error) => Some(Err(io::Error::from(error))),
            Ok(()) => Some(Ok(beside)),
        }
    });
    let beside = beside.unwrap_or_else(|| Err(io::Error::other("no free name beside it")))?;
    if let Err(error) = std::fs::rename(&beside, target) {
        // The half-way name goes; why the rename failed is what matters.
        let _ = std::fs::remove_file(&beside);
        return Err(error);
    }
    sync_folder(folder);
    Ok(())
}

/// The new name is only safe once the folder is on the disk too. A filesystem that cannot sync
/// folders has done all it can.
fn sync_folder(folder: &Path) {
    if let Ok(folder) = std::fs::File::open(folder) {
        let _ = folder.sync_all();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_failed_write_leaves_what_stood_there() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("report.json");
        write_whole(&path, |to| to.write_all(b"first")).unwrap();
        let error = write_whole(&path, |to| {
            to.write_all(b"half")?;
            Err(io::Error::other("broken off"))
        });
        assert_eq!(error.unwrap_err().doing, "writing");
        assert_eq!(std::fs::read(&path).unwrap(), b"first");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1, "no temporary file stays");
        let mode = std::fs::metadata(&path).unwrap().permissions().mode();
        assert_eq!(mode & 0o777, 0o600);
    }

    /// A program that is killed while it writes leaves nothing behind: there is no file to see
    /// until the whole is there.
    #[test]
    fn nothing_is_to_be_seen_while_it_is_written() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("report.json");
        let seen = |folder: &Path| std::fs::read_dir(folder).unwrap().count();
        write_whole(&path, |to| {
            to.write_all(b"half")?;
            assert_eq!(seen(folder.path()), 0);
            Ok(())
        })
        .unwrap();
        assert_eq!(seen(folder.path()), 1);
    }

    #[test]
    fn a_device_is_not_replaced() {
        assert!(write_whole(Path::new("/dev/null"), |_| Ok(())).is_err());
    }
}
