//! The commands: one file each.

mod capture;
mod check;
mod compare;
mod demo;
mod expect;
mod find;
mod get;
mod redact;
mod schema;
mod sections;
mod settings;
mod survey;
mod why;

use crate::{
    args::{Cli, Command},
    exit::{Failure, Status},
    views::Terminal,
};

pub(crate) use find::RawLine;

/// Runs a command.
pub(crate) fn run(cli: &Cli, terminal: &mut Terminal) -> Result<Status, Failure> {
    let units = cli.units.unwrap_or_default();
    let mut settings = || {
        let named = cli.settings.as_deref();
        crate::settings::load(named, &mut |said| terminal.remark(said))
    };
    match &cli.command {
        Command::Survey(args) => {
            let settings = settings()?;
            survey::run(args, &settings, units, terminal)
        }
        Command::Compare(args) => compare::run(args, units, terminal),
        Command::Check(args) => {
            let settings = settings()?;
            check::run(args, &settings, terminal)
        }
        Command::Expect(args) => expect::run(args, terminal),
        Command::Demo(args) => demo::run(args, terminal),
        Command::Find(args) => find::run(args, units, terminal),
        Command::Get(args) => get::run(args, cli.units, terminal),
        Command::Why(args) => why::run(args, units, terminal),
        Command::Capture(args) => capture::run(args, terminal),
        Command::Redact(args) => redact::run(args, terminal),
        Command::Sections(args) => sections::run(args, terminal),
        Command::Settings(args) => {
            let settings = settings()?;
            settings::run(args, &settings, terminal)
        }
        Command::Schema(args) => schema::run(args, terminal),
        Command::AnswerAside => {
            tectum_survey::source::answer_questions()?;
            Ok(crate::exit::DONE)
        }
    }
}
