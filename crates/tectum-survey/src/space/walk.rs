//! Walking: every file and folder beneath a folder, its status and nothing else, by several threads.
//!
//! Each folder is opened relative to the one it is in and no link is followed, so that nothing that changes
//! underneath leads outside. A thread whose question is not answered within the deadline is left to itself, its
//! folder is a gap, and another thread takes its place.

use std::{
    collections::{BTreeSet, HashSet},
    ffi::{CStr, CString, OsStr},
    mem::MaybeUninit,
    os::{
        fd::{AsFd, BorrowedFd, OwnedFd},
        unix::ffi::OsStrExt,
    },
    path::PathBuf,
    sync::{
        Arc, Condvar, Mutex, MutexGuard, PoisonError,
        atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering},
    },
    thread,
    time::Duration,
};

use globset::GlobSet;
use rustix::{
    fs::{FileType, Mode, OFlags, RawDir, Statx, StatxFlags},
    io::Errno,
};
use tectum_report::report::Outcome;

use super::{
    ASKED, HOW, Progress,
    folders::{Content, Folders, Number},
    links::{Inode, Links},
};
use crate::{
    own_time::{OwnTime, Still},
    source::{Confinement, Door, Tree, outcome_of},
};

/// What holds for a walk.
#[derive(Debug, Clone)]
pub(super) struct Rules {
    pub(super) across_mounts: bool,
    /// The mounts that are not entered even so.
    pub(super) made_up: HashSet<u64>,
    /// Seconds since 1970.
    pub(super) changed_before: Option<i64>,
    pub(super) excluded: GlobSet,
    /// Which of those patterns are of paths and not of names.
    pub(super) of_paths: Vec<bool>,
    /// How many of the largest files are kept in mind.
    pub(super) largest: usize,
    pub(super) deadline: Duration,
    pub(super) threads: usize,
    /// Whether the threads give up the right to read what lies elsewhere.
    pub(super) confined: bool,
}

/// Where a walk begins.
#[derive(Debug)]
pub(super) struct Root {
    folder: OwnedFd,
    /// The mount's number, where the kernel tells it.
    pub(super) mount: Option<u64>,
    device: (u32, u32),
    own: (u64, u64),
}

impl Root {
    pub(super) fn new(folder: OwnedFd) -> Result<Self, Errno> {
        let how = HOW | rustix::fs::AtFlags::EMPTY_PATH;
        let status = rustix::fs::statx(&folder, c"", how, ASKED)?;
        Ok(Self {
            folder,
            mount: mount_of(&status),
            device: (status.stx_dev_major, status.stx_dev_minor),
            own: own_of(&status),
        })
    }
}

fn mount_of(status: &Statx) -> Option<u64> {
    let told = StatxFlags::from_bits_retain(status.stx_mask).contains(StatxFlags::MNT_ID);
    told.then_some(status.stx_mnt_id)
}

/// Bytes that are kept for a file, and its length.
fn own_of(status: &Statx) -> (u64, u64) {
    (status.stx_blocks.saturating_mul(512), status.stx_size)
}

/// What a walk found.
#[derive(Debug)]
pub(super) struct Walked {
    pub(super) folders: Folders,
    pub(super) largest: Vec<Large>,
    pub(super) hard_linked: u64,
    pub(super) hard_links_saved: u64,
    pub(super) vanished: u64,
    /// By pattern.
    pub(super) excluded: Vec<u64>,
    /// The devices that files are on: several where a filesystem has parts with numbers of their own.
    pub(super) devices: HashSet<(u32, u32)>,
    /// What could not be looked at: the folder, a name in it, and why.
    pub(super) gaps: Vec<(PathBuf, Outcome)>,
    pub(super) more_gaps: u64,
}

/// A large file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Large {
    pub(super) allocated: u64,
    pub(super) apparent: u64,
    pub(super) folder: Number,
    pub(super) name: Box<CStr>,
    pub(super) links: u32,
    pub(super) changed: i64,
    inode: Inode,
}

/// More gaps are counted and not told one by one.
const MOST_GAPS: usize = 1_000;

/// More threads are not left to themselves: then the walk ends.
const MOST_LEFT: usize = 16;

/// So many folders are held open, for those within; the way to others is gone again.
const MOST_OPEN: usize = 256;

