//! Tectum: what a Linux machine is made of, where each value came from, and what changed.

mod archive;
mod args;
mod commands;
#[cfg(feature = "demo")]
mod demo_folder;
mod exit;
mod interrupt;
mod key;
mod page;
mod patient;
mod render;
mod settings;
mod subject;
mod temporary;
mod views;
mod written;

use std::{
    io::{self, Write},
    process::ExitCode,
};

use clap::{
    CommandFactory, Parser,
    error::{ContextKind, ContextValue},
};
use clap_complete::CompleteEnv;
use tectum_report::query::nearest_name;

use crate::{args::Cli, exit::Failure, views::Terminal};

/// The variable by which a shell asks what may stand next.
pub(crate) const COMPLETE: &str = "_TECTUM_COMPLETE";

fn main() -> ExitCode {
    // With rights that its caller does not have it would read, write and tell what the caller may
    // not. Nothing it does needs such a copy.
    if raised() {
        let _ = writeln!(
            io::stderr(),
            "tectum: this copy of the program is set-user-ID, set-group-ID or has capabilities of its \
             own, and refuses to run so; run it as root instead"
        );
        return exit::FAILED.into();
    }
    // A shell that asks what may stand next.
    if std::env::var_os(COMPLETE).is_some() {
        CompleteEnv::with_factory(Cli::command).var(COMPLETE).complete();
    }
    let cli = match Cli::try_parse() {
        Ok(cli) => cli,
        Err(mut error) => {
            offer_one(&mut error);
            // Help and version are answers, not errors. A closed pipe loses nothing here.
            let _ = error.print();
            return if error.use_stderr() { exit::USAGE } else { exit::DONE }.into();
        }
    };
    let mut terminal = Terminal::new(cli.common.color, cli.common.plain);
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

/// Of several commands that are like what was typed, the one that is most like it is offered.
fn offer_one(error: &mut clap::Error) {
    let nearest = match [ContextKind::InvalidSubcommand, ContextKind::SuggestedSubcommand]
        .map(|kind| error.get(kind))
    {
        [Some(ContextValue::String(given)), Some(ContextValue::Strings(known))] => {
            nearest_name(given, known.iter().map(String::as_str)).map(str::to_owned)
        }
        _ => None,
    };
    if let Some(nearest) = nearest {
        error.insert(ContextKind::SuggestedSubcommand, ContextValue::Strings(vec![nearest]));
    }
}

/// Whether the program runs as somebody else than who started it, or its file brings capabilities
/// (capabilities(7)).
fn raised() -> bool {
    let mut value = [0u8; 64];
    let capabilities =
        rustix::fs::getxattr("/proc/self/exe", "security.capability", &mut value[..]);
    rustix::process::getuid() != rustix::process::geteuid()
        || rustix::process::getgid() != rustix::process::getegid()
        || capabilities.is_ok()
}

fn closed_pipe(failure: &Failure) -> bool {
    matches!(failure, Failure::Output(error) if error.kind() == io::ErrorKind::BrokenPipe)
}
