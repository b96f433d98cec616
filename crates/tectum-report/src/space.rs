//! What fills a filesystem: how big folders are, and the filesystem's own figure beside their sum.
//!
//! It is an answer of its own and no part of a report: it moves by itself, and tells names that owners chose.

use jiff::Timestamp;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    report::Outcome,
    version::{FormatVersion, SPACE},
};

/// What was found beneath several paths.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct SpaceDocument {
    /// The word that names the form.
    pub format: String,
    /// The version of the form.
    pub format_version: FormatVersion,
    /// Each path that was asked for.
    pub paths: Vec<Space>,
}

impl SpaceDocument {
    /// What was found, in its written form.
    pub fn new(paths: Vec<Space>) -> Self {
        Self { format: SPACE.name.to_owned(), format_version: SPACE.current, paths }
    }
}

/// What was found beneath a path.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Space {
    /// The path, links followed. Bytes that are not UTF-8 are written `\xNN`, here and in all paths.
    pub path: String,
    /// When the looking began.
    #[schemars(with = "String", extend("format" = "date-time"))]
    pub at: Timestamp,
    /// How long it took in milliseconds.
    pub elapsed_ms: u64,
    /// Whether what is mounted beneath the path was entered too.
    pub across_mounts: bool,
    /// Only files that were changed last before this are counted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>", extend("format" = "date-time"))]
    pub changed_before: Option<Timestamp>,
    /// Patterns of what was passed over, with how many files and folders each kept out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub excluded: Vec<Excluded>,
    /// All of it together.
    pub sum: Sum,
    /// The filesystem that the path lies on, where it could be asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub filesystem: Option<Filesystem>,
    /// The filesystem's own figure beside the sum; only where all of the filesystem was looked at.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub difference: Option<Difference>,
    /// The largest folders, each followed by those within it.
    pub folders: Vec<FolderSize>,
    /// The largest files, the largest first.
    pub files: Vec<FileSize>,
    /// Files that were deleted and are still held open, the largest first.
    pub deleted_open: Vec<DeletedFile>,
    /// What is mounted beneath the path and was not entered.
    pub mounts_passed_over: Vec<String>,
    /// What lies in folders over which something is mounted.
    pub beneath_mounts: Vec<BeneathMount>,
    /// What could not be looked at.
    pub gaps: Vec<SpaceGap>,
    /// How many more could not be.
    pub more_gaps: u64,
}

/// A pattern of what was passed over.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Excluded {
    /// The pattern.
    pub pattern: String,
    /// How many files and folders it kept out; what is in such a folder is not counted.
    pub entries: u64,
}

/// A sum over files and folders. A file with several names (hard links) is counted once.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Sum {
    /// Bytes that the filesystem keeps for them: blocks of 512 bytes, statx(2) `stx_blocks`.
    pub allocated_bytes: u64,
    /// Bytes that reading them would give: their lengths, statx(2) `stx_size`.
    pub apparent_bytes: u64,
    /// Regular files.
    pub files: u64,
    /// Folders, the path's own among them.
    pub folders: u64,
    /// Links, sockets, devices and pipes.
    pub others: u64,
    /// Files with several names of which more than one was met.
    pub hard_linked_files: u64,
    /// What counting each of those names would have added to what is allocated.
    pub hard_links_saved_bytes: u64,
    /// Files that keep fewer blocks than their length needs: sparse, or compressed by the filesystem.
    pub sparse_files: u64,
    /// The bytes of their lengths for which nothing is kept.
    pub sparse_bytes: u64,
    /// When a file was changed last, of all the latest.
    #[schemars(with = "Option<String>", extend("format" = "date-time"))]
    pub newest_change: Option<Timestamp>,
    /// When a file was changed last, of all the earliest.
    #[schemars(with = "Option<String>", extend("format" = "date-time"))]
    pub oldest_change: Option<Timestamp>,
    /// Files and folders that were gone before they could be looked at.
    pub vanished: u64,
}

