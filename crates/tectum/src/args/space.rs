//! What is asked of a filesystem.

use std::{path::PathBuf, time::Duration};

use clap::Args;

use super::{TableFormat, duration, examples};

#[derive(Debug, Args)]
#[command(after_long_help = examples::SPACE)]
pub(crate) struct SpaceArgs {
    /// The folders to look at (all of the root filesystem, if none is named).
    #[arg(value_name = "PATH", default_value = "/")]
    pub(crate) paths: Vec<PathBuf>,
    /// How deep folders are listed.
    #[arg(long, value_name = "N", default_value_t = 2)]
    pub(crate) depth: u32,
    /// How many folders of each folder are listed, and how many files in all.
    #[arg(long, value_name = "N", default_value_t = 10)]
    pub(crate) top: usize,
    /// Count only files that nobody changed for so long (`36h`, `7d`, `1y`).
    #[arg(long, value_name = "AGE")]
    pub(crate) older_than: Option<String>,
    /// Pass over what has such a name (`*.iso`), or with a `/` such a path beneath PATH (`var/cache/**`); may be
    /// given again.
    #[arg(long, value_name = "PATTERN")]
    pub(crate) exclude: Vec<String>,
    /// Enter what is mounted beneath PATH too.
    #[arg(long)]
    pub(crate) across_mounts: bool,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: TableFormat,
    /// Save it here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// How long one question to the kernel may take (`500ms`, `2s`).
    #[arg(long, value_name = "TIME", default_value = "2s", value_parser = duration)]
    pub(crate) deadline: Duration,
}
