//! A tree of files in memory, and its writing.

use std::{
    collections::BTreeMap,
    fs, io,
    path::{Path, PathBuf},
};

use crate::{Machine, content, devices, disk, dmi, memory, procfs, sysfs, system, volume};

/// Files and links by their path without the leading slash.
#[derive(Debug, Clone, Default)]
pub struct Tree {
    entries: BTreeMap<String, Entry>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Entry {
    File(Vec<u8>),
    Link(String),
    Folder,
}

/// Why a tree could not be written.
#[derive(Debug, thiserror::Error)]
#[error("cannot write {}: {cause}", path.display())]
pub struct WriteError {
    /// The file, link or folder.
    pub path: PathBuf,
    /// What the system answered.
    #[source]
    pub cause: io::Error,
}

impl Tree {
    /// The files that stand for a machine.
    pub fn of(machine: &Machine) -> Self {
        let mut tree = Self::default();
        procfs::put(machine, &mut tree);
        sysfs::put(machine, &mut tree);
        disk::put(machine, &mut tree);
        volume::put(machine, &mut tree);
        content::put(machine, &mut tree);
        dmi::put(machine, &mut tree);
        memory::put(machine, &mut tree);
        system::put(machine, &mut tree);
        devices::put(machine, &mut tree);
        for path in &machine.removed {
            tree.remove(path);
        }
        for (path, content) in &machine.files {
            tree.file(path.as_str(), content.as_str());
        }
        for (path, target) in &machine.links {
            tree.link(path.as_str(), target);
        }
        tree
    }

    /// Puts a file; one that stood there is replaced.
    pub fn file(&mut self, path: impl Into<String>, content: impl Into<Vec<u8>>) {
        self.entries.insert(path.into(), Entry::File(content.into()));
    }

    /// Puts a file of one line.
    pub fn line(&mut self, path: impl Into<String>, text: impl std::fmt::Display) {
        self.file(path, format!("{text}\n"));
    }

    /// Puts a link to an absolute path of the tree; it is written relative, so that it leads there
    /// wherever the folder lies.
    pub fn link(&mut self, path: impl Into<String>, target: &str) {
        let path = path.into();
        let up = "../".repeat(path.matches('/').count());
        self.entries.insert(path, Entry::Link(up + target.trim_start_matches('/')));
    }

    /// Puts a folder.
    pub fn folder(&mut self, path: impl Into<String>) {
        self.entries.insert(path.into(), Entry::Folder);
    }

    /// Takes away whatever stands at a path or below it.
    pub fn remove(&mut self, path: &str) {
        let below = format!("{path}/");
        self.entries.retain(|at, _| at != path && !at.starts_with(&below));
    }

    /// Writes the tree into a folder, which is made if it is not there.
    ///
    /// # Errors
    /// A [`WriteError`] that names what could not be written.
    pub fn write(&self, root: &Path) -> Result<(), WriteError> {
        self.write_over(&Self::default(), root)
    }

    /// Writes what is other than in a tree that was written into the folder before, and takes away what is gone.
    ///
    /// # Errors
    /// A [`WriteError`] that names what could not be written.
    pub fn write_over(&self, before: &Self, root: &Path) -> Result<(), WriteError> {
        // What lies in a folder comes behind it.
        for (at, entry) in before.entries.iter().rev() {
            if self.entries.get(at) == Some(entry) {
                continue;
            }
            let path = root.join(at);
            let gone = match entry {
                // Something else may lie in it.
                Entry::Folder => fs::remove_dir(&path).or(Ok(())),
                Entry::File(_) | Entry::Link(_) => fs::remove_file(&path),
            };
            gone.map_err(|cause| WriteError { path, cause })?;
            self.clear_above(at, root);
        }
        let other =
            self.entries.iter().filter(|(at, entry)| before.entries.get(*at) != Some(entry));
        for (at, entry) in other {
            let path = root.join(at);
            let wrote = match entry {
                Entry::Folder => fs::create_dir_all(&path),
                Entry::File(content) => make_parent(&path).and_then(|()| fs::write(&path, content)),
                Entry::Link(target) => {
                    make_parent(&path).and_then(|()| std::os::unix::fs::symlink(target, &path))
                }
            };
            wrote.map_err(|cause| WriteError { path, cause })?;
        }
        Ok(())
    }

    /// Takes away the folders above a path that hold nothing any more, but for those that the tree has by name.
    fn clear_above(&self, at: &str, root: &Path) {
        let mut at = at;
        while let Some((parent, _)) = at.rsplit_once('/') {
            if self.entries.contains_key(parent) || fs::remove_dir(root.join(parent)).is_err() {
                return;
            }
            at = parent;
        }
    }
}

fn make_parent(path: &Path) -> io::Result<()> {
    path.parent().map_or(Ok(()), fs::create_dir_all)
}
