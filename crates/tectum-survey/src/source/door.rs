//! The door itself: one machine, the memory of its answers, the log of accesses.

use std::{
    borrow::Borrow,
    collections::{BTreeMap, hash_map::Entry},
    ffi::{OsStr, OsString},
    hash::{Hash, Hasher},
    path::{Path, PathBuf},
    sync::{
        Arc, Mutex, MutexGuard, PoisonError,
        atomic::{AtomicBool, AtomicUsize, Ordering},
    },
    time::{Duration, Instant},
};

use jiff::Timestamp;
use tectum_report::keyed::{Hashes, Map};

use super::{
    Access, AccessError, Archive, Content, Operation, Outcome, SystemNames, Tree, VolumeUse,
    access::path_text, backend::Backend, capture::Stands, record::RecordedAnswer, tree::Want,
};

/// One machine, asked through [`Lease`]s.
#[derive(Debug)]
pub struct Door {
    backend: Backend,
    /// What was answered, in parts by the path's hash, so that threads seldom wait for one another.
    memory: [Mutex<Memory>; PARTS],
    hashes: Hashes,
    settled: AtomicUsize,
    /// Set when the whole survey's time is up: what is not remembered by then is not asked.
    closed: AtomicBool,
}

/// How many parts the memory has.
const PARTS: usize = 16;

/// What was answered, by path, for each operation.
#[derive(Debug, Default)]
struct Memory {
    answers: [Map<ByBytes, Settled>; Operation::ALL.len()],
}

/// A path that is told apart by its bytes: to look at it name by name takes several times as long.
#[derive(Debug)]
struct ByBytes(Arc<Path>);

impl Borrow<OsStr> for ByBytes {
    fn borrow(&self) -> &OsStr {
        self.0.as_os_str()
    }
}

impl Hash for ByBytes {
    fn hash<H: Hasher>(&self, to: &mut H) {
        self.0.as_os_str().hash(to);
    }
}

impl PartialEq for ByBytes {
    fn eq(&self, other: &Self) -> bool {
        self.0.as_os_str() == other.0.as_os_str()
    }
}

impl Eq for ByBytes {}

/// An answer that stands.
#[derive(Debug)]
struct Settled {
    answer: Result<Given, Outcome>,
    elapsed: Duration,
    /// How many were settled before.
    order: usize,
}

impl Memory {
    fn of(&self, operation: Operation) -> Option<&Map<ByBytes, Settled>> {
        self.answers.get(operation as usize)
    }
}

/// An answer of any kind.
#[derive(Debug, Clone)]
enum Given {
    Content(Content),
    Names(Arc<[OsString]>, bool),
    Path(Arc<Path>),
    Use(Box<VolumeUse>),
    System(Arc<SystemNames>),
}

impl Given {
    fn bytes(&self) -> usize {
        match self {
            Self::Content(content) => content.bytes.len(),
            Self::Names(names, _) => names.iter().map(|name| name.len()).sum(),
            _ => 0,
        }
    }

    fn outcome(&self) -> Outcome {
        match self {
            Self::Content(Content { cut: true, .. }) | Self::Names(_, true) => Outcome::Cut,
            _ => Outcome::Done,
        }
    }
}

/// A question with its answer, and a file's bytes.
pub(super) type Remembered = (Operation, PathBuf, RecordedAnswer, Option<Arc<[u8]>>);

/// An answer as a capture records it; where a file stands in the archive is filled in later.
fn recorded(answer: &Result<Given, Outcome>) -> (RecordedAnswer, Option<Arc<[u8]>>) {
    match answer {
        Err(outcome) => (RecordedAnswer::Refused(outcome.clone()), None),
        Ok(Given::Content(content)) => (
            RecordedAnswer::File { entry: PathBuf::new(), cut: content.cut },
            Some(Arc::clone(&content.bytes)),
        ),
        Ok(Given::Names(names, cut)) => {
            (RecordedAnswer::Names { names: names.to_vec(), cut: *cut }, None)
        }
        Ok(Given::Path(target)) => (RecordedAnswer::Target(target.to_path_buf()), None),
        Ok(Given::Use(volume)) => (RecordedAnswer::Use(**volume), None),
        Ok(Given::System(names)) => (RecordedAnswer::System(SystemNames::clone(names)), None),
    }
}

