//! What is asked of a machine, value by value, and what there is to ask for.

use clap::{Args, ValueEnum};

use super::{Format, Patience, complete, examples, subject};
use crate::subject::Subject;

#[derive(Debug, Args)]
#[command(after_long_help = examples::WHY)]
pub(crate) struct WhyArgs {
    /// A path such as `memory.modules.A1.serial`, `storage.disks.*.size_bytes`, `cpu.**`, or a
    /// JSON Pointer.
    #[arg(value_name = "PATH", required = true, add = completed!(paths))]
    pub(crate) paths: Vec<String>,
    /// The machine to look at.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Subject,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: Format,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::GET)]
pub(crate) struct GetArgs {
    /// A path such as `memory.modules.*.serial`, `storage.disks[rotating=yes, size>=4TB].serial`,
    /// `storage.disks.*.{model,serial,size}`, or a JSONPath, which begins with `$`.
    #[arg(value_name = "PATH", required = true, add = completed!(paths))]
    pub(crate) paths: Vec<String>,
    /// The machine to look at; may be given again, and then each line begins with whose it is.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// Rows of a table with a header (RFC 4180).
    #[arg(long)]
    pub(crate) csv: bool,
    /// Rows as JSON objects, in a list.
    #[arg(long, conflicts_with = "csv")]
    pub(crate) json: bool,
    /// What stands in the place of a missing value.
    #[arg(long, value_name = "TEXT")]
    pub(crate) null: Option<String>,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::FIND)]
pub(crate) struct FindArgs {
    /// What to look for: words, all of which must be found, whatever their case; amounts are found
    /// however they are written (32GiB, 34359738368).
    #[arg(value_name = "TEXT")]
    pub(crate) text: String,
    /// Where to look; may be given again. A folder of reports and captures stands for all of them.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// TEXT is a pattern with wildcards, for a whole value.
    #[arg(long)]
    pub(crate) pattern: bool,
    /// TEXT is a regular expression.
    #[arg(long, conflicts_with = "pattern")]
    pub(crate) regex: bool,
    /// Only in what this section or path names; may be given again.
    #[arg(long, value_name = "SECTION|PATH", add = completed!(paths))]
    pub(crate) only: Vec<String>,
    /// Print how much was found in each, and nothing else.
    #[arg(long)]
    pub(crate) count: bool,
    /// One JSON object a line, as it is found.
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
pub(crate) struct SectionsArgs {
    /// List every path that a survey may ask for.
    #[arg(long, conflicts_with = "fields")]
    pub(crate) paths: bool,
    /// List every value there is to ask for, or those beneath a path: what it means, its unit, where
    /// it is from, and whether the machine has it.
    #[arg(long, value_name = "PATH", num_args = 0..=1, add = completed!(paths))]
    pub(crate) fields: Option<Option<String>>,
    /// The machine to look at for its values.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects), requires = "fields")]
    pub(crate) from: Subject,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
pub(crate) struct SchemaArgs {
    /// Of what.
    #[arg(value_enum, default_value_t)]
    pub(crate) of: Form,
}

/// A form that has a schema.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Form {
    /// What `survey` saves.
    #[default]
    Report,
    /// What `compare --format json` prints.
    Comparison,
    /// What `check --format json` prints.
    Check,
    /// What `space --format json` prints.
    Space,
    /// What `survey processes --pid N --format json` prints.
    Process,
    /// The tables of the forms csv and json-lines, with their columns.
    Tables,
    /// The metrics of the form openmetrics.
    Metrics,
    /// What makes the database of the form sqlite, in SQL.
    #[cfg(feature = "sqlite")]
    Database,
}
