//! `capture.json`: how a capture was made, and what was answered to each question.

use std::{
    collections::HashSet,
    ffi::OsString,
    os::unix::ffi::{OsStrExt, OsStringExt},
    path::{Path, PathBuf},
};

use jiff::Timestamp;
use serde::{Deserialize, Serialize};

use super::{FOLDER_LIMIT, Operation, Outcome, SystemNames, VolumeUse, archive::ArchiveError};
use tectum_report::json::print;
use tectum_report::version::{CAPTURE, FormatVersion, Readable};

use crate::redact::Rewriter;

/// How a capture was made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CaptureRecord {
    /// When.
    pub at: Timestamp,
    /// The tool and its version.
    pub tool: String,
    /// Whether it was made as root.
    pub privileged: bool,
    /// The kinds of text that were kept, where it was redacted.
    pub redacted: Option<Vec<String>>,
    /// Every question with its answer.
    pub(super) answers: Vec<(Operation, PathBuf, RecordedAnswer)>,
}

/// An answer as it was recorded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum RecordedAnswer {
    Refused(Outcome),
    /// A file; its bytes stand in the archive, under the capture's root.
    File {
        entry: PathBuf,
        cut: bool,
    },
    Names {
        names: Vec<OsString>,
        cut: bool,
    },
    Target(PathBuf),
    Use(VolumeUse),
    System(SystemNames),
}

impl CaptureRecord {
    /// The questions, each with the index of its answer.
    pub(super) fn keys(&self) -> impl Iterator<Item = ((Operation, PathBuf), usize)> + '_ {
        self.answers
            .iter()
            .enumerate()
            .map(|(index, (operation, path, _))| ((*operation, path.clone()), index))
    }

    pub(super) fn answer(&self, index: usize) -> Option<&RecordedAnswer> {
        self.answers.get(index).map(|(_, _, answer)| answer)
    }

    /// The same record, fit to share: paths, names and answers as the rewriter has them, and no
    /// answer where a file is withheld.
    pub(super) fn redacted(
        &self,
        rewriter: &Rewriter<'_>,
        withheld: &dyn Fn(&Path) -> bool,
    ) -> Self {
        let answers = self.answers.iter().map(|(operation, at, answer)| {
            let new = match answer {
                RecordedAnswer::File { entry, .. } if withheld(entry) => {
                    RecordedAnswer::Refused(Outcome::Withheld)
                }
                RecordedAnswer::File { entry, cut } => {
                    RecordedAnswer::File { entry: rewriter.path(entry), cut: *cut }
                }
                RecordedAnswer::Names { names, cut } => {
                    let new = names.iter().map(|name| {
                        let path = rewriter.path(&at.join(name));
                        path.file_name().map_or_else(OsString::new, OsString::from)
                    });
                    let mut new: Vec<OsString> = new.collect();
                    new.sort();
                    RecordedAnswer::Names { names: new, cut: *cut }
                }
                RecordedAnswer::Target(target) => RecordedAnswer::Target(rewriter.path(target)),
                RecordedAnswer::System(names) => RecordedAnswer::System(SystemNames {
                    node: rewriter.host(&names.node),
                    ..names.clone()
                }),
                RecordedAnswer::Refused(_) | RecordedAnswer::Use(_) => answer.clone(),
            };
            let path = match operation {
                Operation::Statvfs => rewriter.mount_point(at),
                Operation::Uname => at.clone(),
                _ => rewriter.path(at),
            };
            (*operation, path, new)
        });
        let mut answers: Vec<_> = answers.collect();
        answers.sort_by(|a, b| (&a.1, a.0).cmp(&(&b.1, b.0)));
        Self { answers, redacted: Some(rewriter.kept()), ..self.clone() }
    }

    /// The files of which it holds the bytes, by the paths that were asked for.
    pub(super) fn files(&self) -> impl Iterator<Item = (&Path, &Path)> {
        self.answers.iter().filter_map(|(_, asked, answer)| match answer {
            RecordedAnswer::File { entry, .. } => Some((asked.as_path(), entry.as_path())),
            _ => None,
        })
    }

    /// The record as JSON.
    pub(super) fn to_json(&self) -> Result<Vec<u8>, serde_json::Error> {
        let document = Document {
            format: CAPTURE.name.to_owned(),
            format_version: CAPTURE.current,
            at: self.at,
            tool: self.tool.clone(),
            privileged: self.privileged,
            redacted: self.redacted.clone().map(|kept| Redaction { kept }),
            accesses: self.answers.iter().map(Written::new).collect(),
        };
        let mut text = Vec::new();
        print::to_writer(&mut text, &document).map_err(serde_json::Error::io)?;
        Ok(text)
    }

    pub(super) fn parse(text: &[u8]) -> Result<Self, ArchiveError> {
        let record = |error: String| ArchiveError::Record(error);
        let head: Head = serde_json::from_slice(text).map_err(|error| record(error.to_string()))?;
        if head.format != CAPTURE.name {
            let found = head.format;
            return Err(record(format!("its format is {found:?}, not {:?}", CAPTURE.name)));
        }
        let version = head.format_version.parse::<FormatVersion>();
        if version.map_or(Readable::No, |version| CAPTURE.readable(version)) == Readable::No {
            return Err(ArchiveError::OtherVersion { found: head.format_version });
        }
        let document: Document =
            serde_json::from_slice(text).map_err(|error| record(error.to_string()))?;
        let answers: Vec<(Operation, PathBuf, RecordedAnswer)> = document
            .accesses
            .into_iter()
            .map(|written| {
                let path = written.path.clone();
                written
                    .read()
                    .ok_or_else(|| record(format!("the access to {path:?} makes no sense")))
            })
            .collect::<Result<_, _>>()?;
        let mut seen = HashSet::new();
        for (operation, path, _) in &answers {
            if !seen.insert((*operation, path)) {
                let twice = format!("it says twice what {operation} of {path:?} gave");
                return Err(record(twice));
            }
        }
        Ok(Self {
            at: document.at,
            tool: document.tool,
            privileged: document.privileged,
            redacted: document.redacted.map(|redaction| redaction.kept),
            answers,
        })
    }
}

