//! The commands: one file each.

mod archive;
mod capture;
mod check;
mod compare;
mod completions;
mod deliver;
#[cfg(feature = "demo")]
mod demo;
mod expect;
mod export;
mod find;
mod fleet;
mod get;
mod history;
mod manual;
mod redact;
mod save;
mod schema;
mod sections;
mod settings;
mod space;
mod survey;
mod why;

use std::io::{IsTerminal, Write};

use clap::CommandFactory;
use tectum_report::settings::Settings;

use crate::{
    args::{Cli, Command},
    exit::{DONE, Failure, Status, USAGE},
    page::{Page, Tone},
    views::Terminal,
};

pub(crate) use find::RawTexts;

/// Runs a command.
pub(crate) fn run(cli: &Cli, terminal: &mut Terminal) -> Result<Status, Failure> {
    let Some(command) = &cli.command else { return Ok(greeting(terminal)?) };
    let units = cli.common.units.unwrap_or_default();
    let named = cli.common.settings.as_deref();
    // The helper asks and answers: what is set is for those who print.
    let settings = match command {
        Command::AnswerAside | Command::LookAside => Settings::default(),
        _ => crate::settings::load(named, &mut |said| terminal.remark(said))?,
    };
    // What the demo files away is in its own folder, whatever is set.
    let named = match command {
        #[cfg(feature = "demo")]
        Command::Demo(_) => Some(demo::ARCHIVE),
        _ => cli.common.archive.as_deref(),
    };
    crate::archive::is(named, &settings);
    match command {
        Command::Survey(args) => survey::run(args, &settings, units, terminal),
        Command::Compare(args) => compare::run(args, units, terminal),
        Command::Check(args) => check::run(args, &settings, terminal),
        Command::Expect(args) => expect::run(args, terminal),
        #[cfg(feature = "demo")]
        Command::Demo(args) => demo::run(args, terminal),
        Command::Find(args) => find::run(args, units, terminal),
        Command::Get(args) => get::run(args, cli.common.units, terminal),
        Command::Why(args) => why::run(args, units, terminal),
        Command::Space(args) => space::run(args, units, terminal),
        Command::LookAside => space::help(),
        Command::Save(args) => save::run(args, &settings, terminal),
        Command::History(args) => history::run(args, units, terminal),
        Command::Fleet(args) => fleet::run(args, &settings, units, terminal),
        Command::Archive(args) => self::archive::run(args, &settings, terminal),
        Command::Capture(args) => capture::run(args, terminal),
        Command::Redact(args) => redact::run(args, terminal),
        Command::Sections(args) => sections::run(args, terminal),
        Command::Settings(args) => self::settings::run(args, &settings, terminal),
        Command::Schema(args) => schema::run(args, terminal),
        Command::Completions(args) => completions::run(args, terminal),
        Command::Manual(args) => manual::run(args, terminal),
        Command::AnswerAside => {
            tectum_survey::source::answer_questions()?;
            Ok(crate::exit::DONE)
        }
    }
}

/// What to try first, for somebody at a terminal; a script that names no command is told how.
fn greeting(terminal: &mut Terminal) -> std::io::Result<Status> {
    if !std::io::stdout().is_terminal() {
        let _ = write!(std::io::stderr(), "{}", Cli::command().render_help());
        return Ok(USAGE);
    }
    let mut page = Page::default();
    for (line, what) in [
        ("tectum survey", "who is this machine, and what is in it"),
        ("tectum check", "what is odd, why it matters, what to do"),
        ("tectum survey --out today.json", "saved, to be compared with tomorrow's"),
        #[cfg(feature = "demo")]
        ("tectum demo", "all of it on made-up machines"),
        ("tectum --help", "every command"),
    ] {
        page.paragraph_of(line, Tone::Strong).quiet(format!("  {what}"));
    }
    terminal.print(&page)?;
    Ok(DONE)
}
