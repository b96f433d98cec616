//! What the tests of the core share: machines as folders, and surveys of them.

#![allow(dead_code, reason = "each test file uses what it needs")]

use std::{
    path::{Path, PathBuf},
    sync::Arc,
    time::Duration,
};

use serde_json::Value;
use tectum_report::{
    compare::{Comparison, Scope, compare},
    json::{origins::Depth, read::ReadError, wanted::Wanted, write::Form},
    redact::Pseudonyms,
    report::{Report, Taken},
};
use tectum_survey::{
    source::{Archive, Door, Packing, Tree},
    survey::{Event, Plan, Survey, survey},
};
use tempfile::TempDir;

/// The recorded machines.
pub const RECORDED: [&str; 11] = [
    "rack-2s",
    "cloud-small",
    "arm-server",
    "arm-board",
    "big-iron",
    "ppc",
    "s390",
    "layers",
    "mips",
    "microvm",
    "remote",
];

/// A machine's folder, which may be shared with other tests: nobody changes it.
pub struct Folder {
    path: PathBuf,
    _own: Option<TempDir>,
}

impl Folder {
    pub fn path(&self) -> &Path {
        &self.path
    }
}

impl From<TempDir> for Folder {
    fn from(own: TempDir) -> Self {
        Self { path: own.path().to_owned(), _own: Some(own) }
    }
}

/// A recorded machine, unpacked: once, for all tests, beside what they are compiled to.
pub fn recorded(name: &str) -> Folder {
    let archive = archive_of(name);
    let length = std::fs::metadata(&archive).unwrap().len();
    let shared = Path::new(env!("CARGO_TARGET_TMPDIR")).join(format!("{name}-{length}"));
    if !shared.is_dir() {
        let mut unpacked = tempfile::tempdir_in(env!("CARGO_TARGET_TMPDIR")).unwrap();
        unpack(&archive, unpacked.path());
        // Another test may have been faster; then its folder is as good as this one.
        if std::fs::rename(unpacked.path(), &shared).is_ok() {
            unpacked.disable_cleanup(true);
        }
    }
    Folder { path: shared, _own: None }
}

/// A recorded machine, unpacked for one test that changes it.
pub fn recorded_to_change(name: &str) -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    unpack(&archive_of(name), folder.path());
    folder
}

/// Puts another text into a file of a recorded machine, which may be there to be read alone.
pub fn rewrite(path: impl AsRef<Path>, text: impl AsRef<[u8]>) {
    let writable = std::os::unix::fs::PermissionsExt::from_mode(0o600);
    std::fs::set_permissions(&path, writable).unwrap();
    std::fs::write(path, text).unwrap();
}

fn archive_of(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/machines/{name}.tar.zst"))
}

fn unpack(archive: &Path, folder: &Path) {
    let file = std::fs::File::open(archive).unwrap();
    let mut archive = tar::Archive::new(zstd::Decoder::new(file).unwrap());
    archive.set_preserve_mtime(false);
    archive.unpack(folder).unwrap();
}

/// What a recorded machine was built from.
pub fn truth(name: &str) -> Value {
    let path =
        Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/machines/{name}.truth.json"));
    serde_json::from_slice(&std::fs::read(path).unwrap()).unwrap()
}

/// A demo machine, written out.
pub fn demo(name: &str) -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    let machine = tectum_demo::Shipped::named(name).unwrap().machine().unwrap();
    tectum_demo::Tree::of(&machine).write(folder.path()).unwrap();
    folder
}

/// A demo machine whose tree was changed by hand.
pub fn demo_with(name: &str, change: impl FnOnce(&mut tectum_demo::Tree)) -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    let machine = tectum_demo::Shipped::named(name).unwrap().machine().unwrap();
    let mut tree = tectum_demo::Tree::of(&machine);
    change(&mut tree);
    tree.write(folder.path()).unwrap();
    folder
}

/// The report of the demo machine after a change, as JSON.
pub fn changed(change: impl FnOnce(&mut tectum_demo::Tree)) -> Value {
    json(&look(demo_with("gannet-before", change).path()))
}

