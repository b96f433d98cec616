//! From what was walked to what is told of it.

use std::{cmp::Reverse, collections::HashMap, ffi::OsStr, os::unix::ffi::OsStrExt, path::Path};

use jiff::Timestamp;
use tectum_report::space::{
    Difference, Excluded, FileSize, Filesystem, FolderSize, Space, SpaceGap, Sum,
};

use super::{
    Plan,
    folders::{Content, Folder, Folders, Number},
    signed, sum_of,
    walk::Walked,
};
use crate::source::path_text;

/// A point in time; what no calendar reaches is told as its end.
fn time(seconds: i64) -> Timestamp {
    let most = Timestamp::MAX.as_second();
    let least = Timestamp::MIN.as_second();
    Timestamp::from_second(seconds.clamp(least, most)).unwrap_or(Timestamp::UNIX_EPOCH)
}

fn newest(content: &Content) -> Option<Timestamp> {
    (content.newest != i64::MIN).then(|| time(content.newest))
}

fn oldest(content: &Content) -> Option<Timestamp> {
    (content.oldest != i64::MAX).then(|| time(content.oldest))
}

/// What was walked, as it is told; the filesystem's figures are not known here.
pub(super) fn space(plan: &Plan, path: &Path, walked: Walked) -> Space {
    let folders = &walked.folders;
    let all = folders.get(0).map(|root| root.content).unwrap_or_default();
    let whole = |within: &Path| joined(path, within);
    let files = walked.largest.iter().map(|file| FileSize {
        path: whole(&folders.path(file.folder).join(OsStr::from_bytes(file.name.to_bytes()))),
        allocated_bytes: file.allocated,
        apparent_bytes: file.apparent,
        links: file.links,
        changed: time(file.changed),
    });
    let excluded = plan.exclude.iter().zip(&walked.excluded);
    Space {
        path: path_text(path).into_owned(),
        at: Timestamp::UNIX_EPOCH,
        elapsed_ms: 0,
        across_mounts: plan.across_mounts,
        changed_before: plan.changed_before,
        excluded: excluded
            .map(|(pattern, entries)| Excluded { pattern: pattern.clone(), entries: *entries })
            .collect(),
        sum: Sum {
            allocated_bytes: all.allocated,
            apparent_bytes: all.apparent,
            files: all.files,
            folders: all.folders,
            others: all.others,
            hard_linked_files: walked.hard_linked,
            hard_links_saved_bytes: walked.hard_links_saved,
            sparse_files: all.sparse_files,
            sparse_bytes: all.sparse,
            newest_change: newest(&all),
            oldest_change: oldest(&all),
            vanished: walked.vanished,
        },
        filesystem: None,
        difference: None,
        folders: listed(plan, path, folders),
        files: files.collect(),
        deleted_open: Vec::new(),
        mounts_passed_over: Vec::new(),
        beneath_mounts: Vec::new(),
        gaps: walked
            .gaps
            .iter()
            .map(|(within, why)| SpaceGap { path: whole(within), why: why.clone() })
            .collect(),
        more_gaps: walked.more_gaps,
    }
}

fn joined(path: &Path, within: &Path) -> String {
    // Joined with nothing a path would end in a slash.
    let nothing = within.as_os_str().is_empty();
    path_text(&if nothing { path.to_owned() } else { path.join(within) }).into_owned()
}

/// The largest folders, each followed by those within it.
fn listed(plan: &Plan, path: &Path, folders: &Folders) -> Vec<FolderSize> {
    let mut within: HashMap<Number, Vec<Number>> = HashMap::new();
    for (number, folder) in (0..).zip(folders.iter()) {
        // One deeper than is listed, to tell what is not.
        if number != 0 && folder.depth <= plan.depth.saturating_add(1) {
            within.entry(folder.parent).or_default().push(number);
        }
    }
    let size = |number: &Number| folders.get(*number).map_or(0, |it| it.content.allocated);
    let mut told = Vec::new();
    let mut ahead = vec![0];
    while let Some(number) = ahead.pop() {
        let Some(folder) = folders.get(number) else { continue };
        let mut inner = within.remove(&number).unwrap_or_default();
        inner.sort_by_key(|number| {
            (Reverse(size(number)), folders.get(*number).map(|folder| folder.name.clone()))
        });
        let most = if folder.depth < plan.depth { plan.top } else { 0 };
        let rest = inner.split_off(inner.len().min(most));
        told.push(told_of(path, folders, number, folder, &rest));
        ahead.extend(inner.into_iter().rev());
    }
    told
}

fn told_of(
    path: &Path,
    folders: &Folders,
    number: Number,
    folder: &Folder,
    rest: &[Number],
) -> FolderSize {
    let rest_bytes = rest.iter().filter_map(|number| folders.get(*number));
    FolderSize {
        path: joined(path, &folders.path(number)),
        depth: folder.depth,
        allocated_bytes: folder.content.allocated,
        apparent_bytes: folder.content.apparent,
        own_files_bytes: folder.own_files,
        files: folder.content.files,
        folders: folder.content.folders.saturating_sub(1),
        newest_change: newest(&folder.content),
        oldest_change: oldest(&folder.content),
        not_listed: rest.len() as u64,
        not_listed_bytes: rest_bytes.map(|folder| folder.content.allocated).sum(),
    }
}

/// The filesystem's own figure beside the sum.
pub(super) fn difference(
    own: &Filesystem,
    space: &Space,
    processes_not_asked: u64,
    beneath_mounts_seen: bool,
) -> Difference {
    let found_bytes = space.sum.allocated_bytes;
    let deleted_open_bytes = sum_of(&space.deleted_open);
    let beneath_mounts_bytes = space.beneath_mounts.iter().map(|one| one.allocated_bytes).sum();
    let told = [found_bytes, deleted_open_bytes, beneath_mounts_bytes];
    let left = told
        .into_iter()
        .fold(signed(own.used_bytes), |left, part| left.saturating_sub(signed(part)));
    Difference {
        used_bytes: own.used_bytes,
        found_bytes,
        deleted_open_bytes,
        beneath_mounts_bytes,
        left_bytes: left,
        folders_not_read: (space.gaps.len() as u64).saturating_add(space.more_gaps),
        processes_not_asked,
        beneath_mounts_seen,
    }
}
