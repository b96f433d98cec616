//! What lies behind a door: a file tree or an archive, asked alike.

use std::{
    ffi::OsString,
    path::{Path, PathBuf},
};

use super::{
    Archive, CaptureRecord, Content, Outcome, SystemNames, Tree, VolumeUse, capture::Stands,
    tree::Want,
};

/// Where the answers come from.
#[derive(Debug)]
pub(super) enum Backend {
    Tree(Box<Tree>),
    Archive(Box<Archive>),
    /// A tree in which one file hangs, as a file on a dead network mount does.
    #[cfg(test)]
    Hanging(Box<Tree>, PathBuf),
}

impl Backend {
    pub(super) fn is_live(&self) -> bool {
        matches!(self, Self::Tree(tree) if tree.is_live())
    }

    pub(super) fn is_running(&self) -> bool {
        matches!(self, Self::Tree(tree) if tree.is_running())
    }

    pub(super) fn is_privileged(&self) -> bool {
        match self.record() {
            Some(record) => record.privileged,
            None => rustix::process::geteuid().is_root(),
        }
    }

    pub(super) fn record(&self) -> Option<&CaptureRecord> {
        match self {
            Self::Archive(archive) => archive.record(),
            _ => None,
        }
    }

    pub(super) fn read(&self, path: &Path, want: Want) -> Result<Content, Outcome> {
        match self {
            Self::Tree(tree) => tree.read(path, want),
            Self::Archive(archive) => {
                let (Want::UpTo(limit) | Want::First(limit)) = want;
                archive.read_file(path, limit)
            }
            #[cfg(test)]
            Self::Hanging(_, stuck) if stuck == path => loop {
                std::thread::park();
            },
            #[cfg(test)]
            Self::Hanging(tree, _) => tree.read(path, want),
        }
    }

    pub(super) fn list(&self, path: &Path) -> Result<(Vec<OsString>, bool), Outcome> {
        match self {
            Self::Tree(tree) => tree.list(path),
            Self::Archive(archive) => archive.list(path),
            #[cfg(test)]
            Self::Hanging(tree, _) => tree.list(path),
        }
    }

    pub(super) fn resolve(&self, path: &Path) -> Result<PathBuf, Outcome> {
        match self {
            Self::Tree(tree) => tree.resolve(path),
            Self::Archive(archive) => archive.resolve(path),
            #[cfg(test)]
            Self::Hanging(tree, _) => tree.resolve(path),
        }
    }

    pub(super) fn statvfs(&self, path: &Path) -> Result<VolumeUse, Outcome> {
        match self {
            Self::Tree(tree) => tree.statvfs(path),
            Self::Archive(archive) => archive.statvfs(path),
            #[cfg(test)]
            Self::Hanging(tree, _) => tree.statvfs(path),
        }
    }

    pub(super) fn uname(&self) -> Result<SystemNames, Outcome> {
        match self {
            Self::Tree(tree) => tree.uname(),
            Self::Archive(archive) => archive.uname(),
            #[cfg(test)]
            Self::Hanging(tree, _) => tree.uname(),
        }
    }

    /// What stands at a path whose parents are no links.
    pub(super) fn look(&self, path: &Path) -> Stands {
        match self {
            Self::Tree(tree) => tree.look(path),
            Self::Archive(archive) => archive.look(path),
            #[cfg(test)]
            Self::Hanging(tree, _) => tree.look(path),
        }
    }
}
