//! Several files that belong together: all are on the disk before the first of them has its name.

use std::{
    ffi::OsString,
    io::{self, Write},
    os::fd::{AsFd, OwnedFd},
    path::{Path, PathBuf},
};

use rustix::fs::{AtFlags, FileType};

use super::{
    SaveError, because,
    draft::{Draft, sweep, sync_folder},
    filled,
    place::{Place, find},
};

/// Several files that belong together, each whole or not at all, in an order: what is in a later stage has its
/// name only once those before it have theirs, on the disk.
///
/// Each is an open file until then, so these are for some dozens.
#[derive(Default)]
pub struct Together {
    folders: Vec<(PathBuf, OwnedFd)>,
    stages: Vec<Vec<Ready>>,
}

/// A file that is written and has no name yet.
struct Ready {
    path: PathBuf,
    /// The folder, by its row.
    folder: usize,
    name: OsString,
    stands: bool,
    draft: Draft,
}

impl std::fmt::Debug for Together {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let paths = |stage: &Vec<Ready>| stage.iter().map(|one| one.path.clone()).collect();
        let stages: Vec<Vec<PathBuf>> = self.stages.iter().map(paths).collect();
        f.debug_struct("Together").field("stages", &stages).finish_non_exhaustive()
    }
}

impl Together {
    /// Begins the next stage.
    pub fn stage(&mut self) {
        self.stages.push(Vec::new());
    }

    /// Writes a file of this stage, for its owner only (mode 0600). It has no name yet.
    ///
    /// # Errors
    /// A [`SaveError`] that says what failed; or that something else than a file stands there.
    pub fn write(
        &mut self,
        path: &Path,
        write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
    ) -> Result<(), SaveError> {
        let failed = because(path);
        let (folder, name, stands) = self.place(path).map_err(failed("finding where it goes"))?;
        let Some((_, own)) = self.folders.get(folder) else { return Ok(()) };
        let draft = filled(own.as_fd(), write).map_err(failed("writing"))?;
        if self.stages.is_empty() {
            self.stage();
        }
        if let Some(stage) = self.stages.last_mut() {
            stage.push(Ready { path: path.to_owned(), folder, name, stands, draft });
        }
        Ok(())
    }

    /// Brings all of them onto the disk, and then gives them their names, stage by stage.
    ///
    /// # Errors
    /// A [`SaveError`] that says what failed; what had its name by then keeps it.
    pub fn publish(self) -> Result<(), SaveError> {
        for one in self.stages.iter().flatten() {
            one.draft.sync().map_err(because(&one.path)("writing"))?;
        }
        for stage in self.stages {
            let mut touched = Vec::new();
            for Ready { path, folder, name, stands, draft } in stage {
                let Some((_, own)) = self.folders.get(folder) else { continue };
                draft
                    .publish(own.as_fd(), &name, stands)
                    .map_err(because(&path)("giving the file its name"))?;
                if !touched.contains(&folder) {
                    touched.push(folder);
                }
            }
            for (_, folder) in touched.iter().filter_map(|row| self.folders.get(*row)) {
                sync_folder(folder.as_fd());
            }
        }
        Ok(())
    }

    /// The folder of a path, the name in it, and whether a file stands there.
    fn place(&mut self, path: &Path) -> io::Result<(usize, OsString, bool)> {
        let above = path.parent().unwrap_or_else(|| Path::new(""));
        let known = self
            .folders
            .iter()
            .position(|(folder, _)| folder == above && !above.as_os_str().is_empty());
        if let (Some(row), Some(name)) = (known, path.file_name())
            && let Some((_, folder)) = self.folders.get(row)
        {
            match rustix::fs::statat(folder, name, AtFlags::SYMLINK_NOFOLLOW) {
                Err(rustix::io::Errno::NOENT) => return Ok((row, name.to_owned(), false)),
                Ok(stat) if FileType::from_raw_mode(stat.st_mode) == FileType::RegularFile => {
                    return Ok((row, name.to_owned(), true));
                }
                // A link is followed as anywhere.
                _ => {}
            }
        }
        // Where no link leads elsewhere, others of the folder are written beside it.
        let plain = path.symlink_metadata().map_or(true, |own| own.is_file());
        match find(path)? {
            Place::Stream(_) => Err(io::Error::other("something else than a file stands there")),
            Place::Name { folder, name, stands } => {
                sweep(folder.as_fd());
                let above = if plain { above.to_owned() } else { PathBuf::new() };
                self.folders.push((above, folder));
                Ok((self.folders.len() - 1, name, stands))
            }
        }
    }
}
