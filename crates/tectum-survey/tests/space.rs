//! What fills a folder: held against a plain walk, and in the corners that people fall into.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    clippy::cast_possible_truncation,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use std::{
    collections::HashSet,
    ffi::OsStr,
    fs::{self, File},
    io::Write,
    os::unix::{
        ffi::OsStrExt,
        fs::{MetadataExt, symlink},
    },
    path::Path,
    process::{Command, Stdio},
    time::{Duration, SystemTime},
};

use proptest::prelude::*;
use rstest::rstest;
use rustix::fs::{Mode, OFlags};
use tectum_report::{report::Outcome, space::Space};
use tectum_survey::space::{Plan, Progress, SpaceError, look};

/// A plan that no busy machine outwaits.
fn plan(path: impl Into<std::path::PathBuf>) -> Plan {
    Plan { deadline: Duration::from_secs(60), ..Plan::of(path) }
}

fn looked(plan: &Plan) -> Space {
    look(plan, &Progress::default()).unwrap()
}

fn write(path: &Path, length: usize) {
    fs::create_dir_all(path.parent().unwrap()).unwrap();
    File::create(path).unwrap().write_all(&vec![7; length]).unwrap();
}

/// The plain reference: one thread, paths, every file's status.
#[derive(Debug, Default, PartialEq, Eq)]
struct Counted {
    allocated: u64,
    apparent: u64,
    files: u64,
    folders: u64,
    others: u64,
}

fn counted(path: &Path, seen: &mut HashSet<(u64, u64)>, sum: &mut Counted) {
    let status = fs::symlink_metadata(path).unwrap();
    let more_names = !status.is_dir() && status.nlink() > 1;
    if more_names && !seen.insert((status.dev(), status.ino())) {
        return;
    }
    sum.allocated += status.blocks() * 512;
    sum.apparent += status.len();
    if status.is_dir() {
        sum.folders += 1;
        for entry in fs::read_dir(path).unwrap() {
            counted(&entry.unwrap().path(), seen, sum);
        }
    } else if status.is_file() {
        sum.files += 1;
    } else {
        sum.others += 1;
    }
}

fn plainly(path: &Path) -> Counted {
    let mut sum = Counted::default();
    counted(path, &mut HashSet::new(), &mut sum);
    sum
}

fn told(space: &Space) -> Counted {
    Counted {
        allocated: space.sum.allocated_bytes,
        apparent: space.sum.apparent_bytes,
        files: space.sum.files,
        folders: space.sum.folders,
        others: space.sum.others,
    }
}

#[derive(Debug, Clone)]
enum Made {
    File { folder: u8, name: u8, length: u16 },
    Sparse { folder: u8, name: u8, length: u32 },
    Link { folder: u8, name: u8, of: u8 },
    Symbolic { folder: u8, name: u8 },
    Folder { within: u8, name: u8 },
}

fn any_made() -> impl Strategy<Value = Made> {
    let small = 0u8..6;
    prop_oneof![
        3 => (small.clone(), any::<u8>(), any::<u16>())
            .prop_map(|(folder, name, length)| Made::File { folder, name, length }),
        1 => (small.clone(), any::<u8>(), any::<u32>())
            .prop_map(|(folder, name, length)| Made::Sparse { folder, name, length }),
        2 => (small.clone(), any::<u8>(), any::<u8>())
            .prop_map(|(folder, name, of)| Made::Link { folder, name, of }),
        1 => (small.clone(), any::<u8>()).prop_map(|(folder, name)| Made::Symbolic { folder, name }),
        3 => (small, any::<u8>()).prop_map(|(within, name)| Made::Folder { within, name }),
    ]
}