/// What a filesystem says of itself: statvfs(3).
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Filesystem {
    /// Where it is mounted.
    pub mount_point: String,
    /// Its kind, as the table of mounts names it.
    pub kind: String,
    /// What is mounted: a device, a server's folder.
    pub source: String,
    /// Its size.
    pub size_bytes: u64,
    /// What it says is used.
    pub used_bytes: u64,
    /// What everybody may still use.
    pub available_bytes: u64,
    /// What is free and kept for root.
    pub reserved_bytes: u64,
    /// How many files and folders it can hold; 0 where it has no such limit.
    pub inodes: u64,
    /// How many it holds.
    pub inodes_used: u64,
    /// How much what it says is used grew while it was looked at; negative where it shrank.
    pub grew_bytes: i64,
    /// Whether the path is all of it.
    pub whole: bool,
}

/// Where a filesystem's own figure and the sum over its files part.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Difference {
    /// What the filesystem says is used.
    pub used_bytes: u64,
    /// What was found in files and folders.
    pub found_bytes: u64,
    /// Files that were deleted and are still held open.
    pub deleted_open_bytes: u64,
    /// What lies beneath mount points.
    pub beneath_mounts_bytes: u64,
    /// What is left: the filesystem's own tables and journal, and what could not be looked at. Negative where
    /// files together hold more than the filesystem uses: blocks that files share, or compression.
    pub left_bytes: i64,
    /// How many folders could not be looked at.
    pub folders_not_read: u64,
    /// How many processes could not be asked for what they hold open.
    pub processes_not_asked: u64,
    /// Whether it could be looked beneath mount points; needs root.
    pub beneath_mounts_seen: bool,
}

/// How big a folder is with all that is in it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct FolderSize {
    /// The path.
    pub path: String,
    /// How many folders it is beneath the path that was asked for.
    pub depth: u32,
    /// Bytes kept for it and all in it.
    pub allocated_bytes: u64,
    /// The lengths of all in it.
    pub apparent_bytes: u64,
    /// Bytes kept for files that are in it itself.
    pub own_files_bytes: u64,
    /// Files in it, and in the folders within.
    pub files: u64,
    /// Folders within, itself not counted.
    pub folders: u64,
    /// When a file in it was changed last, of all the latest.
    #[schemars(with = "Option<String>", extend("format" = "date-time"))]
    pub newest_change: Option<Timestamp>,
    /// When a file in it was changed last, of all the earliest.
    #[schemars(with = "Option<String>", extend("format" = "date-time"))]
    pub oldest_change: Option<Timestamp>,
    /// Folders directly within that are not listed, being small or too deep.
    pub not_listed: u64,
    /// The bytes kept for those.
    pub not_listed_bytes: u64,
}

/// How big a file is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct FileSize {
    /// The path; of several names the first that was met in the order of paths.
    pub path: String,
    /// Bytes kept for it.
    pub allocated_bytes: u64,
    /// Its length.
    pub apparent_bytes: u64,
    /// How many names it has.
    pub links: u32,
    /// When it was changed last.
    #[schemars(with = "String", extend("format" = "date-time"))]
    pub changed: Timestamp,
}

/// A file that was deleted and is still held open.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct DeletedFile {
    /// The path that it had.
    pub path: String,
    /// Bytes kept for it.
    pub allocated_bytes: u64,
    /// Its length.
    pub apparent_bytes: u64,
    /// Who holds it.
    pub held_by: Vec<Holder>,
}

/// A process that holds a file open.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Holder {
    /// Its number.
    pub pid: u32,
    /// Its name: `/proc/PID/comm`.
    pub name: String,
    /// The number by which it holds the file; none where it is only mapped into its memory.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub descriptor: Option<u32>,
}

/// What lies in a folder over which something is mounted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct BeneathMount {
    /// Where it is mounted.
    pub mount_point: String,
    /// Bytes kept for what lies beneath.
    pub allocated_bytes: u64,
    /// Files that lie beneath.
    pub files: u64,
}

/// What could not be looked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct SpaceGap {
    /// The path.
    pub path: String,
    /// How the asking ended.
    pub why: Outcome,
}
