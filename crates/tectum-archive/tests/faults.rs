//! What happens to an archive in a folder when something fails: what was acknowledged is there afterwards, and
//! looking through it says what is wrong.

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
    collections::BTreeSet,
    fs,
    path::{Path, PathBuf},
};

use proptest::prelude::*;
use rstest::rstest;
use support::{Machine, save, told};
use tectum_archive::{
    copy::copy,
    store::{Problem, Store, StoreError, folder::FolderStore, look},
    written::Mark,
};
use tectum_report::json::origins::Depth;
use tectum_report::save::step::planned::{Plan, plan, taken};

/// What is done to an archive.
#[derive(Debug, Clone, Copy)]
enum Doing {
    /// A machine is saved for the first time.
    First,
    /// Another look, in the state that is known.
    Again,
    /// Another look, in another state.
    Changed,
    /// A look is named.
    Mark,
    /// Looks are removed.
    Remove,
}

fn made(folder: &Path, packed: bool) -> FolderStore {
    let store = FolderStore::open_or_make(folder, packed).unwrap();
    let mut machine = Machine::new(1);
    for day in 0..3 {
        machine.firmware = format!("2.{day}");
        save(&store, &machine.report(day)).unwrap();
    }
    store
}

fn key(store: &dyn Store) -> String {
    let machines = store.machines().unwrap();
    machines.iter().find(|one| one.machine.starts_with("tide-001")).unwrap().machine.clone()
}

impl Doing {
    fn run(self, store: &FolderStore) -> Result<(), StoreError> {
        let mut machine = Machine::new(1);
        match self {
            Self::First => save(store, &Machine::new(2).report(9)).map(drop),
            Self::Again => {
                machine.firmware = "2.2".into();
                save(store, &machine.report(9)).map(drop)
            }
            Self::Changed => save(store, &machine.report(9)).map(drop),
            Self::Mark => {
                let marked_at = support::night(1);
                let mark = Mark { name: "accepted".into(), observation: 2, marked_at };
                store.mark(&key(store), &mark)
            }
            Self::Remove => store.remove(&key(store), &BTreeSet::from([1, 2])),
        }
    }
}

/// What an archive says after opening it anew, but for what the clock decides: when something was saved or
/// removed, and so the digest of what it was saved in.
fn said(folder: &Path) -> Vec<String> {
    let store = FolderStore::open(folder, false).unwrap();
    told(&store).iter().map(|line| without_clock(line)).collect()
}

fn without_clock(line: &str) -> String {
    let words = ["saved_at: ", "before: Some(\"sha256:", "removed_at: "];
    words.into_iter().fold(line.to_owned(), |line, word| {
        let mut pieces = line.split(word);
        let mut text = pieces.next().unwrap().to_owned();
        for piece in pieces {
            text.push_str(word);
            text.push_str(piece.split_at(piece.find([',', '}']).unwrap_or(piece.len())).1);
        }
        text
    })
}

fn problems(folder: &Path) -> Vec<Problem> {
    let mut problems = Vec::new();
    let store = FolderStore::open(folder, false).unwrap();
    store.verify(&mut |problem| problems.push(problem)).unwrap();
    problems
}

fn damage(folder: &Path) -> Vec<Problem> {
    problems(folder).into_iter().filter(|one| one.is_damage).collect()
}

fn copied(from: &Path, to: &Path) {
    fs::create_dir_all(to).unwrap();
    for entry in fs::read_dir(from).unwrap() {
        let entry = entry.unwrap();
        let to = to.join(entry.file_name());
        match entry.file_type().unwrap().is_dir() {
            true => copied(&entry.path(), &to),
            false => drop(fs::copy(entry.path(), to).unwrap()),
        }
    }
}

