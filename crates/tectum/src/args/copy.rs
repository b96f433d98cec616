//! Copies of a machine: its raw files, and what is fit to share.

use std::path::PathBuf;

use clap::Args;
use tectum_survey::extra::USUAL_EXTRA_LIMIT;

use super::{EvidenceForm, Patience, complete, examples, subject};
use crate::subject::Subject;

#[derive(Debug, Args)]
#[command(after_long_help = examples::CAPTURE)]
pub(crate) struct CaptureArgs {
    /// Where to write it (`-` for standard output); its SHA-256 is written beside it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: PathBuf,
    /// The machine to capture.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Subject,
    /// Keep what this section reads too, which is surveyed only where it is named (`processes`).
    #[arg(long, value_name = "SECTION", add = completed!(sections, all))]
    pub(crate) with: Vec<String>,
    /// Another file to keep, by absolute path or pattern; may be given again.
    #[arg(long, value_name = "PATTERN")]
    pub(crate) also: Vec<String>,
    /// The most bytes to keep of each such file.
    #[arg(long, value_name = "BYTES", default_value_t = USUAL_EXTRA_LIMIT)]
    pub(crate) also_limit: usize,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::REDACT)]
pub(crate) struct RedactArgs {
    /// The report or capture to copy.
    #[arg(value_name = "SUBJECT", value_parser = subject(), add = completed!(subjects), required_unless_present = "make_key")]
    pub(crate) from: Option<Subject>,
    /// Where to write the copy (`-` for standard output).
    #[arg(long, value_name = "FILE", required_unless_present = "make_key")]
    pub(crate) out: Option<PathBuf>,
    /// A file that holds the key: the same key gives the same pseudonyms, so that copies can be
    /// compared (without one a fresh key is used and forgotten).
    #[arg(long, value_name = "FILE")]
    pub(crate) key: Option<PathBuf>,
    /// Make a key and write it here, for its owner only; nothing else is done.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["from", "out", "key", "keep", "include"])]
    pub(crate) make_key: Option<PathBuf>,
    /// How the copy of a report says where its values are from.
    #[arg(long, value_enum, default_value_t, value_name = "FORM")]
    pub(crate) evidence: EvidenceForm,
    /// A captured file to put into the copy of a capture as it is; may be given again.
    #[arg(long, value_name = "PATH")]
    pub(crate) include: Vec<PathBuf>,
    /// A kind of text to leave as it is; may be given again.
    #[arg(long, value_name = "KIND")]
    pub(crate) keep: Vec<String>,
}
