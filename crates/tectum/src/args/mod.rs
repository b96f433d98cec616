//! The command line: what the user typed, checked for form and nothing more.

use std::path::PathBuf;

use clap::{
    Args, Parser, Subcommand, ValueEnum, builder::OsStringValueParser, builder::TypedValueParser,
};

use crate::subject::Subject;

/// What a Linux machine is made of, where each value came from, and what changed.
///
/// A SUBJECT is where a machine is read from: `live` (this one, the default), a folder that stands
/// in for its `/`, a saved report, or `demo:NAME`.
#[derive(Debug, Parser)]
#[command(name = "tectum", version, arg_required_else_help = true, max_term_width = 100)]
#[command(after_help = "Exit status: 0 done, 1 differences, 2 wrong usage, 3 could not be done.")]
pub(crate) struct Cli {
    /// Whether to colour what is printed.
    #[arg(long, value_enum, default_value_t, global = true, value_name = "WHEN")]
    pub(crate) color: Color,
    #[command(subcommand)]
    pub(crate) command: Command,
}

/// What to do.
#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Look at a machine: print what it is made of, or save it.
    Survey(SurveyArgs),
    /// What changed from A to B.
    Compare(CompareArgs),
    /// The whole round on made-up machines, each command shown as it is run.
    Demo(DemoArgs),
    /// The sections of a survey.
    Sections,
    /// The JSON Schema of a report.
    Schema,
}

#[derive(Debug, Args)]
pub(crate) struct SurveyArgs {
    /// Only these sections (all, if none is named).
    #[arg(value_name = "SECTION")]
    pub(crate) sections: Vec<String>,
    /// The machine to look at.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject())]
    pub(crate) from: Subject,
    /// All sections but this one; may be given again.
    #[arg(long, value_name = "SECTION")]
    pub(crate) skip: Vec<String>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: Format,
    /// How much to print.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) detail: Detail,
    /// How to write sizes.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) units: Units,
    /// Save the report here instead of printing it (`-` prints it as JSON).
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

#[derive(Debug, Args)]
pub(crate) struct CompareArgs {
    /// The state before.
    #[arg(value_name = "A", value_parser = subject())]
    pub(crate) before: Subject,
    /// The state after.
    #[arg(value_name = "B", value_parser = subject())]
    pub(crate) after: Subject,
    /// Compare what moves by itself too: free memory, frequencies, times.
    #[arg(long)]
    pub(crate) readings: bool,
    /// All sections but this one; may be given again.
    #[arg(long, value_name = "SECTION")]
    pub(crate) skip: Vec<String>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: Format,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

#[derive(Debug, Args)]
pub(crate) struct DemoArgs {
    /// Leave the machines and reports in this folder (else they go when the demo ends).
    #[arg(long, value_name = "FOLDER")]
    pub(crate) folder: Option<PathBuf>,
}

/// Whether to colour.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Color {
    /// Where the output is a terminal that can.
    #[default]
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// A form of output.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    /// For people.
    #[default]
    Text,
    /// For programs.
    Json,
}

/// How much to print.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, ValueEnum)]
pub(crate) enum Detail {
    /// A line a section.
    Brief,
    /// A sheet for all sections, drawings and tables for sections that are named.
    #[default]
    Normal,
    /// Everything, with every missing value.
    Full,
}

/// How to write sizes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Units {
    /// Powers of 1024: KiB, MiB, GiB.
    #[default]
    Iec,
    /// Powers of 1000: kB, MB, GB.
    Si,
    /// Plain bytes.
    Bytes,
}

fn subject() -> impl TypedValueParser<Value = Subject> {
    OsStringValueParser::new().map(|given| Subject::from(given.as_os_str()))
}
