//! `tectum completions`: what makes a shell complete commands.

use std::io::Write;

use clap_complete::env::{Bash, EnvCompleter, Fish, Zsh};

use crate::{
    COMPLETE,
    args::{CompletionsArgs, Shell},
    exit::{DONE, Failure, Status},
    views::Terminal,
};

pub(super) fn run(args: &CompletionsArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let shell: &dyn EnvCompleter = match args.shell {
        Shell::Bash => &Bash,
        Shell::Zsh => &Zsh,
        Shell::Fish => &Fish,
    };
    let mut text = Vec::new();
    // The shell asks the program that it would run.
    shell.write_registration(COMPLETE, "tectum", "tectum", "tectum", &mut text)?;
    let mut out = terminal.out_raw();
    out.write_all(&text)?;
    out.flush()?;
    Ok(DONE)
}
