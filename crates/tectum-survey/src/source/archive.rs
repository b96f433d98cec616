//! An archive as a source: a capture that Tectum made, or a plain tar of a tree that stands in
//! for `/`.
//!
//! Nothing is ever unpacked to a disk. The archive is read into memory once, under limits, and
//! whatever is wrong with it is an error before the first question is answered.

use std::{
    cell::Cell,
    collections::{BTreeMap, BTreeSet, HashMap},
    ffi::OsString,
    io::{self, Read, Write},
    os::unix::ffi::OsStringExt,
    path::{Component, Path, PathBuf},
    rc::Rc,
    sync::Arc,
};

use super::{
    Content, Operation, Outcome, SystemNames, VolumeUse,
    access::{path_text, plain_path},
    beside::Beside,
    links::{MOST_LINKS, follow},
    mounted,
    record::{CaptureRecord, RecordedAnswer},
};
use tectum_report::redact::{Originals, RedactError};

use crate::redact::{Rewriter, Told, form_of, second_lock};

/// The most bytes that an archive may hold once it is decompressed.
pub const ARCHIVE_LIMIT: u64 = 512 << 20;

/// The most entries that an archive may hold.
const ENTRY_LIMIT: usize = 1 << 20;

/// The name of the file that says how a capture was made.
pub(super) const CAPTURE_RECORD: &str = "capture.json";

/// The folder of a capture that stands in for `/`.
pub(super) const CAPTURE_ROOT: &str = "root";

/// An archive in memory.
#[derive(Debug)]
pub struct Archive {
    pub(super) entries: BTreeMap<PathBuf, Entry>,
    pub(super) record: Option<CaptureRecord>,
    answers: HashMap<(Operation, PathBuf), usize>,
    /// What system calls answered where a plain tar was recorded.
    beside: Beside,
}

/// What stands at a path of the archive.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Entry {
    File { bytes: Arc<[u8]>, mode: u32 },
    Link(PathBuf),
    Folder,
}

/// Why an archive cannot be a source.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ArchiveError {
    /// It cannot be read: cut off, damaged, or no archive.
    #[error("the archive cannot be read; it may be cut off or damaged")]
    Damaged(#[source] io::Error),
    /// It is larger than anything a survey needs.
    #[error("the archive holds more than {limit} bytes once it is decompressed")]
    TooLarge {
        /// The limit in bytes.
        limit: u64,
    },
    /// It has more entries than anything a survey needs.
    #[error("the archive has more than {limit} entries")]
    TooMany {
        /// The limit.
        limit: usize,
    },
    /// An entry's path leads out of the archive.
    #[error("the archive's entry {path:?} leads out of the archive")]
    LeadsOut {
        /// The entry's path, as text.
        path: String,
    },
    /// An entry that is another name of a file, which the archive does not hold before it.
    #[error("the archive's entry {path:?} is another name of a file that does not stand before it")]
    LinkToNothing {
        /// The entry's path, as text.
        path: String,
    },
    /// Two entries have one path.
    #[error("the archive holds {path:?} twice")]
    Twice {
        /// The path, as text.
        path: String,
    },
    /// The file that says how the capture was made cannot be understood.
    #[error("{CAPTURE_RECORD}: {0}")]
    Record(String),
    /// A capture of a form that this Tectum does not know.
    #[error(
        "{CAPTURE_RECORD}: format_version is {found}, and this Tectum reads 1.x; use the Tectum that made the capture, or a newer one"
    )]
    OtherVersion {
        /// The version found.
        found: String,
    },
}

/// How an archive is compressed, by its first bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Packing {
    /// zstd (RFC 8878).
    Zstd,
    /// gzip (RFC 1952).
    Gzip,
    /// A tar as it is (POSIX.1-2024, pax).
    Plain,
}