#[derive(Deserialize)]
struct Head {
    format: String,
    format_version: String,
}

#[derive(Serialize, Deserialize)]
struct Document {
    format: String,
    format_version: FormatVersion,
    at: Timestamp,
    tool: String,
    privileged: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    redacted: Option<Redaction>,
    accesses: Vec<Written>,
}

/// Says that what identifies the machine was replaced.
#[derive(Serialize, Deserialize)]
struct Redaction {
    kept: Vec<String>,
}

/// An access as it is written. A path or name is text where it is UTF-8; one with other bytes has
/// each such byte, and each backslash, written `\xNN`.
#[derive(Serialize, Deserialize)]
struct Written {
    operation: Operation,
    path: String,
    outcome: Outcome,
    #[serde(skip_serializing_if = "Option::is_none")]
    entry: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    names: Option<Vec<String>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    target: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    statvfs: Option<[u64; 5]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    uname: Option<[String; 5]>,
}

impl Written {
    fn new((operation, path, answer): &(Operation, PathBuf, RecordedAnswer)) -> Self {
        let mut written = Self {
            operation: *operation,
            path: encode(path.as_os_str().as_bytes()),
            outcome: Outcome::Done,
            entry: None,
            names: None,
            target: None,
            statvfs: None,
            uname: None,
        };
        let mut cut = false;
        match answer {
            RecordedAnswer::Refused(outcome) => written.outcome = outcome.clone(),
            RecordedAnswer::File { entry, cut: was_cut } => {
                written.entry = Some(encode(entry.as_os_str().as_bytes()));
                cut = *was_cut;
            }
            RecordedAnswer::Names { names, cut: was_cut } => {
                written.names = Some(names.iter().map(|name| encode(name.as_bytes())).collect());
                cut = *was_cut;
            }
            RecordedAnswer::Target(target) => {
                written.target = Some(encode(target.as_os_str().as_bytes()));
            }
            RecordedAnswer::Use(volume) => {
                written.statvfs = Some([
                    volume.size_bytes,
                    volume.free_bytes,
                    volume.available_bytes,
                    volume.inodes,
                    volume.free_inodes,
                ]);
            }
            RecordedAnswer::System(names) => {
                let SystemNames { system, node, release, version, machine } = names.clone();
                written.uname = Some([system, node, release, version, machine]);
            }
        }
        if cut {
            written.outcome = Outcome::Cut;
        }
        written
    }

