//! What is asked of a machine.

use std::{path::PathBuf, time::Duration};

use clap::{Args, ValueEnum};

use tectum_report::json::write::Form;

use super::{Detail, Patience, complete, duration, examples, subject};
use crate::subject::Subject;

#[derive(Debug, Args)]
#[command(after_long_help = examples::SURVEY)]
pub(crate) struct SurveyArgs {
    /// Only these sections (all, if none is named).
    #[arg(value_name = "SECTION", add = completed!(sections, all))]
    pub(crate) sections: Vec<String>,
    /// The machine to look at; may be given again where the format has room for several. A folder of reports
    /// and a pattern (`'tide-*'`) stand for all of theirs.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// All sections but this one; may be given again.
    #[arg(long, value_name = "SECTION", add = completed!(sections, all))]
    pub(crate) skip: Vec<String>,
    /// In which form to print or save it [default: text; with --out, what the ending of its name says, else json].
    #[arg(long, value_enum)]
    pub(crate) format: Option<SurveyFormat>,
    /// How the form json says where values are from.
    #[arg(long, value_enum, default_value_t, value_name = "FORM")]
    pub(crate) evidence: EvidenceForm,
    /// Of the form csv, this table alone (`storage_disks`); `findings` and `missing` are tables too.
    #[arg(long, value_name = "TABLE", add = completed!(table_names, all))]
    pub(crate) table: Option<String>,
    /// How much to print.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) detail: Detail,
    /// Save it here instead of printing it (`-` prints it); tables of the form csv go into a new folder.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// File it into the archive instead of printing it.
    #[arg(long)]
    pub(crate) save: bool,
    /// List every missing value with its reason.
    #[arg(long)]
    pub(crate) gaps: bool,
    /// Exit with status 3 if anything is missing that should be there.
    #[arg(long)]
    pub(crate) strict: bool,
    /// Show where the time goes, on standard error.
    #[arg(long)]
    pub(crate) timing: bool,
    /// Say on standard error what the survey may do and what it waits for.
    #[arg(long, conflicts_with = "quiet")]
    pub(crate) verbose: bool,
    /// Look at the running machine's counters twice, so far apart, and tell rates.
    #[arg(long, value_name = "TIME", value_parser = duration)]
    pub(crate) watch_for: Option<Duration>,
    /// Of the section processes, this one alone, with what it holds; never saved into an archive.
    #[arg(long, value_name = "N", conflicts_with_all = ["save", "watch_for", "skip", "gaps", "strict", "timing"])]
    pub(crate) pid: Option<u64>,
    /// With --pid, tell its words too: they may hold secrets, so they are printed and not saved.
    #[arg(long, requires = "pid", conflicts_with = "out")]
    pub(crate) command_line: bool,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// How a report says where its values are from and why others are missing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, ValueEnum)]
pub(crate) enum EvidenceForm {
    /// In tables, which say once what parts of a kind share.
    #[default]
    Compact,
    /// Value by value, each by its JSON Pointer: three times as long, and for `jq`.
    Expanded,
}

impl From<EvidenceForm> for Form {
    fn from(form: EvidenceForm) -> Self {
        match form {
            EvidenceForm::Compact => Self::Compact,
            EvidenceForm::Expanded => Self::Expanded,
        }
    }
}

/// In which form a survey is told.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum SurveyFormat {
    /// A sheet for people.
    Text,
    /// The whole report (`tectum schema report`), of one machine.
    Json,
    /// A part a line, for databases and log pipelines.
    JsonLines,
    /// A table a kind of part (RFC 4180), for spreadsheets.
    Csv,
    /// Markdown, for a ticket or a wiki.
    Markdown,
    /// A page of its own (HTML), to be opened anywhere.
    #[cfg(feature = "html")]
    Html,
    /// A bill of materials (CycloneDX 1.6), of one machine.
    Cyclonedx,
    /// Readings, counts and findings, for monitoring.
    Openmetrics,
    /// A database in a file (SQLite), a table a kind of part.
    #[cfg(feature = "sqlite")]
    Sqlite,
}
