//! The folders that were met: where each is, and what is in it.

use std::{
    cmp::Ordering,
    ffi::{CStr, OsStr},
    os::unix::ffi::OsStrExt,
    path::PathBuf,
};

/// A folder's number in the table. Those within a folder have greater ones than it.
pub(super) type Number = u32;

/// What is in a folder.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Content {
    pub(super) allocated: u64,
    pub(super) apparent: u64,
    pub(super) files: u64,
    pub(super) folders: u64,
    pub(super) others: u64,
    pub(super) sparse_files: u64,
    pub(super) sparse: u64,
    /// Seconds since 1970; nothing where there is no file.
    pub(super) newest: i64,
    pub(super) oldest: i64,
}

impl Default for Content {
    fn default() -> Self {
        Self {
            allocated: 0,
            apparent: 0,
            files: 0,
            folders: 0,
            others: 0,
            sparse_files: 0,
            sparse: 0,
            newest: i64::MIN,
            oldest: i64::MAX,
        }
    }
}

impl Content {
    /// The same with what is in another.
    pub(super) fn add(&mut self, other: &Self) {
        self.allocated = self.allocated.saturating_add(other.allocated);
        self.apparent = self.apparent.saturating_add(other.apparent);
        self.files += other.files;
        self.folders += other.folders;
        self.others += other.others;
        self.sparse_files += other.sparse_files;
        self.sparse = self.sparse.saturating_add(other.sparse);
        self.newest = self.newest.max(other.newest);
        self.oldest = self.oldest.min(other.oldest);
    }
}

/// A folder.
#[derive(Debug)]
pub(super) struct Folder {
    pub(super) parent: Number,
    pub(super) name: Box<CStr>,
    pub(super) depth: u32,
    /// Bytes kept for the folder itself, and its length.
    pub(super) own: (u64, u64),
    /// What is in it; after [`Folders::sum_up`] with what is in the folders within.
    pub(super) content: Content,
    /// Bytes kept for the files in it itself.
    pub(super) own_files: u64,
}

/// All folders, the one asked for first.
#[derive(Debug)]
pub(super) struct Folders(Vec<Folder>);

impl Folders {
    /// A table that holds the folder asked for.
    pub(super) fn of_root(own: (u64, u64)) -> Self {
        Self(vec![Folder {
            parent: 0,
            name: Box::default(),
            depth: 0,
            own,
            content: Content::default(),
            own_files: 0,
        }])
    }

    pub(super) fn get(&self, number: Number) -> Option<&Folder> {
        self.0.get(number as usize)
    }

    pub(super) fn get_mut(&mut self, number: Number) -> Option<&mut Folder> {
        self.0.get_mut(number as usize)
    }

    pub(super) fn iter(&self) -> impl Iterator<Item = &Folder> {
        self.0.iter()
    }

    /// Adds a folder; `None` where there are more than a number can tell.
    pub(super) fn add(&mut self, parent: Number, name: &CStr, own: (u64, u64)) -> Option<Number> {
        let number = Number::try_from(self.0.len()).ok()?;
        let depth = self.get(parent).map_or(0, |parent| parent.depth.saturating_add(1));
        self.0.push(Folder {
            parent,
            name: name.into(),
            depth,
            own,
            content: Content::default(),
            own_files: 0,
        });
        Some(number)
    }

    /// The names from the folder asked for to this one.
    pub(super) fn way(&self, number: Number) -> Vec<&CStr> {
        let mut way = Vec::new();
        let mut at = number;
        while at != 0
            && let Some(folder) = self.get(at)
        {
            way.push(&*folder.name);
            at = folder.parent;
        }
        way.reverse();
        way
    }

    /// The path beneath the one asked for.
    pub(super) fn path(&self, number: Number) -> PathBuf {
        self.way(number).into_iter().map(|name| OsStr::from_bytes(name.to_bytes())).collect()
    }

    /// Which of two folders comes first in the order of paths.
    pub(super) fn order(&self, one: Number, other: Number) -> Ordering {
        self.way(one).cmp(&self.way(other))
    }

    /// Adds what is in each folder to those that it is in.
    pub(super) fn sum_up(&mut self) {
        for number in (0..self.0.len()).rev() {
            let Some(folder) = self.0.get_mut(number) else { continue };
            folder.content.allocated = folder.content.allocated.saturating_add(folder.own.0);
            folder.content.apparent = folder.content.apparent.saturating_add(folder.own.1);
            folder.content.folders += 1;
            let (parent, content) = (folder.parent as usize, folder.content);
            if number != 0
                && let Some(parent) = self.0.get_mut(parent)
            {
                parent.content.add(&content);
            }
        }
    }
}
