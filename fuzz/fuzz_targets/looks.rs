//! Reads the file of a look, plain and packed: what it holds is told, or is told as damaged, and the next look at the
//! machine is whole whatever it held.

#![no_main]

use std::{cell::OnceCell, fs, path::PathBuf};

use libfuzzer_sys::fuzz_target;
use tectum_archive::{
    store::{Store, folder::FolderStore, look},
    written::Prepared,
};
use tectum_report::{
    Report,
    finding::{Judgement, Limits},
    json::origins::Depth,
};

/// A report of every section, and a folder for archives.
struct Made {
    prepared: Prepared,
    folder: tempfile::TempDir,
    key: String,
    look: PathBuf,
}

thread_local! {
    static MADE: OnceCell<Made> = const { OnceCell::new() };
}

fn made() -> Made {
    let report = Report::from_json(include_bytes!("../seeds/report/whole.json")).unwrap();
    let prepared = Prepared::of(&report, &Judgement::of(&report, &Limits::default())).unwrap();
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), false).unwrap();
    let key = store.save(&prepared).unwrap().machine;
    let looks = folder.path().join("machines").join(&key).join("looks");
    let look = fs::read_dir(&looks).unwrap().next().unwrap().unwrap().path();
    Made { prepared, folder, key, look }
}

fuzz_target!(|bytes: &[u8]| {
    MADE.with(|cell| {
        let made = cell.get_or_init(made);
        let (packed, text) = match bytes.split_first() {
            Some((b'z', rest)) => (true, rest),
            _ => (false, bytes),
        };
        let looks = made.look.parent().unwrap();
        let _ = fs::remove_dir_all(looks);
        fs::create_dir(looks).unwrap();
        let _ = fs::remove_file(made.folder.path().join("index.sqlite"));
        let path = match packed {
            true => made.look.with_extension("json.zst"),
            false => made.look.clone(),
        };
        fs::write(&path, text).unwrap();
        let store = FolderStore::open(made.folder.path(), packed).unwrap();
        let mut problems = 0;
        store.verify(&mut |_| problems += 1).unwrap();
        let _ = look(&store, &made.key, 1, Depth::Whole);
        let _ = store.latest_values(&store.machines().unwrap(), None, &mut |_, _| {});
        if let Ok(saved) = store.save(&made.prepared) {
            look(&store, &saved.machine, saved.number, Depth::Whole).unwrap();
        }
    });
});