/// An access that has been begun and not ended.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct UnderWay {
    /// What was asked.
    pub operation: Operation,
    /// The path asked for.
    pub path: Arc<Path>,
    /// When it was begun.
    pub since: Instant,
}

impl Door {
    /// A door to the machine whose files are in `tree`.
    pub fn new(tree: Tree) -> Arc<Self> {
        Self::behind(Backend::Tree(Box::new(tree)))
    }

    /// A door to the machine that was recorded in `archive`.
    pub fn to_archive(archive: Archive) -> Arc<Self> {
        Self::behind(Backend::Archive(Box::new(archive)))
    }

    /// A door to a folder in which one file hangs.
    #[cfg(test)]
    pub(crate) fn hanging(tree: Tree, path: &Path) -> Arc<Self> {
        Self::behind(Backend::Hanging(Box::new(tree), path.to_owned()))
    }

    fn behind(backend: Backend) -> Arc<Self> {
        Arc::new(Self {
            backend,
            memory: std::array::from_fn(|_| Mutex::default()),
            hashes: Hashes::default(),
            settled: AtomicUsize::new(0),
            closed: AtomicBool::new(false),
        })
    }

    /// Whether the machine is the one this program runs on.
    pub fn is_live(&self) -> bool {
        self.backend.is_live()
    }

    /// Whether the machine runs: this one does, and one whose kernel's own files stand in the folder.
    pub fn is_running(&self) -> bool {
        self.backend.is_running()
    }

    /// When the machine was recorded; `None` where it is asked now.
    pub fn taken_at(&self) -> Option<Timestamp> {
        self.backend.record().map(|record| record.at)
    }

    /// The kinds of text that were kept, where the machine was recorded and the record redacted.
    pub fn redacted(&self) -> Option<&[String]> {
        self.backend.record()?.redacted.as_deref()
    }

    /// What stands at a path whose parents are no links.
    pub(super) fn look(&self, path: &Path) -> Stands {
        self.backend.look(path)
    }

    pub(super) fn backend(&self) -> &Backend {
        &self.backend
    }

    /// The archive that the machine was recorded in, if it was.
    pub fn archive(&self) -> Option<&Archive> {
        match &self.backend {
            Backend::Archive(archive) => Some(archive),
            _ => None,
        }
    }

    /// Everything that was answered: the question, the answer, and a file's bytes.
    pub(super) fn remembered(&self) -> Vec<Remembered> {
        let mut all = Vec::new();
        for part in &self.memory {
            let memory = lock(part);
            for operation in Operation::ALL.iter().copied() {
                for (ByBytes(path), settled) in memory.of(operation).into_iter().flatten() {
                    let (answer, bytes) = recorded(&settled.answer);
                    all.push((operation, path.to_path_buf(), answer, bytes));
                }
            }
        }
        all
    }

    /// The files that were read so far; of an archive, all that it holds.
    pub fn files(&self) -> Vec<(PathBuf, Arc<[u8]>)> {
        let mut files: BTreeMap<PathBuf, Arc<[u8]>> = self
            .remembered()
            .into_iter()
            .filter_map(|(_, path, _, bytes)| Some((path, bytes?)))
            .collect();
        if let Some(archive) = self.archive() {
            for path in archive.files() {
                if let Some(bytes) = archive.file(path) {
                    files.entry(Path::new("/").join(path)).or_insert(bytes);
                }
            }
        }
        files.into_iter().collect()
    }

    /// Whether the machine is, or was, asked as root.
    pub fn is_privileged(&self) -> bool {
        self.backend.is_privileged()
    }

