//! What is odd about machines, and what is expected of them.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::{Patience, complete, examples, subject};
use crate::subject::Subject;

#[derive(Debug, Args)]
#[command(after_long_help = examples::CHECK)]
pub(crate) struct CheckArgs {
    /// The machines to check (this one, if none is named); a folder of reports stands for all of them.
    #[arg(value_name = "SUBJECT", value_parser = subject(), add = completed!(subjects))]
    pub(crate) subjects: Vec<Subject>,
    /// A machine to check, as other commands take it; may be given again.
    #[arg(long, value_name = "SUBJECT", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// Hold them against the expectations in this file too; may be given again.
    #[arg(long, value_name = "FILE")]
    pub(crate) expect: Vec<PathBuf>,
    /// Hold them against the expectations alone, and look for nothing else.
    #[arg(long)]
    pub(crate) without_rules: bool,
    /// Only this finding; may be given again.
    #[arg(long, add = completed!(findings, all), value_name = "FINDING")]
    pub(crate) only: Vec<String>,
    /// Not this finding; may be given again.
    #[arg(long, add = completed!(findings, all), value_name = "FINDING")]
    pub(crate) skip: Vec<String>,
    /// Exit with status 1 if anything so grave or graver is found.
    /// [default: as set, else warning].
    #[arg(long, value_name = "SEVERITY", value_enum)]
    pub(crate) fail_on: Option<FailOn>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: CheckFormat,
    /// Save it here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// Tell everything that could not be judged, and why.
    #[arg(long)]
    pub(crate) not_judged: bool,
    /// Tell what there is to be found, and look at no machine.
    #[arg(long)]
    pub(crate) list: bool,
    /// Tell all about a finding, and what of the machine it reads or selects.
    #[arg(long, add = completed!(findings, all), value_name = "FINDING", conflicts_with = "list")]
    pub(crate) explain: Option<String>,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// From which severity on a check fails.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    /// Whatever is found.
    Notice,
    /// A warning or worse.
    Warning,
    /// Something critical.
    Critical,
    /// Nothing that is found.
    Never,
}

/// How to print what was found.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    /// For people.
    #[default]
    Text,
    /// JSON (`tectum schema check`).
    Json,
    /// JUnit XML, for what shows the results of tests.
    Junit,
    /// SARIF 2.1.0, for what collects findings.
    Sarif,
    /// Markdown, for a ticket or a wiki.
    Markdown,
    /// A page of its own (HTML).
    #[cfg(feature = "html")]
    Html,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::EXPECT)]
pub(crate) struct ExpectArgs {
    /// The machine as it should be.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Subject,
    /// Expect its serial numbers and other identities too.
    #[arg(long)]
    pub(crate) identities: bool,
    /// Write the file here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) patience: Patience,
}
