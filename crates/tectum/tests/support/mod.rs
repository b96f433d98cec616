//! What the tests of the program share: the program, and a folder of its own for each test.

#![allow(dead_code, reason = "each test file uses what it needs")]

use std::{
    path::{Path, PathBuf},
    process::Output,
};

use assert_cmd::Command;
use tempfile::TempDir;

/// A folder in which the program is run.
pub struct Place {
    folder: TempDir,
}

/// What a run gave.
pub struct Ran {
    pub status: i32,
    pub out: String,
    pub err: String,
}

impl Place {
    /// An empty folder.
    pub fn new() -> Self {
        Self { folder: tempfile::tempdir().unwrap() }
    }

    /// A folder with a demo machine written out as `machine`.
    pub fn with_machine(name: &str) -> Self {
        Self::with_changed(name, |_| {})
    }

    /// The same, its tree changed by hand.
    pub fn with_changed(name: &str, change: impl FnOnce(&mut tectum_demo::Tree)) -> Self {
        let place = Self::new();
        let machine = tectum_demo::Shipped::named(name).unwrap().machine().unwrap();
        let mut tree = tectum_demo::Tree::of(&machine);
        change(&mut tree);
        tree.write(&place.path("machine")).unwrap();
        place
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub fn root(&self) -> &Path {
        self.folder.path()
    }

    /// The program, in a plain environment.
    pub fn command(&self, words: &[&str]) -> Command {
        let mut command = Command::cargo_bin("tectum").unwrap();
        command.current_dir(self.root()).env_clear().env("PATH", "/usr/bin:/bin");
        // No test touches the archive of the machine that it runs on.
        command.env("TECTUM_ARCHIVE_LOCATION", self.path("archive")).env("TZ", "UTC").args(words);
        command
    }

    /// Runs the program.
    pub fn run(&self, words: &[&str]) -> Ran {
        let Output { status, stdout, stderr } = self.command(words).output().unwrap();
        Ran {
            status: status.code().unwrap_or(-1),
            out: String::from_utf8(stdout).unwrap(),
            err: String::from_utf8(stderr).unwrap(),
        }
    }
}
