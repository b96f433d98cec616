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
    args::{Cli, Command},
    exit::{Failure, Status},
    views::Terminal,
};

/// Runs a command.
pub(crate) fn run(cli: &Cli, terminal: &mut Terminal) -> Result<Status, Failure> {
    match &cli.command {
        Command::Survey(args) => survey::run(args, cli.units, terminal),
        Command::Compare(args) => compare::run(args, cli.units, terminal),
        Command::Demo(args) => demo::run(args, terminal),
        Command::Why(args) => why::run(args, cli.units, terminal),
        Command::Capture(args) => capture::run(args, terminal),
        Command::Redact(args) => redact::run(args, terminal),
        Command::Sections(args) => sections::run(args, terminal),
        Command::Schema(args) => schema::run(args, terminal),
        Command::AnswerAside => {
            tectum_survey::source::answer_questions()?;
            Ok(crate::exit::DONE)
        }
    }
}