impl Packing {
    /// The packing of a file that begins with these bytes (at the least 262 of them, if it has so
    /// many); `None` where it is no archive.
    pub fn of(beginning: &[u8]) -> Option<Self> {
        if beginning.starts_with(&[0x28, 0xB5, 0x2F, 0xFD]) {
            Some(Self::Zstd)
        } else if beginning.starts_with(&[0x1F, 0x8B]) {
            Some(Self::Gzip)
        } else if beginning.get(257..262) == Some(b"ustar") {
            Some(Self::Plain)
        } else {
            None
        }
    }
}

/// Bytes that any archive may give, however short it is.
const GIVEN_TO_ALL: u64 = 24 << 20;

/// Bytes that an archive may give for each of its own: recorded machines give up to eighty.
const GROWTH: u64 = 160;

/// The largest window that a frame may ask for (RFC 8878 clause 3.1.1.1.2): 32 MiB.
const LARGEST_WINDOW: u32 = 25;

/// Counts what is taken of an archive.
struct Counted<R> {
    input: R,
    taken: Rc<Cell<u64>>,
}

impl<R: Read> Read for Counted<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.input.read(buffer)?;
        self.taken.set(self.taken.get() + count as u64);
        Ok(count)
    }
}

/// Ends what a short archive grows into: one that was made to fill the memory.
struct Grown<R> {
    decoder: R,
    taken: Rc<Cell<u64>>,
    given: u64,
}

impl<R: Read> Read for Grown<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.decoder.read(buffer)?;
        self.given += count as u64;
        let most = self.taken.get().saturating_mul(GROWTH).saturating_add(GIVEN_TO_ALL);
        if self.given > most {
            let said = format!("{} bytes grew into more than {most}", self.taken.get());
            return Err(io::Error::new(io::ErrorKind::InvalidData, said));
        }
        Ok(count)
    }
}

impl Archive {
    /// Reads an archive.
    ///
    /// # Errors
    /// An [`ArchiveError`] that says what is wrong with it.
    pub fn read(input: impl Read, packing: Packing) -> Result<Self, ArchiveError> {
        let taken = Rc::new(Cell::new(0));
        let input = Counted { input, taken: Rc::clone(&taken) };
        match packing {
            Packing::Zstd => {
                let mut decoder = zstd::Decoder::new(input).map_err(ArchiveError::Damaged)?;
                // What the decoder may hold of what went before, as its head asks for.
                decoder.window_log_max(LARGEST_WINDOW).map_err(ArchiveError::Damaged)?;
                Self::read_tar(Grown { decoder, taken, given: 0 })
            }
            Packing::Gzip => {
                let decoder = flate2::read::MultiGzDecoder::new(input);
                Self::read_tar(Grown { decoder, taken, given: 0 })
            }
            Packing::Plain => Self::read_tar(input),
        }
    }