#[rstest]
fn each_step_that_fails_leaves_the_old_or_the_new(
    #[values(Doing::First, Doing::Again, Doing::Changed, Doing::Mark, Doing::Remove)] doing: Doing,
    #[values(false, true)] packed: bool,
) {
    let folder = tempfile::tempdir().unwrap();
    let base = folder.path().join("base");
    drop(made(&base, packed));
    let before = said(&base);
    let whole = folder.path().join("whole");
    copied(&base, &whole);
    let store = FolderStore::open(&whole, packed).unwrap();
    plan(Plan::Nothing);
    doing.run(&store).unwrap();
    let steps = taken();
    assert!(steps >= 4, "{doing:?} takes {steps} steps");
    let after = said(&whole);
    assert_ne!(before, after);
    for at in 0..steps {
        let own = folder.path().join(format!("step-{at}"));
        copied(&base, &own);
        let store = FolderStore::open(&own, packed).unwrap();
        plan(Plan::Fail(at));
        let ended = doing.run(&store);
        plan(Plan::Nothing);
        let now = said(&own);
        let is_new = now == after;
        if ended.is_ok() {
            assert!(is_new, "step {at} of {doing:?} was acknowledged and is not there");
        }
        // A look that was written and not acknowledged may be there, whole; removing may have begun.
        let old_or_new = is_new || now == before;
        assert!(old_or_new || matches!(doing, Doing::Remove), "step {at} of {doing:?}");
        assert_eq!(damage(&own), [], "step {at} of {doing:?}");
        // Done again it ends as it would have.
        let again = FolderStore::open(&own, packed).unwrap();
        doing.run(&again).unwrap();
        assert_eq!(damage(&own), [], "step {at} of {doing:?}, done again");
        if !matches!(doing, Doing::Remove) {
            assert_eq!(said(&own), after, "step {at} of {doing:?}, done again");
        }
        fs::remove_dir_all(own).unwrap();
    }
}

#[test]
fn making_an_archive_fails_as_a_whole_and_can_be_done_again() {
    let folder = tempfile::tempdir().unwrap();
    plan(Plan::Nothing);
    drop(FolderStore::open_or_make(&folder.path().join("whole"), false).unwrap());
    let steps = taken();
    for at in 0..steps {
        let own = folder.path().join(format!("step-{at}"));
        plan(Plan::Fail(at));
        let ended = FolderStore::open_or_make(&own, false).map(drop);
        plan(Plan::Nothing);
        FolderStore::open_or_make(&own, false)
            .unwrap_or_else(|error| panic!("step {at}: {error} after {ended:?}"));
    }
}

/// The files of an archive that hold something, but for the index and the lock.
fn files(folder: &Path) -> Vec<PathBuf> {
    let mut files = Vec::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        match path.is_dir() {
            true => files.extend(self::files(&path)),
            false => files.push(path),
        }
    }
    let beside = ["index.sqlite", "index.sqlite-journal", "lock"];
    files.retain(|path| !beside.iter().any(|name| path.ends_with(name)));
    files.sort();
    files
}

/// What a file says, packed or plain, but for the minor version of its form, which may be newer.
fn says(bytes: &[u8]) -> Option<Vec<serde_json::Value>> {
    let unpacked = zstd::decode_all(bytes).ok();
    let text = unpacked.as_deref().unwrap_or(bytes);
    let lines = serde_json::Deserializer::from_slice(text).into_iter::<serde_json::Value>();
    let mut lines = lines.collect::<Result<Vec<_>, _>>().ok()?;
    for line in &mut lines {
        if let Some(version) = line.get_mut("format_version") {
            *version = version.as_str()?.split('.').next()?.into();
        }
    }
    Some(lines)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn a_file_that_was_cut_or_altered_is_told(
        which in any::<prop::sample::Index>(),
        place in any::<prop::sample::Index>(),
        bit in 0u8..8,
        cut in any::<bool>(),
        packed in any::<bool>(),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let store = made(folder.path(), packed);
        let key = key(&store);
        let looks = [1, 2, 3].map(|number| look(&store, &key, number, Depth::Whole).unwrap());
        drop(store);
        let all = files(folder.path());
        let path = which.get(&all);
        let mut bytes = fs::read(path).unwrap();
        let before = bytes.clone();
        let at = place.index(bytes.len());
        match cut {
            true => bytes.truncate(at),
            false => bytes[at] ^= 1 << bit,
        }
        fs::write(path, &bytes).unwrap();
        let opened = FolderStore::open(folder.path(), packed);
        if path.ends_with("archive.json") {
            // White space may be flipped into other white space, and the rest is told at once.
            if let Ok(store) = opened {
                prop_assert_eq!(store.machines().unwrap().len(), 1);
            }
            return Ok(());
        }
        let mut problems = Vec::new();
        let store = opened.unwrap();
        store.verify(&mut |problem| problems.push(problem)).unwrap();
        // Some bits say nothing: white space, what packing does not use, the minor version of the form.
        let as_before = says(&before).is_some() && says(&before) == says(&bytes);
        let silent = as_before || (!cut && path.ends_with("last.json"));
        prop_assert!(problems.iter().any(|one| one.is_damage) || silent, "{}", path.display());
        // What a look says is what it said, or it cannot be read; those before it need nothing of it.
        let own = path.file_name().unwrap().to_str().unwrap()[..8].parse().unwrap_or(4);
        for number in 1..=3 {
            match look(&store, &key, number, Depth::Whole) {
                Ok(now) => prop_assert_eq!(&now.inventory, &looks[number as usize - 1].inventory),
                Err(_) => prop_assert!(number >= own, "{}: look {number}", path.display()),
            }
        }
        // The next look is whole, whatever those before it lost.
        let mut machine = Machine::new(1);
        machine.firmware = "2.0".into();
        if let Ok(saved) = save(&store, &machine.report(7)) {
            let next = look(&store, &saved.machine, saved.number, Depth::Whole).unwrap();
            prop_assert_eq!(&next.inventory, &machine.report(7).inventory);
        } else {
            prop_assert!(path.ends_with("removed.json") || path.ends_with("last.json"));
        }
    }
}

