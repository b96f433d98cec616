//! What is asked of the archive.

use std::path::PathBuf;

use clap::{Args, Subcommand, ValueEnum};

use super::{Format, Patience, TableFormat, complete, examples, subject};
use crate::subject::Subject;

#[derive(Debug, Args)]
pub(crate) struct SaveArgs {
    /// What to file; a folder of reports and captures stands for all of them.
    #[arg(value_name = "SUBJECT", required = true, value_parser = subject(), add = completed!(subjects))]
    pub(crate) subjects: Vec<Subject>,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::HISTORY)]
pub(crate) struct HistoryArgs {
    /// A path as `get` takes it (with --part a machine).
    #[arg(value_name = "PATH", required_unless_present = "part", add = completed!(paths))]
    pub(crate) path: Option<String>,
    /// The machines (all, if none is named): host names, patterns of them, serial numbers, groups (`@tide`).
    #[arg(value_name = "HOST", add = completed!(hosts))]
    pub(crate) hosts: Vec<String>,
    /// Where this part has been: a serial number, a World Wide Name, a UUID.
    #[arg(long, value_name = "ID")]
    pub(crate) part: Option<String>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: Format,
}

#[derive(Debug, Args)]
pub(crate) struct FleetArgs {
    /// Only these machines: host names, patterns of them, serial numbers, groups (`@tide`).
    #[arg(value_name = "HOST", add = completed!(hosts))]
    pub(crate) hosts: Vec<String>,
    /// How many machines have which value at this path.
    #[arg(long, value_name = "PATH", conflicts_with = "sort", add = completed!(paths))]
    pub(crate) by: Option<String>,
    /// Only machines whose state is another than it was then (`-7d`, `2026-05-12`).
    #[arg(long, value_name = "WHEN", allow_hyphen_values = true)]
    pub(crate) changed_since: Option<String>,
    /// Only machines that nobody looked at for so long (`36h`, `7d`).
    #[arg(long, value_name = "AGE")]
    pub(crate) stale: Option<String>,
    /// By what the rows are sorted.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) sort: FleetSort,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: TableFormat,
    /// Save it here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
}

/// By what rows of a fleet are sorted.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum FleetSort {
    /// Host name.
    #[default]
    Host,
    /// Model.
    Model,
    /// Memory, the most first.
    Memory,
    /// Size of all disks, the largest first.
    Disks,
    /// When it was seen last, the longest ago first.
    LastSeen,
    /// Since when it is unchanged, the latest change first.
    Changed,
    /// What is odd, the gravest first.
    Findings,
}

#[derive(Debug, Args)]
pub(crate) struct ArchiveArgs {
    #[command(subcommand)]
    pub(crate) what: ArchiveCommand,
}

/// What to do with the archive.
#[derive(Debug, Subcommand)]
pub(crate) enum ArchiveCommand {
    /// The machines in it; of machines that are named, every look at them.
    List {
        /// Host names, patterns of them, serial numbers.
        #[arg(value_name = "HOST", add = completed!(hosts))]
        hosts: Vec<String>,
        /// How to print it.
        #[arg(long, value_enum, default_value_t)]
        format: Format,
    },
    /// Look through all of it: what was altered, removed or slipped in.
    Verify {
        /// How to print it.
        #[arg(long, value_enum, default_value_t)]
        format: Format,
    },
    /// Remove looks that no rule keeps; says what would go, and does it with --yes only.
    Prune {
        /// Only of these machines.
        #[arg(value_name = "HOST", add = completed!(hosts))]
        hosts: Vec<String>,
        /// Keep the last look of each of so many days.
        #[arg(long, value_name = "DAYS", default_value_t = 0)]
        days: u64,
        /// Keep the last look of each of so many weeks.
        #[arg(long, value_name = "WEEKS", default_value_t = 0)]
        weeks: u64,
        /// Keep the last look of each of so many months.
        #[arg(long, value_name = "MONTHS", default_value_t = 0)]
        months: u64,
        /// Let go of states too that no other rule keeps (else the first and last look at each are kept, so
        /// that nothing that changed is lost).
        #[arg(long)]
        states_too: bool,
        /// Do it.
        #[arg(long)]
        yes: bool,
    },
    /// Give a look a name: `archive mark gannet accepted`, `archive mark gannet@-7d before-the-move`.
    Mark {
        /// The machine, and when it was looked at (the last time, if that is not said).
        #[arg(value_name = "HOST[@WHEN]", add = completed!(subjects))]
        look: String,
        /// The name: lower-case letters, digits and hyphens.
        #[arg(value_name = "MARK")]
        name: String,
        /// Take the name away.
        #[arg(long)]
        remove: bool,
    },
    /// Copy all of an archive into another, without loss.
    Copy {
        /// The archive to copy.
        #[arg(value_name = "FROM")]
        from: String,
        /// The archive to copy into; it is made if there is none.
        #[arg(value_name = "TO")]
        to: String,
    },
}