/// The same, with the firmware's table replaced.
pub fn with_table(structures: impl IntoIterator<Item = tectum_demo::StructureBuilder>) -> Value {
    changed(|tree| tree.file("sys/firmware/dmi/tables/DMI", tectum_demo::table(structures)))
}

/// A plan with a short deadline, for tests that meet hung files.
pub fn hasty() -> Plan {
    Plan { access_deadline: Duration::from_millis(300), ..Plan::default() }
}

/// Surveys a folder.
pub fn look(folder: &Path) -> Report {
    report(run(folder, &Plan::default(), &mut |_| {}))
}

/// Surveys a folder by a plan.
pub fn run(folder: &Path, plan: &Plan, tell: &mut dyn FnMut(Event)) -> Survey {
    let door: Arc<Door> = Door::new(Tree::folder(folder).unwrap());
    survey(&door, plan, tell)
}

/// A machine's report; the report of its redacted capture; the bytes of that.
pub fn redacted(folder: &Path, by: &Pseudonyms) -> (Report, Report, Vec<u8>) {
    let door = Door::new(Tree::folder(folder).unwrap());
    let original = report(survey(&door, &Plan::default(), &mut |_| {}));
    let at = "2026-11-23T08:00:00Z".parse().unwrap();
    let (copy, _) =
        tectum_survey::redact::capture(&door, &original, by, "tectum test", at, &[]).unwrap();
    let mut bytes = Vec::new();
    copy.write(&mut bytes).unwrap();
    let archive = Archive::read(&bytes[..], Packing::of(&bytes).unwrap()).unwrap();
    let copy = survey(&Door::to_archive(archive), &Plan::default(), &mut |_| {});
    (original, report(copy), bytes)
}

/// A survey's report.
pub fn report(survey: Survey) -> Report {
    let taken = Taken {
        at: "2026-11-23T08:00:00Z".parse().unwrap(),
        tool: "tectum test".to_owned(),
        subject: "folder".to_owned(),
        privileged: true,
        sections: Vec::new(),
        elapsed_ms: 0,
    };
    survey.into_report(taken)
}

/// Some sections of a saved report.
/// The comparison of two reports as they are saved, of which the sections are read that have to be, and these sections;
/// nothing where the texts do not tell which.
pub fn compared_by_texts(
    before: &Report,
    after: &Report,
) -> Option<(Comparison, Vec<&'static str>)> {
    let texts = [before, after].map(|report| {
        let mut text = Vec::new();
        report.write(&mut text, Form::Compact).unwrap();
        text
    });
    let [before, after] = &texts;
    let sections = Report::sections_to_compare(before, after)?;
    let wanted =
        Wanted { sections: Some(&sections), readings: false, ..Wanted::all(Depth::Reasons) };
    let [before, after] =
        [before, after].map(|text| Report::wanted_from_json(text, &wanted).unwrap());
    Some((compare(&before, &after, Scope::Inventory), sections))
}

/// A report of some sections, read from its text.
pub fn of_sections(text: &[u8], sections: &[&str], depth: Depth) -> Result<Report, ReadError> {
    Report::wanted_from_json(text, &Wanted { sections: Some(sections), ..Wanted::all(depth) })
}

/// A report as JSON.
pub fn json(report: &Report) -> Value {
    serde_json::to_value(report).unwrap()
}

/// Where two JSON values differ, a line each: two whole reports in a message tell nobody anything.
pub fn differences(one: &Value, other: &Value) -> Vec<String> {
    fn go(at: &str, one: &Value, other: &Value, found: &mut Vec<String>) {
        match (one, other) {
            (Value::Object(a), Value::Object(b)) if a.keys().eq(b.keys()) => {
                a.iter().for_each(|(key, value)| go(&format!("{at}/{key}"), value, &b[key], found));
            }
            (Value::Array(a), Value::Array(b)) if a.len() == b.len() => {
                a.iter()
                    .zip(b)
                    .enumerate()
                    .for_each(|(index, (a, b))| go(&format!("{at}/{index}"), a, b, found));
            }
            _ if one == other => {}
            _ => found.push(format!("{at}: {one} beside {other}")),
        }
    }
    let mut found = Vec::new();
    go("", one, other, &mut found);
    found
}