/// How often to look whether anything moved.
const TICK: Duration = Duration::from_millis(25);

/// Room for names: what one question for them gives.
const NAMES: usize = 1 << 15;

/// Files with several names are told together, so many at a time.
const TOGETHER: usize = 1_024;

/// A folder that is open, for as long as one within waits to be walked.
#[derive(Debug)]
struct Open {
    folder: OwnedFd,
    all: Arc<AtomicUsize>,
}

impl Open {
    fn new(folder: OwnedFd, all: &Arc<AtomicUsize>) -> Self {
        all.fetch_add(1, Ordering::Relaxed);
        Self { folder, all: Arc::clone(all) }
    }
}

impl Drop for Open {
    fn drop(&mut self) {
        self.all.fetch_sub(1, Ordering::Relaxed);
    }
}

/// A folder that is to be walked.
#[derive(Debug)]
struct Task {
    folder: Number,
    /// The folder it is in, where that is still open.
    within: Option<Arc<Open>>,
}

/// A thread that walks.
#[derive(Debug, Default)]
struct Walker {
    /// Rises with every answer of the kernel.
    moved: AtomicU64,
    /// Whether nobody waits for it any more.
    left: AtomicBool,
    /// The folder that it is at, and one; 0 where it is at none.
    at: AtomicU64,
}

/// A walker, and how long it has been at one question.
type Watched = (Arc<Walker>, Still<(u64, u64)>);

#[derive(Debug)]
struct State {
    folders: Folders,
    links: Links,
    largest: Vec<Large>,
    tasks: Vec<Task>,
    /// How many folders are being walked just now.
    busy: usize,
    ended: bool,
    left: usize,
    vanished: u64,
    excluded: Vec<u64>,
    devices: HashSet<(u32, u32)>,
    gaps: BTreeSet<(Number, Option<CString>, String)>,
    more_gaps: u64,
}

impl State {
    fn gap(&mut self, folder: Number, name: Option<CString>, outcome: &Outcome) {
        if self.gaps.len() < MOST_GAPS {
            self.gaps.insert((folder, name, outcome.code().to_owned()));
        } else {
            self.more_gaps += 1;
        }
    }
}

struct Shared {
    rules: Rules,
    root: Root,
    state: Mutex<State>,
    wake: Condvar,
    open: Arc<AtomicUsize>,
    /// Files for which fewer bytes are kept are not among the largest.
    floor: AtomicU64,
    entries: AtomicU64,
    bytes: AtomicU64,
    confinement: Option<Confinement>,
}

