//! How big folders are, and a filesystem's own figure beside the sum over its files.
//!
//! It is a door of its own: names and statuses are all that is asked of what lies beneath a path, and no file
//! is opened. The threads that walk are confined as those that read for a survey are.

mod beneath;
mod folders;
mod links;
mod open_files;
mod told;
mod walk;

use std::{
    collections::HashSet,
    path::{Path, PathBuf},
    sync::atomic::{AtomicBool, AtomicU64, Ordering},
    time::{Duration, Instant},
};

use globset::{GlobBuilder, GlobSet, GlobSetBuilder};
use jiff::Timestamp;
use rustix::{
    fs::{AtFlags, CWD, Mode, OFlags, StatxFlags},
    io::Errno,
};
use tectum_report::{
    report::Outcome,
    space::{DeletedFile, Filesystem, Space},
};

use crate::{
    formats::mountinfo,
    readers::mount_class,
    source::{outcome_of, path_text},
};
use beneath::Beneath;
use walk::{Root, Rules, walk};

/// What is to be looked at, and how.
#[derive(Debug, Clone)]
pub struct Plan {
    /// The path.
    pub path: PathBuf,
    /// Whether what is mounted beneath it is entered.
    pub across_mounts: bool,
    /// Only files changed last before this are counted.
    pub changed_before: Option<Timestamp>,
    /// Patterns of what is passed over: of a name, or with a `/` of the path beneath the one asked for.
    pub exclude: Vec<String>,
    /// How deep folders are listed.
    pub depth: u32,
    /// How many folders of each folder are listed, and how many files in all.
    pub top: usize,
    /// How long one question to the kernel may take.
    pub deadline: Duration,
    /// How many threads walk.
    pub threads: usize,
}

impl Plan {
    /// A plan for a path.
    pub fn of(path: impl Into<PathBuf>) -> Self {
        Self {
            path: path.into(),
            across_mounts: false,
            changed_before: None,
            exclude: Vec::new(),
            depth: 2,
            top: 10,
            deadline: Duration::from_secs(2),
            threads: std::thread::available_parallelism().map_or(2, |number| number.get().min(8)),
        }
    }
}

/// Why nothing could be told of a path.
#[derive(Debug, thiserror::Error)]
pub enum SpaceError {
    /// The path could not be opened.
    #[error("cannot look at {path}: {outcome}")]
    Path {
        /// The path.
        path: String,
        /// How the asking ended.
        outcome: Outcome,
    },
    /// The path leads to something else.
    #[error("{path} is no folder; name the folder that it is in")]
    NoFolder {
        /// The path.
        path: String,
    },
    /// A pattern that is none.
    #[error("{pattern:?} is no pattern: {said}")]
    Pattern {
        /// The pattern.
        pattern: String,
        /// What is wrong with it.
        said: String,
    },
}

/// How far the looking has come, for whoever waits.
#[derive(Debug, Default)]
pub struct Progress {
    entries: AtomicU64,
    bytes: AtomicU64,
    /// Whether an answer is waited for by which no deadline is kept here.
    waits: AtomicBool,
}

impl Progress {
    /// How many files and folders were looked at.
    pub fn entries(&self) -> u64 {
        self.entries.load(Ordering::Relaxed)
    }

    /// How many bytes are kept for those.
    pub fn bytes(&self) -> u64 {
        self.bytes.load(Ordering::Relaxed)
    }

    /// Whether an answer of the kernel is waited for that may never come: whoever began this in a process of its
    /// own gives it up. Walking keeps its own deadlines.
    pub fn waits(&self) -> bool {
        self.waits.load(Ordering::Relaxed)
    }

    fn waiting<T>(&self, ask: impl FnOnce() -> T) -> T {
        self.waits.store(true, Ordering::Relaxed);
        let answer = ask();
        self.waits.store(false, Ordering::Relaxed);
        answer
    }
}

/// Patterns, ready to be asked.
fn patterns(all: &[String]) -> Result<(GlobSet, Vec<bool>), SpaceError> {
    let mut set = GlobSetBuilder::new();
    let mut of_paths = Vec::new();
    for pattern in all {
        let wrong = |said: &globset::Error| SpaceError::Pattern {
            pattern: pattern.clone(),
            said: said.kind().to_string(),
        };
        let text = pattern.trim_start_matches('/');
        let glob = GlobBuilder::new(text).literal_separator(true).build();
        set.add(glob.map_err(|error| wrong(&error))?);
        of_paths.push(text.contains('/') || text != pattern);
    }
    let wrong = |error: globset::Error| SpaceError::Pattern {
        pattern: all.join(" "),
        said: error.to_string(),
    };
    Ok((set.build().map_err(wrong)?, of_paths))
}