    fn read_tar(input: impl Read) -> Result<Self, ArchiveError> {
        let mut limited = input.take(ARCHIVE_LIMIT + 1);
        let mut entries = BTreeMap::new();
        let mut record = None;
        let mut count = 0;
        {
            let mut archive = tar::Archive::new(&mut limited);
            for entry in archive.entries().map_err(ArchiveError::Damaged)? {
                count += 1;
                if count > ENTRY_LIMIT {
                    return Err(ArchiveError::TooMany { limit: ENTRY_LIMIT });
                }
                let mut entry = entry.map_err(ArchiveError::Damaged)?;
                let raw = OsString::from_vec(entry.path_bytes().into_owned());
                let path = inside(Path::new(&raw))?;
                let kind = entry.header().entry_type();
                let stands = if kind.is_file() {
                    if entry.size() > ARCHIVE_LIMIT {
                        return Err(ArchiveError::TooLarge { limit: ARCHIVE_LIMIT });
                    }
                    let mode = entry.header().mode().unwrap_or(0o444) & 0o7777;
                    let mut bytes = Vec::new();
                    entry.read_to_end(&mut bytes).map_err(ArchiveError::Damaged)?;
                    if path == Path::new("/").join(CAPTURE_RECORD) {
                        if record.is_some() {
                            return Err(ArchiveError::Twice { path: CAPTURE_RECORD.to_owned() });
                        }
                        record = Some(CaptureRecord::parse(&bytes)?);
                        continue;
                    }
                    Entry::File { bytes: bytes.into(), mode }
                } else if kind.is_symlink() {
                    match entry.link_name_bytes() {
                        Some(target) => Entry::Link(OsString::from_vec(target.into_owned()).into()),
                        None => continue,
                    }
                } else if kind.is_hard_link() {
                    // Another name of a file that stands before it.
                    let target =
                        entry.link_name_bytes().map(|it| OsString::from_vec(it.into_owned()));
                    let target = target.map(|it| inside(Path::new(&it))).transpose()?;
                    match target.as_ref().and_then(|target| entries.get(target)) {
                        Some(file @ Entry::File { .. }) => file.clone(),
                        _ => {
                            let path = path_text(&path).into_owned();
                            return Err(ArchiveError::LinkToNothing { path });
                        }
                    }
                } else if kind.is_dir() {
                    // A folder may be named again by a careful archiver; that is no harm.
                    entries.entry(path).or_insert(Entry::Folder);
                    continue;
                } else {
                    // Devices and FIFOs are nothing a survey reads.
                    continue;
                };
                let text = path_text(&path).into_owned();
                if entries.insert(path, stands).is_some_and(|was| was != Entry::Folder) {
                    return Err(ArchiveError::Twice { path: text });
                }
            }
        }
        // The rest holds the checksum of the compressed data.
        io::copy(&mut limited, &mut io::sink()).map_err(ArchiveError::Damaged)?;
        if limited.limit() == 0 {
            return Err(ArchiveError::TooLarge { limit: ARCHIVE_LIMIT });
        }
        Ok(Self::new(entries, record))
    }

    /// An archive of entries whose paths are the machine's.
    pub(super) fn of(entries: BTreeMap<PathBuf, Entry>, record: Option<CaptureRecord>) -> Self {
        let answers = record.iter().flat_map(CaptureRecord::keys).collect();
        let beside = match record {
            Some(_) => Beside::default(),
            None => Beside::read(|path| match entries.get(Path::new(path))? {
                Entry::File { bytes, .. } => Some(bytes.to_vec()),
                _ => None,
            }),
        };
        Self { entries, record, answers, beside }
    }

    fn new(all: BTreeMap<PathBuf, Entry>, record: Option<CaptureRecord>) -> Self {
        let entries = if record.is_some() {
            let root = Path::new("/").join(CAPTURE_ROOT);
            all.into_iter()
                .filter_map(|(path, entry)| {
                    Some((Path::new("/").join(path.strip_prefix(&root).ok()?), entry))
                })
                .collect()
        } else {
            all
        };
        Self::of(entries, record)
    }

    /// A copy fit to share: every file written anew by what it holds, names and links with them.
    /// What nothing can be said of is left out, but for what is to be included as it is.
    ///
    /// # Errors
    /// When an original still stands in the copy: then there is none.
    pub(crate) fn redacted(
        &self,
        rewriter: &Rewriter<'_>,
        originals: &Originals,
        include: &[PathBuf],
    ) -> Result<(Self, Told), RedactError> {
        let mut asked: BTreeMap<&Path, Vec<&Path>> = BTreeMap::new();
        for (path, entry) in self.record.iter().flat_map(CaptureRecord::files) {
            asked.entry(entry).or_default().push(path);
        }
        let mut told = Told::default();
        let mut withheld: BTreeSet<&Path> = BTreeSet::new();
        let mut entries = BTreeMap::new();
        for (at, entry) in &self.entries {
            let copy = match entry {
                Entry::File { bytes, mode } => {
                    let mut ways = asked.get(at.as_path()).into_iter().flatten().copied();
                    let included = include.iter().any(|path| path == at)
                        || ways.clone().any(|way| include.iter().any(|path| path == way));
                    if included {
                        told.included.push(at.clone());
                        entries.insert(rewriter.path(at), entry.clone());
                        continue;
                    }
                    let new = ways
                        .find_map(|way| form_of(way).map(|_| way))
                        .or_else(|| form_of(at).map(|_| at.as_path()))
                        .and_then(|way| rewriter.file(way, bytes));
                    let Some(new) = new else {
                        withheld.insert(at);
                        told.withheld.push(at.clone());
                        continue;
                    };
                    second_lock(originals, &rewriter.path(at), &new)?;
                    Entry::File { bytes: new.into(), mode: *mode }
                }
                Entry::Link(target) => {
                    let folder = at.parent().unwrap_or(Path::new("/"));
                    Entry::Link(rewriter.path(&plain_path(&folder.join(target))))
                }
                Entry::Folder => Entry::Folder,
            };
            entries.insert(rewriter.path(at), copy);
        }
        let record = self.record.as_ref();
        let record = record.map(|it| it.redacted(rewriter, &|path| withheld.contains(path)));
        let copy = Self::of(entries, record);
        if let Some(json) = copy.record.as_ref().and_then(|record| record.to_json().ok()) {
            second_lock(originals, Path::new(CAPTURE_RECORD), &json)?;
        }
        Ok((copy, told))
    }