impl Shared {
    fn lock(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// Walks all that lies beneath a folder.
pub(super) fn walk(root: Root, rules: &Rules, progress: &Progress) -> Walked {
    let counted = if rules.changed_before.is_some() { (0, 0) } else { root.own };
    let state = State {
        folders: Folders::of_root(counted),
        links: Links::default(),
        largest: Vec::new(),
        tasks: vec![Task { folder: 0, within: None }],
        busy: 0,
        ended: false,
        left: 0,
        vanished: 0,
        excluded: vec![0; rules.of_paths.len()],
        devices: HashSet::from([root.device]),
        gaps: BTreeSet::new(),
        more_gaps: 0,
    };
    let live = Tree::live().ok().map(Door::new);
    let confinement = live.and_then(|door| match rules.confined {
        true => Confinement::to(&door, &["/**"]),
        false => Some(Confinement::of_calls()),
    });
    let shared = Arc::new(Shared {
        rules: rules.clone(),
        root,
        state: Mutex::new(state),
        wake: Condvar::new(),
        open: Arc::default(),
        floor: AtomicU64::new(0),
        entries: AtomicU64::new(0),
        bytes: AtomicU64::new(0),
        confinement,
    });
    let mut clock = OwnTime::begin();
    let mut walkers: Vec<Watched> = Vec::new();
    let begin = |walkers: &mut Vec<Watched>| {
        let walker = Arc::new(Walker::default());
        let (own, all) = (Arc::clone(&walker), Arc::clone(&shared));
        let named = thread::Builder::new().name("walks".to_owned());
        if named.spawn(move || work(&all, &own)).is_ok() {
            walkers.push((walker, Still::default()));
        }
    };
    for _ in 0..rules.threads {
        begin(&mut walkers);
    }
    let mut state = shared.lock();
    // Where no thread could be begun, nothing was looked at, and that is said.
    if walkers.is_empty() {
        state.gap(0, None, &Outcome::Failed("EAGAIN".into()));
        state.ended = true;
    }
    while !state.ended {
        state = shared.wake.wait_timeout(state, TICK).unwrap_or_else(PoisonError::into_inner).0;
        progress.entries.store(shared.entries.load(Ordering::Relaxed), Ordering::Relaxed);
        progress.bytes.store(shared.bytes.load(Ordering::Relaxed), Ordering::Relaxed);
        let now = clock.look();
        let mut fresh = 0;
        walkers.retain_mut(|(walker, still)| {
            let at = walker.at.load(Ordering::Relaxed);
            let moved = walker.moved.load(Ordering::Relaxed);
            // One that asks nothing waits for work.
            if still.at((moved, at), now) < rules.deadline || at == 0 {
                return true;
            }
            walker.left.store(true, Ordering::Relaxed);
            let folder = Number::try_from(at - 1).unwrap_or_default();
            state.gap(folder, None, &Outcome::TimedOut);
            state.busy -= 1;
            state.left += 1;
            fresh += 1;
            false
        });
        if state.left >= MOST_LEFT {
            let rest: Vec<Number> = state.tasks.drain(..).map(|task| task.folder).collect();
            rest.into_iter().for_each(|folder| state.gap(folder, None, &Outcome::OutOfTime));
        }
        if state.busy == 0 && state.tasks.is_empty() {
            state.ended = true;
            shared.wake.notify_all();
        }
        for _ in 0..fresh {
            begin(&mut walkers);
        }
    }
    let state = &mut *state;
    let mut folders = std::mem::replace(&mut state.folders, Folders::of_root((0, 0)));
    let (hard_linked, hard_links_saved) = std::mem::take(&mut state.links).count(&mut folders);
    folders.sum_up();
    let gaps = std::mem::take(&mut state.gaps).into_iter().map(|(folder, name, code)| {
        let mut path = folders.path(folder);
        path.extend(name.iter().map(|name| OsStr::from_bytes(name.to_bytes())));
        (path, Outcome::from_code(&code))
    });
    let mut gaps: Vec<(PathBuf, Outcome)> = gaps.collect();
    gaps.sort_by(|one, other| one.0.cmp(&other.0));
    let mut largest = std::mem::take(&mut state.largest);
    largest.sort_by(|one, other| {
        let size = other.allocated.cmp(&one.allocated);
        let place = || folders.order(one.folder, other.folder);
        size.then_with(place).then_with(|| one.name.cmp(&other.name))
    });
    largest.truncate(rules.largest);
    Walked {
        largest,
        hard_linked,
        hard_links_saved,
        vanished: state.vanished,
        excluded: std::mem::take(&mut state.excluded),
        devices: std::mem::take(&mut state.devices),
        gaps,
        more_gaps: state.more_gaps,
        folders,
    }
}

/// What a thread does: a folder after the other, until there are no more.
fn work(shared: &Shared, walker: &Walker) {
    if let Some(confinement) = &shared.confinement {
        confinement.enter();
    }
    let mut room = vec![MaybeUninit::<u8>::uninit(); NAMES];
    loop {
        let task = {
            let mut state = shared.lock();
            loop {
                if state.ended {
                    return;
                }
                if let Some(task) = state.tasks.pop() {
                    state.busy += 1;
                    walker.at.store(u64::from(task.folder) + 1, Ordering::Relaxed);
                    break task;
                }
                if state.busy == 0 {
                    state.ended = true;
                    shared.wake.notify_all();
                    return;
                }
                state = shared.wake.wait(state).unwrap_or_else(PoisonError::into_inner);
            }
        };
        let mut found = Found::default();
        let ended = folder(shared, walker, &task, &mut room, &mut found);
        let mut state = shared.lock();
        // Under the lock, so that it is one or the other.
        if walker.left.load(Ordering::Relaxed) {
            return;
        }
        walker.at.store(0, Ordering::Relaxed);
        let within = match ended {
            Ok(open) => open,
            Err(outcome) => {
                match outcome {
                    Outcome::NotFound => state.vanished += 1,
                    outcome => state.gap(task.folder, None, &outcome),
                }
                None
            }
        };
        settle(shared, &mut state, task.folder, &mut found);
        for (name, own) in found.within.drain(..) {
            match state.folders.add(task.folder, &name, own) {
                Some(folder) => state.tasks.push(Task { folder, within: within.clone() }),
                None => state.more_gaps += 1,
            }
        }
        state.busy -= 1;
        shared.wake.notify_all();
    }
}

/// What was found in a folder.
#[derive(Debug, Default)]
struct Found {
    content: Content,
    own_files: u64,
    within: Vec<(CString, (u64, u64))>,
    links: Vec<(Inode, Content)>,
    gaps: Vec<(CString, Outcome)>,
    vanished: u64,
    excluded: Vec<usize>,
    devices: Option<(u32, u32)>,
}

/// Puts what was found where all can see it.
fn settle(shared: &Shared, state: &mut State, number: Number, found: &mut Found) {
    let State { folders, links, .. } = state;
    for (inode, file) in found.links.drain(..) {
        // Of more files than can be kept in mind each name is counted.
        if !links.meet(inode, number, file, folders) {
            found.own_files = found.own_files.saturating_add(file.allocated);
            found.content.add(&file);
        }
    }
    if let Some(folder) = folders.get_mut(number) {
        folder.content.add(&found.content);
        folder.own_files = folder.own_files.saturating_add(found.own_files);
    }
    shared.bytes.fetch_add(found.content.allocated, Ordering::Relaxed);
    found.content = Content::default();
    found.own_files = 0;
    state.vanished += std::mem::take(&mut found.vanished);
    for (name, outcome) in found.gaps.drain(..) {
        state.gap(number, Some(name), &outcome);
    }
    for pattern in found.excluded.drain(..) {
        if let Some(count) = state.excluded.get_mut(pattern) {
            *count += 1;
        }
    }
    if let Some(device) = found.devices.take() {
        state.devices.insert(device);
    }
}

/// Opens a folder of the table.
fn open(shared: &Shared, walker: &Walker, task: &Task) -> Result<OwnedFd, Outcome> {
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::NOFOLLOW | OFlags::CLOEXEC;
    let within = |folder: BorrowedFd<'_>, name: &CStr| {
        let opened = rustix::fs::openat(folder, name, flags, Mode::empty());
        walker.moved.fetch_add(1, Ordering::Relaxed);
        opened.map_err(outcome_of)
    };
    if task.folder == 0 {
        return within(shared.root.folder.as_fd(), c".");
    }
    if let Some(open) = &task.within {
        let name = shared.lock().folders.get(task.folder).map(|folder| folder.name.clone());
        return within(open.folder.as_fd(), name.as_deref().unwrap_or_default());
    }
    let way: Vec<CString> = {
        let state = shared.lock();
        state.folders.way(task.folder).into_iter().map(CStr::to_owned).collect()
    };
    let mut at = within(shared.root.folder.as_fd(), c".")?;
    for name in way {
        at = within(at.as_fd(), &name)?;
    }
    Ok(at)
}

/// Looks at all that is in a folder. Gives the folder, open, where there are folders within it and room for it.
fn folder(
    shared: &Shared,
    walker: &Walker,
    task: &Task,
    room: &mut [MaybeUninit<u8>],
    found: &mut Found,
) -> Result<Option<Arc<Open>>, Outcome> {
    let opened = open(shared, walker, task)?;
    let mut names = RawDir::new(opened.as_fd(), room);
    let of_paths = shared.rules.of_paths.contains(&true);
    let place = of_paths.then(|| shared.lock().folders.path(task.folder));
    let mut entries = 0;
    while let Some(entry) = names.next() {
        walker.moved.fetch_add(1, Ordering::Relaxed);
        let entry = entry.map_err(outcome_of)?;
        let name = entry.file_name();
        if name == c"." || name == c".." {
            continue;
        }
        if !shared.rules.of_paths.is_empty()
            && let Some(pattern) = excluded(&shared.rules, place.as_ref(), name)
        {
            found.excluded.push(pattern);
            continue;
        }
        match rustix::fs::statx(&opened, name, HOW, ASKED) {
            Ok(status) => entry_met(shared, task.folder, name, &status, found),
            Err(Errno::NOENT) => found.vanished += 1,
            Err(errno) => found.gaps.push((name.to_owned(), outcome_of(errno))),
        }
        entries += 1;
        if found.links.len() >= TOGETHER || found.gaps.len() >= TOGETHER {
            shared.entries.fetch_add(std::mem::take(&mut entries), Ordering::Relaxed);
            let mut state = shared.lock();
            if walker.left.load(Ordering::Relaxed) {
                return Err(Outcome::TimedOut);
            }
            settle(shared, &mut state, task.folder, found);
        }
    }
    shared.entries.fetch_add(entries, Ordering::Relaxed);
    if found.within.is_empty() || shared.open.load(Ordering::Relaxed) >= MOST_OPEN {
        return Ok(None);
    }
    Ok(Some(Arc::new(Open::new(opened, &shared.open))))
}

fn excluded(rules: &Rules, place: Option<&PathBuf>, name: &CStr) -> Option<usize> {
    let name = OsStr::from_bytes(name.to_bytes());
    let of_path = |is: bool| move |index: &usize| rules.of_paths.get(*index) == Some(&is);
    let by_name = rules.excluded.matches(name).into_iter().find(of_path(false));
    by_name.or_else(|| {
        let path = place?.join(name);
        rules.excluded.matches(path).into_iter().find(of_path(true))
    })
}

/// Counts what was met.
fn entry_met(shared: &Shared, folder: Number, name: &CStr, status: &Statx, found: &mut Found) {
    let own = own_of(status);
    let kind = FileType::from_raw_mode(status.stx_mode.into());
    let device = (status.stx_dev_major, status.stx_dev_minor);
    if kind == FileType::Directory {
        let here = match (shared.root.mount, mount_of(status)) {
            (Some(root), Some(own)) => root == own,
            _ => device == shared.root.device,
        };
        let made_up = mount_of(status).is_some_and(|own| shared.rules.made_up.contains(&own));
        if !here && (made_up || !shared.rules.across_mounts) {
            return;
        }
        if device != shared.root.device {
            found.devices = Some(device);
        }
        let counted = if shared.rules.changed_before.is_some() { (0, 0) } else { own };
        found.within.push((name.to_owned(), counted));
        return;
    }
    let changed = status.stx_mtime.tv_sec;
    if shared.rules.changed_before.is_some_and(|before| changed >= before) {
        return;
    }
    let mut file = Content { allocated: own.0, apparent: own.1, ..Content::default() };
    if kind == FileType::RegularFile {
        file.files = 1;
        (file.newest, file.oldest) = (changed, changed);
        // Less than a page is what filesystems keep beside the status itself.
        if own.1.saturating_sub(own.0) >= 4096 {
            file.sparse_files = 1;
            file.sparse = own.1.saturating_sub(own.0);
        }
    } else {
        file.others = 1;
    }
    let inode = (device.0, device.1, status.stx_ino);
    if kind == FileType::RegularFile && own.0 > 0 && own.0 >= shared.floor.load(Ordering::Relaxed) {
        large(
            shared,
            Large {
                allocated: own.0,
                apparent: own.1,
                folder,
                name: name.into(),
                links: status.stx_nlink,
                changed,
                inode,
            },
        );
    }
    if status.stx_nlink > 1 {
        found.links.push((inode, file));
        return;
    }
    found.own_files = found.own_files.saturating_add(own.0);
    found.content.add(&file);
}

/// Keeps a file in mind that may be among the largest.
fn large(shared: &Shared, file: Large) {
    let most = shared.rules.largest;
    if most == 0 {
        return;
    }
    let state = &mut *shared.lock();
    let known = file.links > 1;
    if let Some(known) = state.largest.iter_mut().find(|one| known && one.inode == file.inode) {
        let place = state.folders.order(file.folder, known.folder);
        if place.then_with(|| file.name.cmp(&known.name)).is_lt() {
            *known = file;
        }
        return;
    }
    state.largest.push(file);
    // Now and then, so that sorting costs little.
    if state.largest.len() >= most.saturating_mul(2).max(64) {
        let folders = &state.folders;
        state.largest.sort_by(|one, other| {
            let size = other.allocated.cmp(&one.allocated);
            let place = || folders.order(one.folder, other.folder);
            size.then_with(place).then_with(|| one.name.cmp(&other.name))
        });
        state.largest.truncate(most);
        let floor = state.largest.last().map_or(0, |last| last.allocated);
        shared.floor.store(floor, Ordering::Relaxed);
    }
}