#[test]
fn a_lost_or_broken_index_is_made_anew() {
    let folder = tempfile::tempdir().unwrap();
    drop(made(folder.path(), false));
    let before = said(folder.path());
    let index = folder.path().join("index.sqlite");
    fs::remove_file(&index).unwrap();
    assert_eq!(said(folder.path()), before);
    fs::write(&index, b"SQLite format 3\0 and then rubbish").unwrap();
    assert_eq!(said(folder.path()), before);
    let mut bytes = fs::read(&index).unwrap();
    let length = bytes.len();
    bytes[100..length.min(5000)].fill(0xAA);
    fs::write(&index, bytes).unwrap();
    assert_eq!(said(folder.path()), before);
}

#[test]
fn what_was_taken_out_or_slipped_in_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let base = folder.path().join("base");
    let store = made(&base, false);
    let key = key(&store);
    drop(store);
    let observations = format!("machines/{key}/looks");
    let names: Vec<String> = fs::read_dir(base.join(&observations))
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .collect::<BTreeSet<_>>()
        .into_iter()
        .collect();
    let told = |what: &str, alter: &dyn Fn(&Path)| {
        let own = folder.path().join(what);
        copied(&base, &own);
        alter(&own.join(&observations));
        damage(&own).into_iter().map(|one| one.said).collect::<Vec<_>>().join("; ")
    };
    let gone = told("gone", &|at| fs::remove_file(at.join(&names[1])).unwrap());
    assert!(gone.contains("observation 2 before it is missing"), "{gone}");
    let last = told("last", &|at| fs::remove_file(at.join(&names[2])).unwrap());
    assert!(last.contains("observation 3 is missing"), "{last}");
    let altered = told("altered", &|at| {
        let path = at.join(&names[0]);
        let text = fs::read_to_string(&path)
            .unwrap()
            .replace("\"privileged\":true", "\"privileged\":false");
        fs::write(path, text).unwrap();
    });
    assert!(altered.contains("altered or slipped in"), "{altered}");
    let slipped = told("slipped", &|at| {
        let name = names[1].replace("00000002-2026", "00000002-2025");
        fs::copy(at.join(&names[0]), at.join(name)).unwrap();
    });
    assert!(slipped.contains("is observation 2 too"), "{slipped}");
    let behind = told("behind", &|at| {
        fs::copy(at.join(&names[2]), at.join(names[2].replace("00000003", "00000004"))).unwrap();
    });
    assert!(behind.contains("it holds observation 3"), "{behind}");
    let state = told("state", &|at| {
        let path = at.join(&names[0]);
        let text = fs::read_to_string(&path).unwrap().replace("Fathom 2240", "Fathom 2241");
        fs::write(path, text).unwrap();
    });
    assert!(state.contains("platform in it was altered"), "{state}");
    assert!(state.contains("no longer holds what a look needs of it: platform"), "{state}");
    // A list is held against its checksum.
    let list = told("list", &|at| {
        let path = at.join(&names[0]);
        let text = fs::read_to_string(&path).unwrap();
        let at = text.find("{\"state\":").unwrap();
        let (before, behind) = text.split_at(at);
        fs::write(path, [before, &behind.replacen("\"os\"", "\"oS\"", 1)].concat()).unwrap();
    });
    assert!(list.contains("it no longer says what a look saw"), "{list}");
    // Whoever alters a section and its digest, and the lists with their checksum, has another state.
    let state = told("digest", &|at| {
        let path = at.join(&names[0]);
        let text = fs::read_to_string(&path).unwrap();
        let begins = "{\"section\":\"platform\",\"digest\":\"";
        let own = text.lines().find_map(|line| line.strip_prefix(begins)).unwrap();
        let (old, rest) = own.split_once("\",\"content\":").unwrap();
        let content = rest.strip_suffix('}').unwrap().replace("Fathom 2240", "Fathom 2241");
        let new = tectum_archive::written::digest(content.as_bytes());
        let text = text.replace("Fathom 2240", "Fathom 2241").replace(old, &new);
        let list = text.lines().find(|line| line.starts_with("{\"state\":")).unwrap();
        let read: serde_json::Value = serde_json::from_str(list).unwrap();
        let mut all = String::new();
        for section in read["sections"].as_array().unwrap() {
            let word = |name: &str| section[name].as_str().unwrap().to_owned();
            all += &format!("{}\n{}\n", word("section"), word("digest"));
        }
        let again = crc32fast::hash(all.as_bytes()).to_string();
        let text = text.replace(&read["checksum"].to_string(), &again);
        fs::write(path, text).unwrap();
    });
    assert!(state.contains("was altered: its digest is another"), "{state}");
}