    fn read(self) -> Option<(Operation, PathBuf, RecordedAnswer)> {
        let (operation, outcome) = (self.operation, self.outcome);
        // An answer is of one kind, and where there was none there is none.
        let given = [
            (Operation::Read, self.entry.is_some()),
            (Operation::List, self.names.is_some()),
            (Operation::Resolve, self.target.is_some()),
            (Operation::Statvfs, self.statvfs.is_some()),
            (Operation::Uname, self.uname.is_some()),
        ];
        let done = matches!(outcome, Outcome::Done | Outcome::Cut);
        if given.iter().any(|(of, there)| *there != (done && *of == operation)) {
            return None;
        }
        // As many as a folder is read for.
        if self.names.as_ref().is_some_and(|names| names.len() > FOLDER_LIMIT) {
            return None;
        }
        let cut = outcome == Outcome::Cut;
        let path = |text: &str| PathBuf::from(OsString::from_vec(decode(text)));
        let answer = if !cut && outcome != Outcome::Done {
            RecordedAnswer::Refused(outcome)
        } else {
            match operation {
                Operation::Read => RecordedAnswer::File { entry: path(&self.entry?), cut },
                Operation::List => RecordedAnswer::Names {
                    names: self
                        .names?
                        .iter()
                        .map(|name| OsString::from_vec(decode(name)))
                        .collect(),
                    cut,
                },
                Operation::Resolve => RecordedAnswer::Target(path(&self.target?)),
                Operation::Statvfs => {
                    let [size_bytes, free_bytes, available_bytes, inodes, free_inodes] =
                        self.statvfs?;
                    RecordedAnswer::Use(VolumeUse {
                        size_bytes,
                        free_bytes,
                        available_bytes,
                        inodes,
                        free_inodes,
                    })
                }
                Operation::Uname => {
                    let [system, node, release, version, machine] = self.uname?;
                    RecordedAnswer::System(SystemNames { system, node, release, version, machine })
                }
            }
        };
        Some((operation, path(&self.path), answer))
    }
}

/// Bytes as text that can be turned back: a backslash and what is no UTF-8 are written `\xNN`.
fn encode(bytes: &[u8]) -> String {
    let mut text = String::with_capacity(bytes.len());
    for chunk in bytes.utf8_chunks() {
        for character in chunk.valid().chars() {
            match character {
                '\\' => text.push_str("\\x5C"),
                other => text.push(other),
            }
        }
        for byte in chunk.invalid() {
            text.push_str(&format!("\\x{byte:02X}"));
        }
    }
    text
}

fn decode(text: &str) -> Vec<u8> {
    crate::formats::udev::decode_bytes(text)
}

/// The path in the archive where a file of the machine stands.
pub(super) fn in_archive(real: &Path) -> PathBuf {
    Path::new(super::archive::CAPTURE_ROOT).join(real.strip_prefix("/").unwrap_or(real))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn any_name_is_turned_back(bytes in proptest::collection::vec(any::<u8>(), 0..60)) {
            prop_assert_eq!(decode(&encode(&bytes)), bytes);
        }

        #[test]
        fn no_text_makes_the_reader_panic(text in proptest::collection::vec(any::<u8>(), 0..200)) {
            let _ = CaptureRecord::parse(&text);
        }
    }
}
