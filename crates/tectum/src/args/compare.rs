//! What machines are held against each other for.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::{Detail, Patience, complete, examples, subject};
use crate::subject::Subject;

#[derive(Debug, Args)]
#[command(after_long_help = examples::COMPARE)]
pub(crate) struct CompareArgs {
    /// The state before.
    #[arg(value_name = "A", value_parser = subject(), add = completed!(subjects))]
    pub(crate) before: Subject,
    /// The state after; a pattern (`tide-*`) or a folder of reports may stand for more than two.
    #[arg(value_name = "B", value_parser = subject(), add = completed!(subjects))]
    pub(crate) after: Option<Subject>,
    /// More machines: then what most have in common is told, and which are odd.
    #[arg(value_name = "MORE", value_parser = subject(), add = completed!(subjects))]
    pub(crate) more: Vec<Subject>,
    /// Of more than two, hold those against each other that have the same at this path.
    #[arg(long, value_name = "PATH", default_value = "platform.system.product")]
    pub(crate) alike: String,
    /// Compare what moves by itself too: free memory, frequencies, times.
    #[arg(long)]
    pub(crate) readings: bool,
    /// Only what this path names (`memory.modules`, `**.serial`); may be given again.
    #[arg(long, value_name = "PATH", add = completed!(paths))]
    pub(crate) only: Vec<String>,
    /// Not what this path names; may be given again.
    #[arg(long, value_name = "PATH", add = completed!(paths))]
    pub(crate) skip: Vec<String>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: CompareFormat,
    /// Save it here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// How much to print.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) detail: Detail,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// How to print a comparison.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum CompareFormat {
    /// For people.
    #[default]
    Text,
    /// For programs (`tectum schema comparison`).
    Json,
    /// What turns the inventory of A into that of B (JSON Patch, RFC 6902).
    JsonPatch,
    /// Markdown, for a ticket or a wiki.
    Markdown,
    /// A page of its own (HTML).
    #[cfg(feature = "html")]
    Html,
}