/// What fills what lies beneath a path.
///
/// # Errors
/// When the path cannot be opened as a folder, or a pattern is none.
pub fn look(plan: &Plan, progress: &Progress) -> Result<Space, SpaceError> {
    let begun = Instant::now();
    let at = Timestamp::now();
    let excluded = patterns(&plan.exclude)?;
    let (path, root) = progress.waiting(|| opened(&plan.path))?;
    let mounts = std::fs::read("/proc/self/mountinfo").unwrap_or_default();
    let mounts = String::from_utf8_lossy(&mounts).into_owned();
    let before = progress.waiting(|| filesystem(&root, &path, &mounts));
    // What the kernel makes up has no size, and nothing to hold a sum against.
    let whole = before.as_ref().is_some_and(|own| own.whole && own.size_bytes > 0);

    let rules = Rules {
        across_mounts: plan.across_mounts,
        made_up: made_up(&mounts),
        changed_before: plan.changed_before.map(Timestamp::as_second),
        excluded: excluded.0,
        of_paths: excluded.1,
        largest: plan.top,
        deadline: plan.deadline,
        threads: plan.threads.max(1),
        confined: true,
    };
    let passed = mounted_beneath(&path, &mounts);
    // What needs rights that walking does not is asked before any thread gives them up.
    let beneath = if whole && !plan.across_mounts {
        beneath::look(&path, &passed, &rules)
    } else {
        Beneath::default()
    };
    let walked = walk(root, &rules, progress);
    let open = open_files::deleted(&walked.devices, plan.deadline);
    let after = before.as_ref().and_then(|_| progress.waiting(|| used(&path)));
    let plain = plan.exclude.is_empty() && plan.changed_before.is_none() && !plan.across_mounts;
    let mut told = told::space(plan, &path, walked);
    told.at = at;
    told.filesystem = before.map(|own| Filesystem {
        grew_bytes: after.map_or(0, |after| signed(after).saturating_sub(signed(own.used_bytes))),
        ..own
    });
    if !plan.across_mounts {
        told.mounts_passed_over = passed.iter().map(|one| path_text(one).into_owned()).collect();
    }
    told.beneath_mounts = beneath.found;
    // Of others' folders nothing was asked.
    told.deleted_open = open.files;
    if !whole {
        told.deleted_open.retain(|file| Path::new(&file.path).starts_with(&path));
    }
    if whole && plain {
        told.difference = told
            .filesystem
            .as_ref()
            .map(|own| told::difference(own, &told, open.processes_not_asked, beneath.seen));
    }
    told.elapsed_ms = u64::try_from(begun.elapsed().as_millis()).unwrap_or(u64::MAX);
    Ok(told)
}

/// The folder at a path, links followed, and where it is.
fn opened(asked: &Path) -> Result<(PathBuf, Root), SpaceError> {
    let failed = |path: &Path, errno| {
        let text = path_text(path).into_owned();
        match errno {
            Errno::NOTDIR => SpaceError::NoFolder { path: text },
            errno => SpaceError::Path { path: text, outcome: outcome_of(errno) },
        }
    };
    let path = std::fs::canonicalize(asked)
        .map_err(|error| failed(asked, Errno::from_io_error(&error).unwrap_or(Errno::IO)))?;
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    let folder = rustix::fs::openat(CWD, &path, flags, Mode::empty());
    let root = folder.and_then(Root::new).map_err(|errno| failed(&path, errno))?;
    Ok((path, root))
}

fn signed(bytes: u64) -> i64 {
    i64::try_from(bytes).unwrap_or(i64::MAX)
}

fn sum_of(files: &[DeletedFile]) -> u64 {
    files.iter().map(|file| file.allocated_bytes).sum()
}

/// What the filesystem at a path says is used.
fn used(path: &Path) -> Option<u64> {
    let own = rustix::fs::statvfs(path).ok()?;
    Some(own.f_blocks.saturating_sub(own.f_bfree).saturating_mul(own.f_frsize))
}

fn filesystem(root: &Root, path: &Path, mounts: &str) -> Option<Filesystem> {
    let own = rustix::fs::statvfs(path).ok()?;
    let mounts = mountinfo::parse(mounts);
    let mount = mounts.iter().find(|mount| Some(mount.id) == root.mount);
    let mount = mount.or_else(|| {
        let text = path_text(path);
        let covers = |mount: &&mountinfo::Mount<'_>| {
            Path::new(&*text).starts_with(Path::new(&*mount.mount_point))
        };
        mounts.iter().filter(covers).max_by_key(|mount| mount.mount_point.len())
    })?;
    let bytes = |blocks: u64| blocks.saturating_mul(own.f_frsize);
    Some(Filesystem {
        mount_point: mount.mount_point.clone().into_owned(),
        kind: mount.filesystem.to_owned(),
        source: mount.source.clone().into_owned(),
        size_bytes: bytes(own.f_blocks),
        used_bytes: bytes(own.f_blocks.saturating_sub(own.f_bfree)),
        available_bytes: bytes(own.f_bavail),
        reserved_bytes: bytes(own.f_bfree.saturating_sub(own.f_bavail)),
        inodes: own.f_files,
        inodes_used: own.f_files.saturating_sub(own.f_ffree),
        grew_bytes: 0,
        whole: mount.root == "/" && *mount.mount_point == *path_text(path),
    })
}

/// The mounts of what the kernel makes up: nobody's files, and lengths of whole memories.
fn made_up(mounts: &str) -> HashSet<u64> {
    let mounts = mountinfo::parse(mounts);
    mounts.iter().filter(|mount| mount_class::of(mount).is_none()).map(|mount| mount.id).collect()
}

/// Where something is mounted beneath a path, the path itself left out.
fn mounted_beneath(path: &Path, mounts: &str) -> Vec<PathBuf> {
    let mut points: Vec<PathBuf> = mountinfo::parse(mounts)
        .iter()
        .map(|mount| PathBuf::from(&*mount.mount_point))
        .filter(|point| point.starts_with(path) && point != path)
        .collect();
    points.sort();
    points.dedup();
    points
}

/// What is asked of each file.
const ASKED: StatxFlags = StatxFlags::TYPE
    .union(StatxFlags::NLINK)
    .union(StatxFlags::INO)
    .union(StatxFlags::SIZE)
    .union(StatxFlags::BLOCKS)
    .union(StatxFlags::MTIME)
    .union(StatxFlags::MNT_ID);

/// How it is asked: no link is followed, nothing is mounted for it, and a server that is gone is not waited for
/// where the kernel knows an answer.
const HOW: AtFlags =
    AtFlags::SYMLINK_NOFOLLOW.union(AtFlags::NO_AUTOMOUNT).union(AtFlags::STATX_DONT_SYNC);
