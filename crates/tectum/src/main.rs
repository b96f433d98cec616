//! Tectum: what a Linux machine is made of, where each value came from, and what changed.

mod args;
mod commands;
mod exit;
mod key;
mod subject;
mod views;

use std::{io, process::ExitCode};

use clap::Parser;

use crate::{args::Cli, exit::Failure, views::Terminal};

fn main() -> ExitCode {
    let cli = match Cli::try_parse() {
        Ok(cli) => cli,
        Err(error) => {
            // Help and version are answers, not errors. A closed pipe loses nothing here.
            let _ = error.print();
            return if error.use_stderr() { exit::USAGE } else { exit::DONE }.into();
        }
    };
    let mut terminal = Terminal::new(cli.color);
    match commands::run(&cli, &mut terminal) {
        Ok(status) => status.into(),
        // Whoever read the output wants no more of it.
        Err(failure) if closed_pipe(&failure) => exit::DONE.into(),
        Err(failure) => {
            terminal.complain(&failure);
            failure.status().into()
        }
    }
}

fn closed_pipe(failure: &Failure) -> bool {
    matches!(failure, Failure::Output(error) if error.kind() == io::ErrorKind::BrokenPipe)
}
