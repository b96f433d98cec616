//! Files that a user asks for beside what sections read, by name or pattern.

use std::{
    os::unix::ffi::OsStrExt,
    path::{Path, PathBuf},
    sync::{
        Arc,
        mpsc::{self, RecvTimeoutError},
    },
    thread,
    time::Duration,
};

use globset::{GlobBuilder, GlobMatcher};

use crate::{
    own_time::{OwnTime, Still},
    source::{Confinement, Door, Lease, Outcome, path_text},
};

/// The most of one extra file that is kept, in bytes, unless the user asks for more.
pub const USUAL_EXTRA_LIMIT: usize = 4 << 20;

/// The most files that one pattern may bring.
const MOST: usize = 1000;

/// The deepest that a pattern looks.
const DEEPEST: usize = 12;

/// Why a text is no pattern.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{pattern:?} is no pattern for files: {reason}")]
pub struct PatternError {
    /// The text.
    pub pattern: String,
    /// What is wrong with it.
    pub reason: String,
}

/// An absolute path with wildcards (`*`, `?`, `[…]`, `**`).
#[derive(Debug, Clone)]
pub struct ExtraPattern {
    glob: GlobMatcher,
    /// The folder in which the wildcards begin; the path itself where there is none.
    from: PathBuf,
    wild: bool,
    /// How many folders below `from` a match can lie.
    depth: usize,
}

impl std::str::FromStr for ExtraPattern {
    type Err = PatternError;

    fn from_str(pattern: &str) -> Result<Self, PatternError> {
        let wrong = |reason: String| PatternError { pattern: pattern.to_owned(), reason };
        if !pattern.starts_with('/') {
            return Err(wrong("it must begin with /".to_owned()));
        }
        let glob = GlobBuilder::new(pattern)
            .literal_separator(true)
            .build()
            .map_err(|error| wrong(error.kind().to_string()))?
            .compile_matcher();
        let wild = pattern.find(['*', '?', '[', '{']);
        let from = match wild {
            None => pattern,
            Some(at) => {
                let literal = pattern.get(..at).unwrap_or_default();
                match literal.rsplit_once('/') {
                    Some(("", _)) | None => "/",
                    Some((folder, _)) => folder,
                }
            }
        };
        let depth = if pattern.contains("**") {
            DEEPEST
        } else {
            let rest = pattern.strip_prefix(from).unwrap_or(pattern);
            rest.trim_start_matches('/').matches('/').count()
        };
        Ok(Self { glob, from: from.into(), wild: wild.is_some(), depth })
    }
}

/// What became of an extra file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Extra {
    /// The file.
    pub path: PathBuf,
    /// How reading it ended.
    pub outcome: Outcome,
}

/// Reads extra files through the door, each up to `limit` bytes and under a deadline, so that the
/// door remembers them.
pub fn read_extra(
    door: &Arc<Door>,
    patterns: &[ExtraPattern],
    limit: usize,
    deadline: Duration,
) -> Vec<Extra> {
    // A read that hangs costs its deadline: what was read before is remembered at the door.
    loop {
        let lease = door.lease();
        let desk = lease.clone();
        let all = patterns.to_vec();
        let (say, heard) = mpsc::channel();
        // What a user asks for may lie anywhere, and its links may lead anywhere; it is only read.
        let confinement = Confinement::to(door, &["/**"]);
        thread::spawn(move || {
            if let Some(confinement) = confinement {
                confinement.enter();
            }
            let found: Vec<Extra> =
                all.iter().flat_map(|pattern| read_pattern(&desk, pattern, limit)).collect();
            // Nobody listens to a thread that was given up.
            let _ = say.send(found);
        });
        let (mut clock, mut still) = (OwnTime::begin(), Still::default());
        loop {
            let found = heard.recv_timeout(Duration::from_millis(25));
            let now = clock.look();
            match found {
                Ok(found) => return found,
                Err(RecvTimeoutError::Disconnected) => return Vec::new(),
                Err(RecvTimeoutError::Timeout) => {
                    let at = lease.under_way();
                    let late = at.filter(|at| still.at(at.since, now) >= deadline);
                    if let Some(late) = late {
                        lease.withdraw();
                        door.give_up(&late);
                        break;
                    }
                }
            }
        }
    }
}

fn read_pattern(lease: &Lease, pattern: &ExtraPattern, limit: usize) -> Vec<Extra> {
    let mut paths = Vec::new();
    if pattern.wild {
        collect(lease, pattern, &pattern.from, 0, &mut paths);
    } else {
        paths.push(pattern.from.clone());
    }
    paths
        .into_iter()
        .map(|path| {
            let outcome = match lease.read(&path, limit) {
                Ok(content) if content.cut => Outcome::Cut,
                Ok(_) => Outcome::Done,
                Err(error) => error.outcome,
            };
            Extra { path, outcome }
        })
        .collect()
}

fn collect(lease: &Lease, pattern: &ExtraPattern, at: &Path, depth: usize, to: &mut Vec<PathBuf>) {
    let Ok(names) = lease.peek(at) else { return };
    for name in names.iter() {
        if to.len() >= MOST {
            return;
        }
        let path = at.join(name);
        let hidden = name.as_bytes().starts_with(b".");
        // A folder is gone into, whether the pattern fits it or not: `**` means what lies below.
        let folder = depth < pattern.depth && !hidden && lease.peek(&path).is_ok();
        if folder {
            collect(lease, pattern, &path, depth + 1, to);
        } else if pattern.glob.is_match(&path) {
            to.push(path);
        }
    }
}

impl std::fmt::Display for Extra {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}: {}", path_text(&self.path), self.outcome)
    }
}
