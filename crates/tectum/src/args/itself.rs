//! What is asked of the program itself.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::examples;

#[derive(Debug, Args)]
pub(crate) struct SettingsArgs {
    /// Only say whether all is well with them.
    #[arg(long)]
    pub(crate) check: bool,
}

#[cfg(feature = "demo")]
#[derive(Debug, Args)]
pub(crate) struct DemoArgs {
    /// Leave the machines and reports in this folder (else they go when the demo ends).
    #[arg(long, value_name = "FOLDER")]
    pub(crate) keep: Option<PathBuf>,
    /// Only tell the steps.
    #[arg(long, conflicts_with_all = ["keep", "step"])]
    pub(crate) list: bool,
    /// Only this step.
    #[arg(long, value_name = "NUMBER")]
    pub(crate) step: Option<usize>,
}

#[derive(Debug, Args)]
#[command(after_help = examples::COMPLETIONS)]
pub(crate) struct CompletionsArgs {
    /// The shell.
    #[arg(value_enum)]
    pub(crate) shell: Shell,
}

/// A shell that completes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Shell {
    Bash,
    Zsh,
    Fish,
}

#[derive(Debug, Args)]
#[command(after_help = examples::MANUAL)]
pub(crate) struct ManualArgs {
    /// The page of this command (`survey`, `archive`), or `tectum.toml`, or `formats`; of the program, if none is named.
    #[arg(value_name = "PAGE")]
    pub(crate) page: Option<String>,
    /// Write all pages into this folder.
    #[arg(long, value_name = "FOLDER", conflicts_with = "page")]
    pub(crate) out: Option<PathBuf>,
}
