//! The commands: one file each.

mod compare;
mod demo;
mod schema;
mod sections;
mod survey;

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
        Command::Sections => sections::run(terminal),
        Command::Schema => schema::run(terminal),
    }
}
