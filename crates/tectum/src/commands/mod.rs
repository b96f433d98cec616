//! The commands: one file each.

mod archive;
mod capture;
mod check;
mod compare;
mod demo;
mod expect;
mod find;
mod fleet;
mod get;
mod history;
mod redact;
mod save;
mod schema;
mod sections;
mod settings;
mod survey;
mod why;

use tectum_report::settings::Settings;

use crate::{
    args::{Cli, Command},
    exit::{Failure, Status},
    views::Terminal,
};

pub(crate) use find::RawLine;

/// Runs a command.
pub(crate) fn run(cli: &Cli, terminal: &mut Terminal) -> Result<Status, Failure> {
    let units = cli.units.unwrap_or_default();
    let named = cli.settings.as_deref();
    // The helper asks and answers: what is set is for those who print.
    let settings = match &cli.command {
        Command::AnswerAside => Settings::default(),
        _ => crate::settings::load(named, &mut |said| terminal.remark(said))?,
    };
    crate::archive::is(cli.archive.as_deref(), &settings);
    match &cli.command {
        Command::Survey(args) => survey::run(args, &settings, units, terminal),
        Command::Compare(args) => compare::run(args, units, terminal),
        Command::Check(args) => check::run(args, &settings, terminal),
        Command::Expect(args) => expect::run(args, terminal),
        Command::Demo(args) => demo::run(args, terminal),
        Command::Find(args) => find::run(args, units, terminal),
        Command::Get(args) => get::run(args, cli.units, terminal),
        Command::Why(args) => why::run(args, units, terminal),
        Command::Save(args) => save::run(args, &settings, terminal),
        Command::History(args) => history::run(args, units, terminal),
        Command::Fleet(args) => fleet::run(args, &settings, units, terminal),
        Command::Archive(args) => self::archive::run(args, &settings, terminal),
        Command::Capture(args) => capture::run(args, terminal),
        Command::Redact(args) => redact::run(args, terminal),
        Command::Sections(args) => sections::run(args, terminal),
        Command::Settings(args) => self::settings::run(args, &settings, terminal),
        Command::Schema(args) => schema::run(args, terminal),
        Command::AnswerAside => {
            tectum_survey::source::answer_questions()?;
            Ok(crate::exit::DONE)
        }
    }
}
