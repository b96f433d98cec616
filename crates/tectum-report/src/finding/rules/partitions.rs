//! The partitions of all disks, as several rules look at them.

use crate::{finding::judge::Judge, model::Partition};

/// Every partition of a disk, with its pointer.
pub(super) fn partitions<'a>(it: &mut Judge<'a>) -> Vec<(String, &'a Partition)> {
    let storage = it.section(&it.report().inventory.storage, "/inventory/storage");
    let Some(storage) = storage else { return Vec::new() };
    let mut all = Vec::new();
    for (at, disk) in it.parts(&storage.disks, "/inventory/storage/disks") {
        all.extend(it.parts(&disk.partitions, &format!("{at}/partitions")));
    }
    all
}