    /// A handle by which one thread asks.
    pub fn lease(self: &Arc<Self>) -> Lease {
        Lease { door: Arc::clone(self), desk: Arc::default(), watch: None }
    }

    /// From now on nothing new is asked of the machine; what is remembered is still answered.
    pub fn close(&self) {
        self.closed.store(true, Ordering::Relaxed);
    }

    /// Settles an access that has taken too long as timed out: whoever asks again gets that answer,
    /// and a late one is dropped.
    pub fn give_up(&self, late: &UnderWay) {
        // The settled answer is for those who ask from now on.
        let path = Arc::clone(&late.path);
        let _ = self.settle(late.operation, path, Err(Outcome::TimedOut), late.since.elapsed());
    }

    /// The log of accesses so far, in the order they ended.
    pub fn log(&self) -> Vec<Access> {
        let mut log = Vec::with_capacity(self.settled.load(Ordering::Relaxed));
        for part in &self.memory {
            let memory = lock(part);
            for (operation, answers) in Operation::ALL.iter().zip(&memory.answers) {
                let answers = answers.iter();
                log.extend(answers.map(|(path, settled)| settled.logged(*operation, &path.0)));
            }
        }
        in_their_order(log)
    }

    /// The same, of a door at which nobody asks any more: what was answered is forgotten on the way, so that both need not
    /// be there at once.
    pub fn log_and_forget(&self) -> Vec<Access> {
        let mut log = Vec::with_capacity(self.settled.load(Ordering::Relaxed));
        for part in &self.memory {
            let memory = std::mem::take(&mut *lock(part));
            for (operation, answers) in Operation::ALL.iter().zip(memory.answers) {
                log.extend(
                    answers.into_iter().map(|(path, settled)| settled.logged(*operation, &path.0)),
                );
            }
        }
        in_their_order(log)
    }

    /// The part of the memory where a path stands.
    fn memory(&self, path: &Path) -> MutexGuard<'_, Memory> {
        let hash = self.hashes.hash_one(path.as_os_str());
        let [first, others @ ..] = &self.memory;
        let part = usize::from(hash.to_le_bytes()[0]) % PARTS;
        lock(part.checked_sub(1).and_then(|other| others.get(other)).unwrap_or(first))
    }

    /// The first answer for a path stands; it is returned whoever gave it.
    fn settle(
        &self,
        operation: Operation,
        path: Arc<Path>,
        answer: Result<Given, Outcome>,
        elapsed: Duration,
    ) -> Result<Given, Outcome> {
        let mut memory = self.memory(&path);
        let Some(answers) = memory.answers.get_mut(operation as usize) else { return answer };
        match answers.entry(ByBytes(path)) {
            Entry::Occupied(first) => first.get().answer.clone(),
            Entry::Vacant(free) => {
                let order = self.settled.fetch_add(1, Ordering::Relaxed);
                free.insert(Settled { answer, elapsed, order }).answer.clone()
            }
        }
    }
}

impl Settled {
    /// The access as it is logged, with how many were settled before.
    fn logged(&self, operation: Operation, path: &Path) -> (usize, Access) {
        let (outcome, bytes) = match &self.answer {
            Ok(given) => (given.outcome(), given.bytes()),
            Err(outcome) => (outcome.clone(), 0),
        };
        let path = path_text(path).into();
        let elapsed = self.elapsed;
        (self.order, Access { operation, path, outcome, bytes: bytes as u64, elapsed })
    }
}

fn in_their_order(mut log: Vec<(usize, Access)>) -> Vec<Access> {
    log.sort_unstable_by_key(|(order, _)| *order);
    log.into_iter().map(|(_, access)| access).collect()
}

/// A lock that a panicking thread held is still good: each change of the memory is one insert.
fn lock(part: &Mutex<Memory>) -> MutexGuard<'_, Memory> {
    part.lock().unwrap_or_else(PoisonError::into_inner)
}

