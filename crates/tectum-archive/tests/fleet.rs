//! Which machines have which value, of fleets that have much or nothing in common, and of archives that are damaged.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stderr,
    clippy::indexing_slicing,
    clippy::cast_possible_truncation,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::{
    collections::{BTreeMap, BTreeSet},
    fs,
    path::{Path as FilePath, PathBuf},
};

use rstest::rstest;
use support::{Machine, plain, save};
use tectum_archive::{
    fleet::{Having, by_value},
    store::{Store, StoreError, folder::FolderStore},
};
use tectum_report::query::Path;

fn told(store: &dyn Store, path: &str) -> Result<Vec<Having>, StoreError> {
    let path: Path = path.parse().unwrap();
    by_value(store, &store.machines()?, &path)
}

fn plainly(all: &[Having]) -> BTreeMap<Option<String>, BTreeSet<String>> {
    all.iter().map(|one| (plain(&one.values), one.machines.iter().cloned().collect())).collect()
}

/// A fleet of so many machines, of which each so many share a kernel; their modules are their own.
fn fleet(store: &dyn Store, machines: u32, alike: u32) {
    for number in 0..machines {
        let mut machine = Machine::new(number);
        machine.kernel = format!("6.12.{}", number / alike);
        for day in 0..2 {
            // On the second day nothing is new but for the firmware of every third.
            if day == 1 && number % 3 == 0 {
                machine.firmware = "2.5".into();
            }
            save(store, &machine.report(day)).unwrap();
        }
    }
}

#[rstest]
#[case::all_alike(90, 90)]
#[case::some_alike(90, 7)]
#[case::none_alike(150, 1)]
fn each_machine_has_its_value(
    #[case] machines: u32,
    #[case] alike: u32,
    #[values(false, true)] packed: bool,
) {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), packed).unwrap();
    fleet(&store, machines, alike);
    // A store that is opened again knows nothing of what was saved but by its files.
    let again = FolderStore::open(folder.path(), packed).unwrap();
    for store in [&store, &again] {
        let mut kernels: BTreeMap<Option<String>, BTreeSet<String>> = BTreeMap::new();
        let mut serials = kernels.clone();
        let mut firmware = kernels.clone();
        for number in 0..machines {
            let name = format!("tide-{number:03}");
            let kernel = Some(format!("6.12.{}", number / alike));
            kernels.entry(kernel).or_default().insert(name.clone());
            let serial = Some(format!("LW-{number:03}-A1, LW-{number:03}-B1"));
            serials.entry(serial).or_default().insert(name.clone());
            let version = Some(if number % 3 == 0 { "2.5" } else { "2.4" }.to_owned());
            firmware.entry(version).or_default().insert(name);
        }
        assert_eq!(plainly(&told(store, "os.kernel_release").unwrap()), kernels);
        assert_eq!(plainly(&told(store, "memory.modules.*.serial").unwrap()), serials);
        assert_eq!(plainly(&told(store, "firmware.version").unwrap()), firmware);
        // Of a value that nobody has all machines are told together.
        let nobody = told(store, "os.timezone").unwrap();
        assert_eq!(nobody.len(), 1);
        assert_eq!((plain(&nobody[0].values), nobody[0].machines.len() as u32), (None, machines));
        // The most common stands first.
        let counts: Vec<usize> =
            told(store, "firmware.version").unwrap().iter().map(|one| one.machines.len()).collect();
        assert!(counts.is_sorted_by(|a, b| a >= b), "{counts:?}");
    }
}

#[test]
fn conditions_and_several_values_are_of_one_machine_each() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), true).unwrap();
    for number in 0..4 {
        let mut machine = Machine::new(number);
        if number == 2 {
            machine.modules.remove("B1");
        }
        save(&store, &machine.report(0)).unwrap();
    }
    let sizes = told(&store, "memory.modules.*.size").unwrap();
    let sizes: Vec<(Option<String>, usize)> =
        sizes.iter().map(|one| (plain(&one.values), one.machines.len())).collect();
    let both = Some("34359738368, 34359738368".to_owned());
    assert_eq!(sizes, [(both, 3), (Some("34359738368".to_owned()), 1)]);
    let slots = told(&store, "memory.modules[serial=LW-001-B1].slot").unwrap();
    assert_eq!(slots.len(), 2);
    assert_eq!(slots[0].values, []);
    assert_eq!(slots[1].machines, ["tide-001"]);
}

#[test]
fn what_reads_the_same_and_is_not_is_told_apart() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), true).unwrap();
    for number in 0..6 {
        let mut machine = Machine::new(number);
        machine.rom_bytes += u64::from(number / 4);
        save(&store, &machine.report(0)).unwrap();
    }
    let sizes = told(&store, "firmware.rom_size").unwrap();
    let sizes: Vec<(Option<String>, usize)> =
        sizes.iter().map(|one| (plain(&one.values), one.machines.len())).collect();
    let some = |text: &str| Some(text.to_owned());
    assert_eq!(sizes, [(some("12884901888"), 4), (some("12884901889"), 2)]);
    let json = serde_json::to_value(told(&store, "firmware.rom_size").unwrap()).unwrap();
    assert_eq!(json[1]["values"], serde_json::json!([12_884_901_889_u64]), "a number for programs");
}

