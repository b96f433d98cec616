//! One process, as it is at a moment: an answer of its own and no part of a report.

use jiff::Timestamp;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    report::Outcome,
    version::{FormatVersion, PROCESS},
};

/// A process.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct ProcessCard {
    /// The word that names the form.
    pub format: String,
    /// The version of the form.
    pub format_version: FormatVersion,
    /// When it was looked at.
    #[schemars(with = "String", extend("format" = "date-time"))]
    pub at: Timestamp,
    /// Its number.
    pub pid: u64,
    /// The name of its program, at the most fifteen bytes: `/proc/PID/stat`.
    pub name: String,
    /// The file of its program: `/proc/PID/exe`.
    pub program: Option<String>,
    /// Whether that file was deleted or replaced since.
    pub program_deleted: bool,
    /// Its words, where they were asked for: `/proc/PID/cmdline`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub command_line: Option<Vec<String>>,
    /// Its parent, the parent of that, and so on.
    pub parents: Vec<Relative>,
    /// What it is doing, by the code of a process's state in reports.
    pub state: Option<String>,
    /// Where in the kernel it waits, if it waits for a device.
    pub waits_in: Option<String>,
    /// The user whose rights it has.
    pub user_id: Option<u64>,
    /// The group whose rights it has.
    pub group_id: Option<u64>,
    /// When it was started.
    #[schemars(with = "Option<String>", extend("format" = "date-time"))]
    pub started: Option<Timestamp>,
    /// Its threads.
    pub threads: u64,
    /// Time that processors spent on it, in milliseconds.
    pub processor_time_ms: u64,
    /// What memory it holds.
    pub memory: MemoryByKind,
    /// Bytes that it had read from devices.
    pub read_bytes: Option<u64>,
    /// Bytes that it had written to devices.
    pub written_bytes: Option<u64>,
    /// What it holds open.
    pub open_files: OpenFiles,
    /// Its namespaces.
    pub namespaces: Vec<Namespace>,
    /// Its control group (version 2).
    pub control_group: Option<String>,
    /// Mount points that it sees and process 1 (or who asks) does not, or the other way round; nothing where both see
    /// the same.
    pub mounts: Vec<MountSeen>,
    /// What could not be asked.
    pub gaps: Vec<ProcessGap>,
}

impl ProcessCard {
    /// A card of which nothing is known but the number.
    pub fn new(pid: u64, at: Timestamp) -> Self {
        Self {
            format: PROCESS.name.to_owned(),
            format_version: PROCESS.current,
            at,
            pid,
            name: String::new(),
            program: None,
            program_deleted: false,
            command_line: None,
            parents: Vec::new(),
            state: None,
            waits_in: None,
            user_id: None,
            group_id: None,
            started: None,
            threads: 0,
            processor_time_ms: 0,
            memory: MemoryByKind::default(),
            read_bytes: None,
            written_bytes: None,
            open_files: OpenFiles::default(),
            namespaces: Vec::new(),
            control_group: None,
            mounts: Vec::new(),
            gaps: Vec::new(),
        }
    }
}

/// A process by number and name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Relative {
    /// Its number.
    pub pid: u64,
    /// The name of its program.
    pub name: String,
}

/// What memory a process holds, in bytes: `/proc/PID/status` and `smaps_rollup`.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct MemoryByKind {
    /// In memory, shared pages with it.
    pub resident_bytes: Option<u64>,
    /// The most that it ever held.
    pub peak_bytes: Option<u64>,
    /// Of what it holds, its own data.
    pub anonymous_bytes: Option<u64>,
    /// Of what it holds, files.
    pub file_bytes: Option<u64>,
    /// Of what it holds, memory shared with others.
    pub shared_bytes: Option<u64>,
    /// Locked, so that it is never swapped out.
    pub locked_bytes: Option<u64>,
    /// Swapped out.
    pub swapped_bytes: Option<u64>,
    /// What it holds, each shared page shared out among those who share it.
    pub proportional_bytes: Option<u64>,
}

/// What a process holds open.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct OpenFiles {
    /// How many.
    pub count: Option<u64>,
    /// How many it may: the soft limit in `/proc/PID/limits`; nothing where there is none.
    pub limit: Option<u64>,
    /// How many of each kind: `file`, `deleted file`, `socket`, `pipe`, `device`, `event`, …
    pub kinds: Vec<OpenKind>,
    /// Sockets by protocol: `tcp`, `tcp6`, `udp`, `udp6`, `unix`, `other`.
    pub sockets: Vec<OpenKind>,
    /// Addresses that it listens on.
    pub listens: Vec<String>,
}

/// How many of a kind are open.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct OpenKind {
    /// The kind.
    pub kind: String,
    /// How many.
    pub count: u64,
}

/// A namespace of a process: `/proc/PID/ns` (namespaces(7)).
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Namespace {
    /// Of what: `mnt`, `net`, `pid`, …
    pub kind: String,
    /// The number of its inode.
    pub inode: u64,
    /// Whether it is another than that of process 1, or where that may not be asked, of who asks; nothing where
    /// neither could be.
    pub is_own: Option<bool>,
}

/// A mount point that not both see.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct MountSeen {
    /// The mount point.
    pub mount_point: String,
    /// The kind of its filesystem.
    pub kind: String,
    /// Whether the process sees it; else the other does.
    pub seen: bool,
}

/// What could not be asked of a process.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct ProcessGap {
    /// The file or folder.
    pub path: String,
    /// How the asking ended.
    pub why: Outcome,
}
