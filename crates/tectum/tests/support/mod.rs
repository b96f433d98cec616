//! What the tests of the program share: the program, and a folder of its own for each test.

#![allow(dead_code, reason = "each test file uses what it needs")]

use std::{
    io::Write,
    path::{Path, PathBuf},
    process::Output,
};

use assert_cmd::Command;
use tempfile::TempDir;

/// Every section.
pub const SECTIONS: [&str; 15] = [
    "platform",
    "cpu",
    "memory",
    "storage",
    "filesystems",
    "gpu",
    "firmware",
    "os",
    "network",
    "pci",
    "usb",
    "drivers",
    "sensors",
    "power",
    "peripherals",
];

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

/// Reports of the demo machine at times that stay: what documentation shows does not change by the day.
pub fn reports() -> Place {
    let place = Place::new();
    for (name, machine, day) in [("gannet", "before", 11), ("gannet-after", "after", 12)] {
        let file = format!("{name}.json");
        let subject = format!("demo:gannet-{machine}");
        let made = place.run(&[
            "survey",
            "--from",
            &subject,
            "--out",
            &file,
            "--quiet",
            "--evidence",
            "expanded",
        ]);
        assert_eq!(made.status, 0, "{}", made.err);
        let mut report: serde_json::Value =
            serde_json::from_slice(&std::fs::read(place.path(&file)).unwrap()).unwrap();
        report["taken"]["at"] = serde_json::json!(format!("2026-05-{day}T06:00:00Z"));
        report["taken"]["elapsed_ms"] = serde_json::json!(20);
        report["taken"]["privileged"] = serde_json::json!(true);
        for source in report["sources"].as_array_mut().unwrap() {
            source["elapsed_us"] = serde_json::json!(20);
        }
        std::fs::write(place.path(&file), serde_json::to_vec(&report).unwrap()).unwrap();
    }
    place
}

/// The files that hold the program's views.
pub fn views() -> Vec<PathBuf> {
    fn files(folder: &Path, all: &mut Vec<PathBuf>) {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() { files(&path, all) } else { all.push(path) }
        }
    }
    let mut all = Vec::new();
    files(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src/views"), &mut all);
    assert!(all.len() > 30, "{}", all.len());
    all
}

/// Says past the test runner, which would keep it to itself, that something was not shown.
pub fn not_shown(what: &str) {
    let mut past = std::io::stderr();
    writeln!(past, "NOT SHOWN: {what}").unwrap();
}

/// What a script gives that is run with mounts of its own, which nobody else sees. Nothing where that cannot be
/// done here, which is said; the script ends with status 9 where it cannot mount.
pub fn with_own_mounts(script: &str) -> Option<Output> {
    if !rustix::process::geteuid().is_root() {
        not_shown("mounts of its own need root");
        return None;
    }
    let ran = std::process::Command::new("unshare")
        .args(["--mount", "--propagation", "private", "--", "sh", "-c", script])
        .output()
        .unwrap();
    if ran.status.code() == Some(9) {
        not_shown("nothing can be mounted here");
        return None;
    }
    Some(ran)
}