#[test]
fn numbers_are_in_the_order_of_numbers() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), true).unwrap();
    for (number, bytes) in [(0, 9), (1, 100), (2, 20)] {
        let mut machine = Machine::new(number);
        machine.rom_bytes = bytes;
        save(&store, &machine.report(0)).unwrap();
    }
    let sizes = told(&store, "firmware.rom_size").unwrap();
    let sizes: Vec<_> = sizes.iter().map(|one| plain(&one.values).unwrap()).collect();
    assert_eq!(sizes, ["9", "20", "100"]);
}

/// The files of looks in an archive.
fn looks(root: &FilePath) -> Vec<PathBuf> {
    let mut all = Vec::new();
    for machine in fs::read_dir(root.join("machines")).unwrap() {
        for look in fs::read_dir(machine.unwrap().path().join("looks")).unwrap() {
            all.push(look.unwrap().path());
        }
    }
    all.sort();
    all
}

/// A file that is damaged anywhere tells what it told before, or that it is damaged: never anything else.
#[rstest]
fn what_is_damaged_is_told_and_never_another_value(#[values(false, true)] packed: bool) {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), packed).unwrap();
    fleet(&store, 3, 1);
    let paths = ["os.kernel_release", "firmware.version", "memory.modules.*.serial"];
    let whole: Vec<Vec<Having>> = paths.iter().map(|path| told(&store, path).unwrap()).collect();
    let mut damaged = 0;
    for look in looks(folder.path()) {
        let bytes = fs::read(&look).unwrap();
        // Some sixty places of each file: another letter, a capital one.
        for at in (0..bytes.len()).step_by((bytes.len() / 60).max(1)) {
            let mut other = bytes.clone();
            other[at] ^= if at % 2 == 0 { 0x20 } else { 0x01 };
            fs::write(&look, &other).unwrap();
            for (path, whole) in paths.iter().zip(&whole) {
                // What was read before may still be known: another program would not know it.
                let store = FolderStore::open(folder.path(), packed);
                match store.and_then(|store| told(&store, path)) {
                    Ok(told) => assert_eq!(&told, whole, "{} {at} {path}", look.display()),
                    Err(StoreError::Damaged { .. } | StoreError::Report { .. }) => damaged += 1,
                    Err(other) => panic!("{} {at} {path}: {other}", look.display()),
                }
            }
        }
        fs::write(&look, &bytes).unwrap();
    }
    assert!(damaged > 20, "{damaged}");
    let store = FolderStore::open(folder.path(), packed).unwrap();
    let again: Vec<Vec<Having>> = paths.iter().map(|path| told(&store, path).unwrap()).collect();
    assert_eq!(again, whole);
}

/// A section that is no longer named where its state says what is in it is not one that the machine lacks.
#[rstest]
#[case("\"section\":\"os\"", "\"section\":\"oS\"")]
#[case("\"section\":\"os\"", "\"section\":\"usb\"")]
#[case("{\"section\":\"os\",", "{\"section\":\"os\",\"x\":\"")]
fn a_list_that_was_altered_is_told(#[case] own: &str, #[case] other: &str) {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), false).unwrap();
    save(&store, &Machine::new(0).report(0)).unwrap();
    let look = looks(folder.path()).remove(0);
    let text = fs::read_to_string(&look).unwrap();
    let line = text.lines().position(|line| line.starts_with("{\"state\"")).unwrap();
    let altered: Vec<String> = text
        .lines()
        .enumerate()
        .map(|(at, own_line)| match at == line {
            true => own_line.replacen(own, other, 1),
            false => own_line.to_owned(),
        })
        .collect();
    assert_ne!(altered.concat(), text.replace('\n', ""));
    fs::write(&look, altered.join("\n") + "\n").unwrap();
    let store = FolderStore::open(folder.path(), false).unwrap();
    let error = told(&store, "os.kernel_release").unwrap_err();
    assert!(matches!(error, StoreError::Damaged { .. }), "{error}");
}

#[rstest]
fn a_file_that_is_gone_is_told(#[values(false, true)] packed: bool) {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), packed).unwrap();
    let machine = Machine::new(0);
    for day in 0..3 {
        save(&store, &machine.report(day)).unwrap();
    }
    // The first look brought all that is known of the state; without it nothing is known of that any more.
    let first = looks(folder.path()).remove(0);
    fs::remove_file(&first).unwrap();
    let store = FolderStore::open(folder.path(), packed).unwrap();
    let error = told(&store, "os.kernel_release").unwrap_err();
    assert!(matches!(error, StoreError::Damaged { .. }), "{error}");
    let mut problems = 0;
    store.verify(&mut |_| problems += 1).unwrap();
    assert!(problems > 0);
}
