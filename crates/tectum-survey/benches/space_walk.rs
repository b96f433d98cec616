//! What looking at a tree costs beside a bare walk of it by as many threads, which asks each file's status and
//! does nothing with it. The cost of a file must not grow with their number.
//!
//! `cargo bench -p tectum-survey --bench space_walk` prints both for 10,000, 100,000 and 1,000,000 files.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    reason = "a benchmark"
)]

mod timing;

use std::{
    fs::File,
    hint::black_box,
    mem::MaybeUninit,
    os::fd::{AsFd, OwnedFd},
    path::Path,
    sync::{Arc, Condvar, Mutex},
    thread,
};

use rustix::fs::{AtFlags, CWD, FileType, Mode, OFlags, RawDir, StatxFlags};
use tectum_survey::space::{Plan, Progress, look};
use timing::median;

/// Files in a folder.
const IN_A_FOLDER: usize = 100;

/// The goal: so many times a bare walk.
const GOAL: f64 = 1.3;

fn main() {
    let threads = thread::available_parallelism().map_or(2, usize::from).min(8);
    println!("{threads} threads, {IN_A_FOLDER} files a folder; goal {GOAL} times the bare walk");
    println!(
        "{:>9} {:>10} {:>10} {:>7} {:>10}",
        "files", "space ms", "bare ms", "ratio", "µs a file"
    );
    for files in [10_000, 100_000, 1_000_000] {
        let folder = tempfile::tempdir().unwrap();
        make(folder.path(), files);
        let plan = Plan { threads, ..Plan::of(folder.path()) };
        let bare = median(|| {
            black_box(bare(folder.path(), threads));
        });
        let own = median(|| {
            black_box(look(&plan, &Progress::default()).unwrap());
        });
        println!(
            "{files:>9} {:>10.1} {:>10.1} {:>7.2} {:>10.2}",
            own.as_secs_f64() * 1e3,
            bare.as_secs_f64() * 1e3,
            own.as_secs_f64() / bare.as_secs_f64(),
            own.as_secs_f64() * 1e6 / f64::from(files),
        );
    }
}

fn make(root: &Path, files: u32) {
    let folders = files as usize / IN_A_FOLDER;
    for number in 0..folders {
        let folder = root.join(format!("{}/{}/{number}", number % 10, number % 100));
        std::fs::create_dir_all(&folder).unwrap();
        for file in 0..IN_A_FOLDER {
            File::create(folder.join(format!("reading-{file}.log"))).unwrap();
        }
    }
}

/// What waits, and how many are at work.
type Queue = (Mutex<(Vec<(Arc<OwnedFd>, std::ffi::CString)>, usize)>, Condvar);

/// A bare walk: each file's status is asked, and its blocks are summed up.
fn bare(root: &Path, threads: usize) -> u64 {
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    let root = Arc::new(rustix::fs::openat(CWD, root, flags, Mode::empty()).unwrap());
    let queue: Queue = (Mutex::new((vec![(root, c".".to_owned())], 0)), Condvar::new());
    thread::scope(|scope| {
        let work = || {
            let mut blocks = 0;
            let mut room = vec![MaybeUninit::<u8>::uninit(); 1 << 15];
            loop {
                let (within, name) = {
                    let mut all = queue.0.lock().unwrap();
                    loop {
                        if let Some(next) = all.0.pop() {
                            all.1 += 1;
                            break next;
                        }
                        if all.1 == 0 {
                            queue.1.notify_all();
                            return blocks;
                        }
                        all = queue.1.wait(all).unwrap();
                    }
                };
                let folder =
                    Arc::new(rustix::fs::openat(&*within, &name, flags, Mode::empty()).unwrap());
                let mut found = Vec::new();
                let mut names = RawDir::new(folder.as_fd(), &mut room);
                while let Some(entry) = names.next() {
                    let entry = entry.unwrap();
                    let name = entry.file_name();
                    if name == c"." || name == c".." {
                        continue;
                    }
                    let asked = StatxFlags::BASIC_STATS;
                    let status =
                        rustix::fs::statx(&*folder, name, AtFlags::SYMLINK_NOFOLLOW, asked)
                            .unwrap();
                    blocks += status.stx_blocks;
                    if entry.file_type() == FileType::Directory {
                        found.push((Arc::clone(&folder), name.to_owned()));
                    }
                }
                let mut all = queue.0.lock().unwrap();
                all.0.append(&mut found);
                all.1 -= 1;
                queue.1.notify_all();
            }
        };
        let walkers: Vec<_> = (0..threads).map(|_| scope.spawn(work)).collect();
        walkers.into_iter().map(|walker| walker.join().unwrap()).sum()
    })
}
