//! Writing a capture: everything the door remembers, in one archive.

use std::{
    collections::BTreeMap,
    convert::Infallible,
    io::{self, Write},
    path::{Path, PathBuf},
};

use jiff::Timestamp;

use super::{
    Archive, Door,
    archive::{CAPTURE_RECORD, Entry},
    links::{MOST_LINKS, follow},
    record::{CaptureRecord, RecordedAnswer, in_archive},
};

/// What stands at a path whose parents are no links.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Stands {
    /// A link with this target.
    Link(PathBuf),
    /// A file with this mode.
    File(u32),
    /// A folder.
    Folder,
    /// Nothing that can be seen.
    Nothing,
}

impl Door {
    /// Writes what the machine has answered so far as a capture: a tar compressed with zstd, the
    /// files under `root/` as they were read, links and modes kept, and `capture.json`.
    ///
    /// # Errors
    /// When the output cannot be written.
    pub fn write_capture(&self, tool: &str, at: Timestamp, to: impl Write) -> io::Result<()> {
        write_archive(&self.capture(tool, at), to)
    }

    /// What the machine has answered so far, as an archive in memory.
    pub fn capture(&self, tool: &str, at: Timestamp) -> Archive {
        let mut places = Places { door: self, seen: BTreeMap::new() };
        let mut files: BTreeMap<PathBuf, Entry> = BTreeMap::new();
        let mut answers = Vec::new();
        for (operation, path, mut answer, bytes) in self.remembered() {
            match &mut answer {
                RecordedAnswer::File { entry, .. } => {
                    let real = places.real(&path);
                    let mode = match places.look(&real) {
                        Stands::File(mode) => mode,
                        // It vanished after it was read.
                        _ => 0o444,
                    };
                    *entry = real.clone();
                    files.insert(real, Entry::File { bytes: bytes.unwrap_or_default(), mode });
                }
                RecordedAnswer::Names { names, .. } => {
                    let real = places.real(&path);
                    places.look(&real);
                    for name in names {
                        let child = real.join(&*name);
                        places.look(&child);
                    }
                }
                RecordedAnswer::Target(_) => {
                    places.real(&path);
                }
                _ => {}
            }
            answers.push((operation, path, answer));
        }
        answers.sort_by(|a, b| (&a.1, a.0).cmp(&(&b.1, b.0)));
        let record = CaptureRecord {
            at: self.taken_at().unwrap_or(at),
            tool: tool.to_owned(),
            privileged: self.is_privileged(),
            redacted: self.redacted().map(<[String]>::to_vec),
            answers,
        };
        let mut entries: BTreeMap<PathBuf, Entry> = places
            .seen
            .into_iter()
            .filter_map(|(path, stands)| match stands {
                Stands::Link(target) => Some((path, Entry::Link(target))),
                Stands::Folder => Some((path, Entry::Folder)),
                Stands::File(_) | Stands::Nothing => None,
            })
            .collect();
        entries.extend(files);
        Archive::of(entries, Some(record))
    }
}

/// Packs an archive. The same archive gives the same bytes.
pub(super) fn write_archive(archive: &Archive, to: impl Write) -> io::Result<()> {
    let mut encoder = zstd::Encoder::new(to, 9)?;
    // A bit that flips is noticed when the capture is read.
    encoder.include_checksum(true)?;
    let mut packed = tar::Builder::new(encoder);
    let record = archive.record();
    let seconds = record.and_then(|record| u64::try_from(record.at.as_second()).ok()).unwrap_or(0);
    let header = |kind, size: usize, mode| {
        let mut header = tar::Header::new_gnu();
        header.set_entry_type(kind);
        header.set_size(size as u64);
        header.set_mode(mode);
        header.set_mtime(seconds);
        header.set_uid(0);
        header.set_gid(0);
        header
    };
    // A plain tar of a tree stays one.
    let place = |path: &Path| match record {
        Some(_) => in_archive(path),
        None => path.strip_prefix("/").unwrap_or(path).to_owned(),
    };
    if let Some(record) = record {
        let json = record.to_json().map_err(io::Error::from)?;
        let mut head = header(tar::EntryType::Regular, json.len(), 0o600);
        packed.append_data(&mut head, CAPTURE_RECORD, json.as_slice())?;
    }
    for (path, entry) in &archive.entries {
        match entry {
            Entry::Link(target) => {
                let mut head = header(tar::EntryType::Symlink, 0, 0o777);
                packed.append_link(&mut head, place(path), target)?;
            }
            Entry::Folder => {
                let mut head = header(tar::EntryType::Directory, 0, 0o700);
                packed.append_data(&mut head, place(path).join(""), io::empty())?;
            }
            Entry::File { bytes, mode } => {
                // For whoever unpacks it only, as the archive itself is.
                let mut head = header(tar::EntryType::Regular, bytes.len(), *mode & 0o700 | 0o400);
                packed.append_data(&mut head, place(path), &**bytes)?;
            }
        }
    }
    packed.into_inner()?.finish()?.flush()
}

/// What stands on the way to the paths that were asked for, each looked at once.
struct Places<'a> {
    door: &'a Door,
    seen: BTreeMap<PathBuf, Stands>,
}

impl Places<'_> {
    fn look(&mut self, path: &Path) -> Stands {
        if path == Path::new("/") {
            return Stands::Folder;
        }
        if let Some(stands) = self.seen.get(path) {
            return stands.clone();
        }
        let stands = self.door.look(path);
        self.seen.insert(path.to_owned(), stands.clone());
        stands
    }

    /// The path once all links are followed; each link on the way is kept.
    fn real(&mut self, path: &Path) -> PathBuf {
        let followed = follow(path, |step| {
            Ok::<_, Infallible>(match self.look(step.at) {
                Stands::Link(target) if step.links < MOST_LINKS => Some(target),
                _ => None,
            })
        });
        followed.unwrap_or_else(|never| match never {})
    }
}