/// What a damaged file took is brought again by the next look that needs it, and then looks before it have it too.
#[rstest]
fn what_was_damaged_is_brought_again(#[values(false, true)] packed: bool) {
    let folder = tempfile::tempdir().unwrap();
    let store = made(folder.path(), packed);
    let key = key(&store);
    let looks = folder.path().join(format!("machines/{key}/looks"));
    let mut names: Vec<PathBuf> =
        fs::read_dir(looks).unwrap().map(|entry| entry.unwrap().path()).collect();
    names.sort();
    let bytes = fs::read(&names[0]).unwrap();
    fs::write(&names[0], &bytes[..bytes.len() / 3]).unwrap();
    let store = FolderStore::open(folder.path(), packed).unwrap();
    assert!(look(&store, &key, 3, Depth::Whole).is_err());
    Doing::Again.run(&store).unwrap();
    // Once: looks behind it have it from there.
    let mut machine = Machine::new(1);
    machine.firmware = "2.2".into();
    save(&store, &machine.report(10)).unwrap();
    for number in [2, 3, 4, 5] {
        look(&store, &key, number, Depth::Whole).unwrap();
    }
    let looks = files(names[0].parent().unwrap());
    let bytes = |number: usize| fs::metadata(&looks[number]).unwrap().len();
    assert!(bytes(4) * 2 < bytes(3), "{} of {}", bytes(4), bytes(3));
    let told = damage(folder.path());
    let whole = |one: &Problem| one.said.contains("was found elsewhere");
    assert!(told.iter().all(|one| one.what.contains("looks/00000001-") || whole(one)), "{told:?}");
}

/// A look of which a part is lost is not there: saved again, it is.
#[test]
fn a_damaged_look_that_is_saved_again_is_saved_anew() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), false).unwrap();
    let report = Machine::new(1).report(0);
    let first = save(&store, &report).unwrap();
    assert!(save(&store, &report).unwrap().stood_already);
    let path =
        files(&folder.path().join("machines")).into_iter().find(|one| one.ends_with("last.json"));
    let looks = path.unwrap().with_file_name("looks");
    let path = files(&looks).remove(0);
    let text = fs::read_to_string(&path).unwrap().replace("Fathom 2240", "Fathom 2241");
    fs::write(&path, text).unwrap();
    let again = save(&store, &report).unwrap();
    assert!(!again.stood_already && again.number == first.number + 1, "{again:?}");
    assert!(again.unchanged && !again.new_state, "what is lost was seen all the same: {again:?}");
    look(&store, &again.machine, again.number, Depth::Whole).unwrap();
}

/// Of looks that are removed stays what others need, and no more.
#[rstest]
fn what_others_need_of_removed_looks_stays(#[values(false, true)] packed: bool) {
    let folder = tempfile::tempdir().unwrap();
    let store = made(folder.path(), packed);
    let key = key(&store);
    let aside = tempfile::tempdir().unwrap();
    let before = aside.path().join("before");
    copied(folder.path(), &before);
    let looks = folder.path().join(format!("machines/{key}/looks"));
    let names = || -> Vec<String> {
        let entries = fs::read_dir(&looks).unwrap();
        let mut names: Vec<String> =
            entries.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
        names.sort();
        names
    };
    let third = look(&store, &key, 3, Depth::Whole).unwrap();
    store.remove(&key, &BTreeSet::from([1])).unwrap();
    assert_eq!(names().iter().filter(|name| name.contains(".kept.")).count(), 1, "{:?}", names());
    store.remove(&key, &BTreeSet::from([2])).unwrap();
    // The second brought its firmware alone, which the third does not have.
    assert_eq!(names().len(), 2, "{:?}", names());
    assert_eq!(look(&store, &key, 3, Depth::Whole).unwrap().inventory, third.inventory);
    assert_eq!(problems(folder.path()), []);
    // Copied from where they are all there, they are back, and nothing is kept apart any more.
    let copied = copy(&FolderStore::open(&before, packed).unwrap(), &store, &mut |_| {}).unwrap();
    assert_eq!((copied.observations, copied.stood_already), (2, 1));
    assert!(names().len() == 3 && names().iter().all(|name| !name.contains(".kept.")));
    for number in 1..=3 {
        look(&store, &key, number, Depth::Whole).unwrap();
    }
    assert_eq!(damage(folder.path()), []);
}

