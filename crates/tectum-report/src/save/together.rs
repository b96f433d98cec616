//! Several files that belong together: all are on the disk before the first of them has its name.

use std::{
    ffi::OsString,
    io::{self, Write},
    os::fd::{AsFd, OwnedFd},
    path::{Path, PathBuf},
    rc::Rc,
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
    /// Folders that were written in, each by the path that led there.
    folders: Vec<(PathBuf, Rc<OwnedFd>)>,
    stages: Vec<Vec<Ready>>,
}

/// A file that is written and has no name yet.
struct Ready {
    path: PathBuf,
    folder: Rc<OwnedFd>,
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
        let draft = filled(folder.as_fd(), write).map_err(failed("writing"))?;
        let ready = Ready { path: path.to_owned(), folder, name, stands, draft };
        match self.stages.last_mut() {
            Some(stage) => stage.push(ready),
            None => self.stages.push(vec![ready]),
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
            let mut touched: Vec<Rc<OwnedFd>> = Vec::new();
            for Ready { path, folder, name, stands, draft } in stage {
                draft
                    .publish(folder.as_fd(), &name, stands)
                    .map_err(because(&path)("giving the file its name"))?;
                if !touched.iter().any(|own| Rc::ptr_eq(own, &folder)) {
                    touched.push(folder);
                }
            }
            touched.iter().for_each(|folder| sync_folder(folder.as_fd()));
        }
        Ok(())
    }

    /// The folder of a path, the name in it, and whether a file stands there.
    fn place(&mut self, path: &Path) -> io::Result<(Rc<OwnedFd>, OsString, bool)> {
        let above = path.parent().unwrap_or_else(|| Path::new(""));
        let known = self.folders.iter().find(|(own, _)| own == above && own.parent().is_some());
        if let (Some((_, folder)), Some(name)) = (known, path.file_name()) {
            let there = |stands| Ok((Rc::clone(folder), name.to_owned(), stands));
            match rustix::fs::statat(folder, name, AtFlags::SYMLINK_NOFOLLOW) {
                Err(rustix::io::Errno::NOENT) => return there(false),
                Ok(stat) if FileType::from_raw_mode(stat.st_mode) == FileType::RegularFile => {
                    return there(true);
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
                let folder = Rc::new(folder);
                if plain {
                    self.folders.push((above.to_owned(), Rc::clone(&folder)));
                }
                Ok((folder, name, stands))
            }
        }
    }
}
