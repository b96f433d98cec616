//! What lies in folders over which something is mounted: hidden from every path, and it takes room all the same.

use std::{
    cmp::Reverse,
    path::{Path, PathBuf},
};

use rustix::{
    fs::{CWD, Mode, OFlags},
    mount::{OpenTreeFlags, open_tree},
};
use tectum_report::space::BeneathMount;

use super::{
    Progress,
    walk::{Root, Rules, walk},
};
use crate::source::path_text;

/// What was found beneath mount points.
#[derive(Debug, Default)]
pub(super) struct Beneath {
    pub(super) found: Vec<BeneathMount>,
    /// Whether it could be looked there.
    pub(super) seen: bool,
}

/// Looks beneath what is mounted on the filesystem at a path: in a copy of its mount that nobody else sees, and on
/// which nothing is mounted. The kernel gives that to root only.
pub(super) fn look(path: &Path, mounted: &[PathBuf], rules: &Rules) -> Beneath {
    let flags = OpenTreeFlags::OPEN_TREE_CLONE | OpenTreeFlags::OPEN_TREE_CLOEXEC;
    let Ok(bare) = open_tree(CWD, path, flags) else {
        return Beneath { found: Vec::new(), seen: mounted.is_empty() };
    };
    let rules = Rules { confined: false, largest: 0, ..rules.clone() };
    let mut found = Vec::new();
    for point in mounted {
        let Ok(way) = point.strip_prefix(path) else { continue };
        let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
        // What is not there lies on another filesystem, which is mounted here itself.
        let Ok(folder) = rustix::fs::openat(&bare, way, flags, Mode::empty()) else { continue };
        let Ok(root) = Root::new(folder) else { continue };
        let walked = walk(root, &rules, &Progress::default());
        let Some(all) = walked.folders.get(0) else { continue };
        let within = all.content.allocated.saturating_sub(all.own.0);
        if all.content.files + all.content.others == 0 && all.content.folders <= 1 {
            continue;
        }
        found.push(BeneathMount {
            mount_point: path_text(point).into_owned(),
            allocated_bytes: within,
            files: all.content.files,
        });
    }
    found.sort_by_key(|one| Reverse(one.allocated_bytes));
    Beneath { found, seen: true }
}