/// A file that somebody laid out or packed otherwise says the same.
#[rstest]
fn a_file_that_was_laid_out_otherwise_is_read(#[values(false, true)] packed: bool) {
    let folder = tempfile::tempdir().unwrap();
    let store = made(folder.path(), packed);
    let key = key(&store);
    let before = said(folder.path());
    drop(store);
    for path in files(&folder.path().join(format!("machines/{key}/looks"))) {
        let bytes = fs::read(&path).unwrap();
        let bytes = match packed {
            true => zstd::encode_all(&zstd::decode_all(&bytes[..]).unwrap()[..], 9).unwrap(),
            false => {
                let values = serde_json::Deserializer::from_slice(&bytes);
                let values = values.into_iter::<serde_json::Value>();
                values
                    .map(|value| serde_json::to_string_pretty(&value.unwrap()).unwrap())
                    .collect::<Vec<_>>()
                    .join("\n")
                    .into_bytes()
            }
        };
        fs::write(&path, bytes).unwrap();
    }
    fs::remove_file(folder.path().join("index.sqlite")).unwrap();
    assert_eq!(said(folder.path()), before);
    assert_eq!(damage(folder.path()), []);
}

#[rstest]
#[case("2.0", false)]
#[case("1.7", true)]
fn other_major_versions_are_refused_and_newer_minor_ones_read(
    #[case] version: &str,
    #[case] readable: bool,
) {
    let folder = tempfile::tempdir().unwrap();
    let store = made(folder.path(), false);
    let key = key(&store);
    drop(store);
    let newer = |path: &Path| {
        let text = fs::read_to_string(path).unwrap();
        let text = text.replacen(
            "\"format_version\":\"1.0\"",
            &format!("\"format_version\":\"{version}\",\"new\":1"),
            1,
        );
        let text = text.replacen(
            "\"format_version\": \"1.0\"",
            &format!("\"format_version\": \"{version}\""),
            1,
        );
        fs::write(path, text).unwrap();
    };
    newer(&folder.path().join("archive.json"));
    let opened = FolderStore::open(folder.path(), false);
    assert_eq!(opened.is_ok(), readable);
    if !readable {
        let told = opened.unwrap_err().to_string();
        assert!(told.contains("version 2.0") && told.contains("or a newer one"), "{told}");
        newer_undone(&folder.path().join("archive.json"), version);
    }
    // An observation of another version among those of this.
    let looks = files(&folder.path().join(format!("machines/{key}/looks")));
    newer(&looks[2]);
    let store = FolderStore::open(folder.path(), false).unwrap();
    let looks = (1..=3).filter(|number| look(&store, &key, *number, Depth::Whole).is_ok()).count();
    assert_eq!(looks, if readable { 3 } else { 2 });
}

fn newer_undone(path: &Path, version: &str) {
    let text = fs::read_to_string(path).unwrap();
    fs::write(path, text.replace(version, "1.0")).unwrap();
}

#[test]
fn something_else_is_no_archive_and_stays_as_it_is() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("letter.txt"), "dear").unwrap();
    let refused = FolderStore::open_or_make(folder.path(), false).unwrap_err();
    assert!(matches!(refused, StoreError::NotAnArchive { .. }), "{refused}");
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1);
    let file = folder.path().join("letter.txt");
    assert!(matches!(
        FolderStore::open_or_make(&file, false),
        Err(StoreError::NotAnArchive { .. })
    ));
    let nothing = FolderStore::open(&folder.path().join("nothing"), false).unwrap_err();
    assert!(nothing.to_string().contains("there is no archive at"), "{nothing}");
}

#[test]
fn a_link_in_the_place_of_a_file_is_not_followed() {
    let folder = tempfile::tempdir().unwrap();
    let store = made(folder.path(), false);
    let key = key(&store);
    let looks = files(&folder.path().join(format!("machines/{key}/looks")));
    let path = looks[2].clone();
    let aside = folder.path().join("aside");
    fs::rename(&path, &aside).unwrap();
    std::os::unix::fs::symlink(&aside, &path).unwrap();
    let told = damage(folder.path());
    assert!(told.iter().any(|one| one.what == path.display().to_string()), "{told:?}");
    assert!(look(&store, &key, 3, Depth::Whole).is_err());
}