/// What a thread is doing, for the one who waits for it.
#[derive(Debug, Default)]
struct Desk {
    under_way: Mutex<Option<UnderWay>>,
    withdrawn: AtomicBool,
}

/// A handle by which one thread asks at the door.
///
/// A clone shares the handle's state: the one who waits for the thread keeps a clone to see what
/// it waits for and to take the handle back.
#[derive(Debug, Clone)]
pub struct Lease {
    door: Arc<Door>,
    desk: Arc<Desk>,
    /// Answers that were refused since somebody watches, of each kind the first.
    watch: Option<Arc<Mutex<Vec<AccessError>>>>,
}

impl Lease {
    /// The access that this handle's thread waits for.
    pub fn under_way(&self) -> Option<UnderWay> {
        self.desk.under_way.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Takes the handle back: whatever its thread asks from now on is refused, so that a thread
    /// that was given up ends soon after it wakes.
    pub fn withdraw(&self) {
        self.desk.withdrawn.store(true, Ordering::Relaxed);
    }

    /// Whether the handle was taken back.
    pub fn is_withdrawn(&self) -> bool {
        self.desk.withdrawn.load(Ordering::Relaxed)
    }

    /// Whether the machine is the one this program runs on.
    pub fn is_live(&self) -> bool {
        self.door.is_live()
    }

    /// The bytes of a file, up to `limit`.
    ///
    /// # Errors
    /// An [`AccessError`] that says how the access ended.
    pub fn read(&self, path: &Path, limit: usize) -> Result<Content, AccessError> {
        let answer = self.ask(Operation::Read, path, |machine| {
            machine.read(path, Want::UpTo(limit)).map(Given::Content)
        });
        match answer {
            Ok(Given::Content(content)) => Ok(content),
            other => Err(self.refusal(Operation::Read, path, other)),
        }
    }

    /// The first bytes of a file, of which the rest is not wanted and may not be for anybody's eyes.
    ///
    /// # Errors
    /// An [`AccessError`] that says how the access ended.
    pub fn read_head(&self, path: &Path, length: usize) -> Result<Content, AccessError> {
        let answer = self.ask(Operation::Read, path, |machine| {
            let content = machine.read(path, Want::First(length))?;
            Ok(Given::Content(Content { cut: false, ..content }))
        });
        match answer {
            Ok(Given::Content(content)) => Ok(content),
            other => Err(self.refusal(Operation::Read, path, other)),
        }
    }

    /// The names in a folder, sorted by their bytes, and whether there were more than the limit.
    ///
    /// # Errors
    /// An [`AccessError`] that says how the access ended.
    pub fn list(&self, path: &Path) -> Result<(Arc<[OsString]>, bool), AccessError> {
        let answer = self.ask(Operation::List, path, |machine| {
            machine.list(path).map(|(names, cut)| Given::Names(names.into(), cut))
        });
        match answer {
            Ok(Given::Names(names, cut)) => Ok((names, cut)),
            other => Err(self.refusal(Operation::List, path, other)),
        }
    }

    /// The names in a folder, asked without being remembered: for one who looks for a file and is
    /// not to leave a trace of the others.
    ///
    /// # Errors
    /// How the access ended.
    pub(crate) fn peek(&self, path: &Path) -> Result<Vec<OsString>, Outcome> {
        if self.is_withdrawn() {
            return Err(Outcome::OutOfTime);
        }
        let under_way =
            UnderWay { operation: Operation::List, path: path.into(), since: Instant::now() };
        self.note(Some(under_way));
        let answer = self.door.backend.list(path);
        self.note(None);
        answer.map(|(names, _)| names)
    }

    /// The path that `path` leads to once all links are followed.
    ///
    /// # Errors
    /// An [`AccessError`] that says how the access ended.
    pub fn resolve(&self, path: &Path) -> Result<Arc<Path>, AccessError> {
        let answer = self.ask(Operation::Resolve, path, |machine| {
            machine.resolve(path).map(|target| Given::Path(target.into()))
        });
        match answer {
            Ok(Given::Path(target)) => Ok(target),
            other => Err(self.refusal(Operation::Resolve, path, other)),
        }
    }

    /// The space of the filesystem that `path` lies on.
    ///
    /// # Errors
    /// An [`AccessError`] that says how the access ended.
    pub fn statvfs(&self, path: &Path) -> Result<VolumeUse, AccessError> {
        let answer = self.ask(Operation::Statvfs, path, |machine| {
            machine.statvfs(path).map(|volume| Given::Use(volume.into()))
        });
        match answer {
            Ok(Given::Use(volume)) => Ok(*volume),
            other => Err(self.refusal(Operation::Statvfs, path, other)),
        }
    }

    /// The names of kernel and host.
    ///
    /// # Errors
    /// An [`AccessError`] that says how the access ended.
    pub fn uname(&self) -> Result<Arc<SystemNames>, AccessError> {
        let path = Path::new("uname");
        let answer = self.ask(Operation::Uname, path, |machine| {
            machine.uname().map(|names| Given::System(names.into()))
        });
        match answer {
            Ok(Given::System(names)) => Ok(names),
            other => Err(self.refusal(Operation::Uname, path, other)),
        }
    }

    fn ask(
        &self,
        operation: Operation,
        path: &Path,
        act: impl FnOnce(&Backend) -> Result<Given, Outcome>,
    ) -> Result<Given, Outcome> {
        if self.desk.withdrawn.load(Ordering::Relaxed) {
            return Err(Outcome::OutOfTime);
        }
        {
            let memory = self.door.memory(path);
            let answers = memory.of(operation);
            if let Some(known) = answers.and_then(|answers| answers.get(path.as_os_str())) {
                return known.answer.clone();
            }
        }
        let path: Arc<Path> = path.into();
        let since = Instant::now();
        if self.door.closed.load(Ordering::Relaxed) {
            return self.door.settle(operation, path, Err(Outcome::OutOfTime), Duration::ZERO);
        }
        self.note(Some(UnderWay { operation, path: Arc::clone(&path), since }));
        let answer = act(&self.door.backend);
        let elapsed = since.elapsed();
        self.note(None);
        self.door.settle(operation, path, answer, elapsed)
    }

    fn note(&self, under_way: Option<UnderWay>) {
        *self.desk.under_way.lock().unwrap_or_else(PoisonError::into_inner) = under_way;
    }

    /// Looks, and tells which answers were refused meanwhile, of each kind the first: what was found may then be less
    /// than there is, or counted wrong.
    pub(crate) fn watched<T>(&self, look: impl FnOnce(&Self) -> T) -> (T, Vec<AccessError>) {
        let watch = Arc::default();
        let own = Self { watch: Some(Arc::clone(&watch)), ..self.clone() };
        let found = look(&own);
        let refused = std::mem::take(&mut *watch.lock().unwrap_or_else(PoisonError::into_inner));
        // Whoever watches around this is told as well.
        refused.iter().for_each(|error| self.note_refusal(error));
        (found, refused)
    }

    fn note_refusal(&self, error: &AccessError) {
        let Some(watch) = &self.watch else { return };
        let mut refused = watch.lock().unwrap_or_else(PoisonError::into_inner);
        if refused.iter().all(|known| known.outcome != error.outcome) {
            refused.push(error.clone());
        }
    }

    fn refusal(
        &self,
        operation: Operation,
        path: &Path,
        answer: Result<Given, Outcome>,
    ) -> AccessError {
        let outcome = match answer {
            Err(outcome) => outcome,
            // The memory's key holds the operation, so an answer of another kind cannot come.
            Ok(_) => Outcome::WrongKind,
        };
        let error = AccessError { operation, path: path_text(path).into(), outcome };
        self.note_refusal(&error);
        error
    }
}