    /// The files that it holds the bytes of, by their paths on the machine.
    pub(crate) fn files(&self) -> impl Iterator<Item = &Path> {
        let files = self.entries.iter().filter(|(_, entry)| matches!(entry, Entry::File { .. }));
        files.map(|(path, _)| path.as_path())
    }

    /// The bytes of a file.
    pub(crate) fn file(&self, path: &Path) -> Option<Arc<[u8]>> {
        match self.entries.get(path)? {
            Entry::File { bytes, .. } => Some(Arc::clone(bytes)),
            _ => None,
        }
    }

    /// Writes the archive as a tar compressed with zstd.
    ///
    /// # Errors
    /// When the output cannot be written.
    pub fn write(&self, to: impl Write) -> io::Result<()> {
        super::capture::write_archive(self, to)
    }

    /// How the capture was made; `None` for a plain tar.
    pub fn record(&self) -> Option<&CaptureRecord> {
        self.record.as_ref()
    }

    /// The recorded answer to a question, if it was asked when the capture was made.
    fn recorded(&self, operation: Operation, path: &Path) -> Option<&RecordedAnswer> {
        let index = self.answers.get(&(operation, path.to_owned()))?;
        self.record.as_ref()?.answer(*index)
    }

    /// What a path that is not there means: a capture holds only what was asked, and a tar may be of a folder without
    /// the kernel's files.
    fn stranger(&self, path: &Path) -> Outcome {
        if self.record.is_some() {
            return Outcome::NotCaptured;
        }
        let holds = |root: &str| {
            let mut from = self.entries.range(PathBuf::from(root)..);
            from.next().is_some_and(|(at, _)| at.starts_with(root))
        };
        match mounted::kernels_own(path) {
            Some(root) if !holds(root) => Outcome::NotMounted,
            _ => Outcome::NotFound,
        }
    }

    /// The path once all links are followed, and what stands there.
    fn find(&self, path: &Path) -> Result<(PathBuf, Option<&Entry>), Outcome> {
        let real = follow(path, |step| match self.entries.get(step.at) {
            Some(Entry::Link(_)) if step.links == MOST_LINKS => {
                Err(Outcome::Failed("ELOOP".into()))
            }
            Some(Entry::Link(target)) => Ok(Some(target.clone())),
            Some(Entry::File { .. }) if step.is_on_the_way => Err(self.stranger(path)),
            _ => Ok(None),
        })?;
        let stands = self.entries.get(&real);
        Ok((real, stands))
    }

    pub(super) fn read_file(&self, path: &Path, limit: usize) -> Result<Content, Outcome> {
        if let Some(answer) = self.recorded(Operation::Read, path) {
            let entry = match answer {
                RecordedAnswer::Refused(outcome) => return Err(outcome.clone()),
                RecordedAnswer::File { entry, cut } => (entry, *cut),
                _ => return Err(Outcome::Damaged),
            };
            return match self.entries.get(entry.0) {
                Some(Entry::File { bytes, .. }) => {
                    Ok(Content { bytes: Arc::clone(bytes), cut: entry.1 })
                }
                _ => Err(Outcome::Damaged),
            };
        }
        match self.find(path)?.1 {
            Some(Entry::File { bytes, .. }) => Ok(Content {
                bytes: bytes.get(..limit).map_or_else(|| Arc::clone(bytes), Arc::from),
                cut: bytes.len() > limit,
            }),
            Some(_) => Err(Outcome::WrongKind),
            None => Err(self.stranger(path)),
        }
    }