fn make(root: &Path, all: &[Made]) {
    let mut folders = vec![root.to_owned()];
    let mut files = Vec::new();
    for made in all {
        let of = |number: &u8| folders[usize::from(*number) % folders.len()].clone();
        // What is there already stays as it is.
        match made {
            Made::File { folder, name, length } => {
                let path = of(folder).join(format!("f{name}"));
                if !path.exists() {
                    write(&path, usize::from(*length));
                    files.push(path);
                }
            }
            Made::Sparse { folder, name, length } => {
                let path = of(folder).join(format!("s{name}"));
                File::create(&path).unwrap().set_len(u64::from(*length)).unwrap();
            }
            Made::Link { folder, name, of: file } => {
                let path = of(folder).join(format!("l{name}"));
                if let Some(file) = files.get(usize::from(*file) % files.len().max(1)) {
                    let _ = fs::hard_link(file, path);
                }
            }
            Made::Symbolic { folder, name } => {
                let _ = symlink("..", of(folder).join(format!("y{name}")));
            }
            Made::Folder { within, name } => {
                let path = of(within).join(format!("d{name}"));
                if fs::create_dir(&path).is_ok() {
                    folders.push(path);
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// The sums are those of a plain walk, whatever the number of threads, and the same each time.
    #[test]
    fn sums_are_those_of_a_plain_walk(all in prop::collection::vec(any_made(), 0..60)) {
        let folder = tempfile::tempdir().unwrap();
        make(folder.path(), &all);
        let mut answers = Vec::new();
        for threads in [1, 2, 7] {
            let plan = Plan { threads, depth: 9, top: 1000, ..plan(folder.path()) };
            let mut space = looked(&plan);
            prop_assert_eq!(told(&space), plainly(folder.path()));
            // Each folder is what is within it and its own.
            for one in &space.folders {
                let within: u64 = space.folders.iter()
                    .filter(|other| Path::new(&other.path).parent() == Some(Path::new(&one.path)))
                    .map(|other| other.allocated_bytes)
                    .sum();
                let own = fs::symlink_metadata(&one.path).unwrap().blocks() * 512;
                let others = one.allocated_bytes - within - own;
                // Links and pipes take no blocks of their own here.
                prop_assert_eq!(others, one.own_files_bytes, "{}", &one.path);
            }
            space.at = jiff::Timestamp::UNIX_EPOCH;
            space.elapsed_ms = 0;
            space.filesystem = None;
            answers.push(space);
        }
        prop_assert_eq!(&answers[0], &answers[1]);
        prop_assert_eq!(&answers[0], &answers[2]);
    }
}

#[test]
fn a_file_with_several_names_is_counted_once_where_the_first_of_them_is() {
    let folder = tempfile::tempdir().unwrap();
    let root = folder.path();
    write(&root.join("b/deep/first"), 300_000);
    for name in ["a", "c"] {
        fs::create_dir(root.join(name)).unwrap();
        fs::hard_link(root.join("b/deep/first"), root.join(name).join("again")).unwrap();
    }
    let space = looked(&plan(root));
    assert_eq!(space.sum.files, 1);
    assert_eq!(space.sum.hard_linked_files, 1);
    let own = space.files[0].allocated_bytes;
    assert_eq!(space.sum.hard_links_saved_bytes, 2 * own);
    assert!(space.files[0].path.ends_with("/a/again"), "{:?}", space.files);
    assert_eq!((space.files.len(), space.files[0].links), (1, 3));
    let of = |name: &str| {
        let path = root.join(name).to_str().unwrap().to_owned();
        space.folders.iter().find(|one| one.path == path).unwrap()
    };
    assert_eq!([of("a").files, of("b").files, of("c").files], [1, 0, 0]);
    // A folder itself takes room on some filesystems, and none on others.
    assert!(of("a").allocated_bytes >= own && of("b").allocated_bytes < own);
}

#[test]
fn sparse_files_are_told_apart_from_what_is_kept_for_them() {
    let folder = tempfile::tempdir().unwrap();
    File::create(folder.path().join("image")).unwrap().set_len(1 << 30).unwrap();
    write(&folder.path().join("small"), 10);
    let space = looked(&plan(folder.path()));
    assert_eq!((space.sum.sparse_files, space.sum.sparse_bytes), (1, 1 << 30));
    assert!(space.sum.apparent_bytes > 1 << 30 && space.sum.allocated_bytes < 1 << 20);
    // Nothing is kept for it, so it is not among the largest.
    assert_eq!(space.files.len(), 1);
}

#[test]
fn links_are_not_followed_and_nothing_leads_outside() {
    let outside = tempfile::tempdir().unwrap();
    write(&outside.path().join("large"), 1 << 20);
    let folder = tempfile::tempdir().unwrap();
    symlink(outside.path(), folder.path().join("there")).unwrap();
    symlink(folder.path(), folder.path().join("round")).unwrap();
    let space = looked(&plan(folder.path()));
    assert_eq!((space.sum.others, space.sum.files, space.sum.folders), (2, 0, 1));
    // The path that is asked for is followed: it is what was named.
    let named = folder.path().join("there");
    assert_eq!(looked(&plan(named)).sum.files, 1);
}

#[rstest]
#[case(&["*.iso"], 2, 3)]
#[case(&["cache/**"], 2, 4)]
#[case(&["cache"], 1, 4)]
#[case(&["/logs/old"], 1, 4)]
#[case(&["*.iso", "cache"], 3, 2)]
#[case(&["nothing"], 0, 5)]
fn what_is_passed_over_is_counted_and_nothing_within_it(
    #[case] exclude: &[&str],
    #[case] entries: u64,
    #[case] files: u64,
) {
    let folder = tempfile::tempdir().unwrap();
    for name in ["one.iso", "logs/two.iso", "cache/three", "logs/old", "four"] {
        write(&folder.path().join(name), 10);
    }
    fs::create_dir(folder.path().join("cache/empty")).unwrap();
    let exclude: Vec<String> = exclude.iter().map(|&one| one.to_owned()).collect();
    let space = looked(&Plan { exclude, ..plan(folder.path()) });
    assert_eq!(space.excluded.iter().map(|one| one.entries).sum::<u64>(), entries);
    assert_eq!(space.sum.files, files);
}

#[test]
fn a_pattern_that_is_none_is_told() {
    let plan = Plan { exclude: vec!["[".to_owned()], ..plan("/") };
    let error = look(&plan, &Progress::default()).unwrap_err();
    assert!(matches!(error, SpaceError::Pattern { .. }), "{error}");
}

#[test]
fn only_what_nobody_changed_for_long_can_be_counted() {
    let folder = tempfile::tempdir().unwrap();
    write(&folder.path().join("new"), 5_000);
    write(&folder.path().join("deep/old"), 9_000);
    let year = Duration::from_secs(365 * 86_400);
    let old = File::options().write(true).open(folder.path().join("deep/old")).unwrap();
    old.set_modified(SystemTime::now() - year).unwrap();
    let month = jiff::SignedDuration::from_hours(30 * 24);
    let before = jiff::Timestamp::now().checked_sub(month).unwrap();
    let space = looked(&Plan { changed_before: Some(before), ..plan(folder.path()) });
    let own = fs::metadata(folder.path().join("deep/old")).unwrap().blocks() * 512;
    assert_eq!((space.sum.files, space.sum.allocated_bytes), (1, own));
    assert_eq!(space.sum.newest_change, space.sum.oldest_change);
    assert!(space.sum.newest_change.unwrap() < before);
}

#[test]
fn depth_and_number_bound_what_is_listed_and_the_rest_is_counted() {
    let folder = tempfile::tempdir().unwrap();
    for outer in 0..6usize {
        for inner in 0..3 {
            write(&folder.path().join(format!("o{outer}/i{inner}/file")), 10_000 * (outer + 1));
        }
    }
    let space = looked(&Plan { depth: 1, top: 2, ..plan(folder.path()) });
    let names: Vec<&str> =
        space.folders.iter().map(|one| one.path.rsplit('/').next().unwrap()).collect();
    assert_eq!(names[1..], ["o5", "o4"]);
    assert_eq!((space.folders[0].not_listed, space.folders[1].not_listed), (4, 3));
    let inner: u64 =
        (0..3).map(|inner| plainly(&folder.path().join(format!("o5/i{inner}"))).allocated).sum();
    assert_eq!(space.folders[1].not_listed_bytes, inner);
    assert_eq!(space.files.len(), 2);
}

#[test]
fn names_that_are_no_text_are_told_without_loss() {
    let folder = tempfile::tempdir().unwrap();
    let name = OsStr::from_bytes(b"tide\xff\n\x1b[31m");
    write(&folder.path().join(name).join("file"), 9_000);
    let space = looked(&plan(folder.path()));
    assert!(space.folders[1].path.ends_with("tide\\xFF\n\u{1b}[31m"), "{:?}", space.folders);
}

#[test]
fn a_tree_deeper_than_any_path_is_walked_to_its_end() {
    let folder = tempfile::tempdir().unwrap();
    let name = "n".repeat(200);
    let depth = 400;
    // By steps, because such a path is longer than the kernel takes at once.
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
    let mut at = rustix::fs::open(folder.path(), flags, Mode::empty()).unwrap();
    for _ in 0..depth {
        rustix::fs::mkdirat(&at, &name, Mode::RWXU).unwrap();
        at = rustix::fs::openat(&at, &name, flags, Mode::empty()).unwrap();
    }
    let new = OFlags::CREATE | OFlags::WRONLY | OFlags::CLOEXEC;
    let end = rustix::fs::openat(&at, "end", new, Mode::RWXU).unwrap();
    File::from(end).write_all(&[7; 50_000]).unwrap();
    let space = looked(&plan(folder.path()));
    assert_eq!((space.sum.folders, space.sum.files, space.gaps.len()), (depth + 1, 1, 0));
    assert!(space.files[0].path.ends_with("/end"));
}

#[test]
fn many_folders_side_by_side_hold_no_more_open_than_there_is_room_for() {
    let folder = tempfile::tempdir().unwrap();
    for outer in 0..400 {
        fs::create_dir_all(folder.path().join(format!("o{outer}/a/b"))).unwrap();
    }
    let space = looked(&Plan { threads: 8, ..plan(folder.path()) });
    assert_eq!((space.sum.folders, space.gaps.len()), (1 + 3 * 400, 0));
}

#[test]
fn a_path_that_is_no_folder_says_so() {
    let file = tempfile::NamedTempFile::new().unwrap();
    let of = |path: &Path| look(&plan(path), &Progress::default()).unwrap_err();
    assert!(matches!(of(file.path()), SpaceError::NoFolder { .. }));
    let none = of(Path::new("/nowhere/at/all"));
    assert!(matches!(none, SpaceError::Path { outcome: Outcome::NotFound, .. }), "{none}");
}

#[test]
fn a_deleted_file_is_found_with_who_holds_it() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("log");
    write(&path, 700_000);
    let mut holder = Command::new("sleep")
        .arg("600")
        .stdin(Stdio::from(File::open(&path).unwrap()))
        .spawn()
        .unwrap();
    fs::remove_file(&path).unwrap();
    // What is not deleted is no matter.
    write(&folder.path().join("there"), 5_000);
    let space = looked(&plan(folder.path()));
    holder.kill().unwrap();
    holder.wait().unwrap();
    let found: Vec<_> = space.deleted_open.iter().collect();
    assert_eq!(found.len(), 1, "{found:?}");
    assert_eq!(found[0].path, path.canonicalize().unwrap_or(path).to_str().unwrap());
    assert_eq!((found[0].apparent_bytes, found[0].held_by.len()), (700_000, 1));
    let by = &found[0].held_by[0];
    assert_eq!((by.pid, by.name.as_str(), by.descriptor), (holder.id(), "sleep", Some(0)));
    // The folder is a part of its filesystem, whose own figure says nothing of it.
    assert!(space.difference.is_none() && !space.filesystem.is_some_and(|own| own.whole));
    assert!(look(&plan(folder.path()), &Progress::default()).unwrap().deleted_open.is_empty());
}
