//! The commands: one file each.

mod capture;
mod compare;
mod demo;
mod redact;
mod schema;
mod sections;
mod survey;
mod why;

use crate::{
    args::Command,
    exit::{Failure, Status},
    views::Terminal,
};

/// Runs a command.
pub(crate) fn run(command: Command, terminal: &mut Terminal) -> Result<Status, Failure> {
    match command {
        Command::Survey(args) => survey::run(&args, terminal),
        Command::Compare(args) => compare::run(&args, terminal),
        Command::Demo(args) => demo::run(&args, terminal),
        Command::Why(args) => why::run(&args, terminal),
        Command::Capture(args) => capture::run(&args, terminal),
        Command::Redact(args) => redact::run(&args, terminal),
        Command::Sections(args) => sections::run(&args, terminal),
        Command::Schema => schema::run(terminal),
    }
}
