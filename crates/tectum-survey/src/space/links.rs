//! Files with several names: each is counted once, in the folder that comes first in the order of paths, whatever
//! thread met it first.

use std::collections::HashMap;

use super::folders::{Content, Folders, Number};

/// So many files with several names are kept in mind; of more, each name is counted.
pub(super) const MOST: usize = 1 << 23;

/// Which file it is: the device's numbers and the inode's.
pub(super) type Inode = (u32, u32, u64);

/// A file with several names.
#[derive(Debug, Clone, Copy)]
struct Linked {
    folder: Number,
    met: u32,
    file: Content,
}

/// The files with several names that were met.
#[derive(Debug, Default)]
pub(super) struct Links(HashMap<Inode, Linked>);

impl Links {
    /// Another name of a file; `false` where no more files are kept in mind.
    pub(super) fn meet(
        &mut self,
        inode: Inode,
        folder: Number,
        file: Content,
        folders: &Folders,
    ) -> bool {
        if let Some(known) = self.0.get_mut(&inode) {
            known.met = known.met.saturating_add(1);
            if known.folder != folder && folders.order(folder, known.folder).is_lt() {
                known.folder = folder;
            }
            return true;
        }
        if self.0.len() >= MOST {
            return false;
        }
        self.0.insert(inode, Linked { folder, met: 1, file });
        true
    }

    /// Adds each file to its folder. Says of how many more than one name was met, and what those would have added.
    pub(super) fn count(self, folders: &mut Folders) -> (u64, u64) {
        let (mut several, mut saved) = (0u64, 0u64);
        for linked in self.0.into_values() {
            if linked.met > 1 {
                several += 1;
                let more = u64::from(linked.met - 1);
                saved = saved.saturating_add(linked.file.allocated.saturating_mul(more));
            }
            if let Some(folder) = folders.get_mut(linked.folder) {
                folder.content.add(&linked.file);
                folder.own_files = folder.own_files.saturating_add(linked.file.allocated);
            }
        }
        (several, saved)
    }
}