    pub(super) fn list(&self, path: &Path) -> Result<(Vec<OsString>, bool), Outcome> {
        match self.recorded(Operation::List, path) {
            Some(RecordedAnswer::Refused(outcome)) => return Err(outcome.clone()),
            Some(RecordedAnswer::Names { names, cut }) => return Ok((names.clone(), *cut)),
            Some(_) => return Err(Outcome::Damaged),
            None => {}
        }
        let (real, stands) = self.find(path)?;
        if matches!(stands, Some(Entry::File { .. })) {
            return Err(Outcome::WrongKind);
        }
        let names: BTreeSet<OsString> = self
            .entries
            .range(real.clone()..)
            .map_while(|(at, _)| at.strip_prefix(&real).ok())
            .filter_map(|below| match below.components().next()? {
                Component::Normal(name) => Some(name.to_owned()),
                _ => None,
            })
            .collect();
        if names.is_empty() && stands.is_none() {
            return Err(self.stranger(path));
        }
        Ok((names.into_iter().collect(), false))
    }

    pub(super) fn resolve(&self, path: &Path) -> Result<PathBuf, Outcome> {
        match self.recorded(Operation::Resolve, path) {
            Some(RecordedAnswer::Refused(outcome)) => return Err(outcome.clone()),
            Some(RecordedAnswer::Target(target)) => return Ok(target.clone()),
            Some(_) => return Err(Outcome::Damaged),
            None => {}
        }
        let (real, stands) = self.find(path)?;
        let below = || {
            let mut after = self.entries.range(real.clone()..);
            after.next().is_some_and(|(at, _)| at.starts_with(&real))
        };
        if stands.is_some() || below() { Ok(real) } else { Err(self.stranger(path)) }
    }

    pub(super) fn statvfs(&self, path: &Path) -> Result<VolumeUse, Outcome> {
        match self.recorded(Operation::Statvfs, path) {
            Some(RecordedAnswer::Refused(outcome)) => Err(outcome.clone()),
            Some(RecordedAnswer::Use(volume)) => Ok(*volume),
            Some(_) => Err(Outcome::Damaged),
            None => self.beside.statvfs(path),
        }
    }

    pub(super) fn uname(&self) -> Result<SystemNames, Outcome> {
        match self.recorded(Operation::Uname, Path::new("uname")) {
            Some(RecordedAnswer::Refused(outcome)) => Err(outcome.clone()),
            Some(RecordedAnswer::System(names)) => Ok(names.clone()),
            Some(_) => Err(Outcome::Damaged),
            None => self.beside.uname(),
        }
    }

    /// What stands at a path whose parents are no links: a link's target, or a mode.
    pub(super) fn look(&self, path: &Path) -> super::capture::Stands {
        use super::capture::Stands;
        match self.entries.get(path) {
            Some(Entry::Link(target)) => Stands::Link(target.clone()),
            Some(Entry::File { mode, .. }) => Stands::File(*mode),
            Some(Entry::Folder) => Stands::Folder,
            None => {
                let mut after = self.entries.range(path.to_owned()..);
                match after.next().is_some_and(|(at, _)| at.starts_with(path)) {
                    true => Stands::Folder,
                    false => Stands::Nothing,
                }
            }
        }
    }
}

/// An entry's path as an absolute one; one with `..` in it is refused.
fn inside(path: &Path) -> Result<PathBuf, ArchiveError> {
    if path.components().any(|part| part == Component::ParentDir) {
        return Err(ArchiveError::LeadsOut { path: path_text(path).into_owned() });
    }
    Ok(plain_path(path))
}
