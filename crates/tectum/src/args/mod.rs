//! The command line: what the user typed, checked for form and nothing more.

/// Adds to an argument what a shell may complete it with.
macro_rules! completed {
    ($by:ident) => {
        clap_complete::engine::ArgValueCompleter::new(complete::$by)
    };
    ($by:ident, all) => {
        clap_complete::engine::ArgValueCandidates::new(complete::$by)
    };
}

mod archive;
mod ask;
mod check;
mod compare;
mod complete;
mod copy;
mod examples;
mod itself;
mod later;
mod space;
mod survey;

use std::{path::PathBuf, time::Duration};

use clap::{
    Args, Parser, Subcommand, ValueEnum, builder::OsStringValueParser, builder::TypedValueParser,
};

use jiff::SignedDuration;
use tectum_survey::{sections::Section, survey::Plan};

pub(crate) use archive::{
    ArchiveArgs, ArchiveCommand, FleetArgs, FleetSort, HistoryArgs, SaveArgs,
};

pub(crate) use ask::{FindArgs, Form, GetArgs, SchemaArgs, SectionsArgs, WhyArgs};
pub(crate) use check::{CheckArgs, CheckFormat, ExpectArgs, FailOn};
pub(crate) use compare::{CompareArgs, CompareFormat};
pub(crate) use copy::{CaptureArgs, RedactArgs};
#[cfg(feature = "demo")]
pub(crate) use itself::DemoArgs;
pub(crate) use itself::{CompletionsArgs, ManualArgs, SettingsArgs, Shell};
use later::Later;
pub(crate) use space::SpaceArgs;
pub(crate) use survey::{EvidenceForm, SurveyArgs, SurveyFormat};

use crate::subject::Subject;

/// What a Linux machine is made of, where each value came from, and what changed.
///
/// A SUBJECT is where a machine is read from: `live` (this one, the default), a folder that stands
/// in for its `/`, a capture or a tar of such a folder, a saved report, `demo:NAME`, or a machine of the
/// archive, `HOST[@WHEN]`: `gannet`, `gannet@previous`, `gannet@-7d`, `gannet@2026-05-12`, `gannet@accepted`; `'tide-*'` and `@GROUP` stand for several.
#[derive(Debug, Parser)]
#[command(name = "tectum", version, max_term_width = 100)]
#[command(
    after_help = "Exit status: 0 done, 1 differences, a value that is missing, or nothing found, 2 wrong usage, 3 could not be done, of one of several too."
)]
pub(crate) struct Cli {
    #[command(flatten)]
    pub(crate) common: Common,
    #[command(subcommand)]
    pub(crate) command: Option<Command>,
}

/// Beneath which options stand that every command has.
const EVERYWHERE: &str = "For every command";

/// What may stand before a command's name as well as behind it; there `Later` adds it.
#[derive(Debug, Args)]
pub(crate) struct Common {
    /// Whether to colour what is printed.
    #[arg(long, value_enum, default_value_t, value_name = "WHEN", help_heading = EVERYWHERE)]
    pub(crate) color: Color,
    /// How to write sizes and other quantities [default: iec; for `get`: exact].
    #[arg(long, value_enum, hide_default_value = true, help_heading = EVERYWHERE)]
    pub(crate) units: Option<Units>,
    /// Write pages as plain lines: no box, no drawing, no sign without its words; for a screen reader and a log.
    #[arg(long, help_heading = EVERYWHERE)]
    pub(crate) plain: bool,
    /// The file of settings, instead of the machine's and the user's.
    #[arg(long, value_name = "FILE", help_heading = EVERYWHERE)]
    pub(crate) settings: Option<PathBuf>,
    /// The archive [default: as set, else the machine's for root, the user's for others].
    #[arg(long, value_name = "LOCATION", help_heading = EVERYWHERE)]
    pub(crate) archive: Option<String>,
}

/// What to do.
#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Look at a machine: print what it is made of, or save it.
    Survey(Later<SurveyArgs>),
    /// What changed from A to B; of more than two, which is the odd one.
    Compare(Later<CompareArgs>),
    /// What is odd, why it matters, what to do; and whether a machine is as you expect it.
    Check(Later<CheckArgs>),
    /// Write down what is expected of a machine, from one as it is.
    Expect(Later<ExpectArgs>),
    /// Bare values for scripts, by their paths.
    Get(Later<GetArgs>),
    /// Everything that has a word in it: labels, names, values, evidence.
    Find(Later<FindArgs>),
    /// Where a value came from, or why it is missing.
    Why(Later<WhyArgs>),
    /// What fills a filesystem: the largest folders and files, and what no folder holds.
    Space(Later<SpaceArgs>),
    /// File reports and captures that exist already into the archive.
    Save(Later<SaveArgs>),
    /// Since when a value is what it is, and where a part has been.
    History(Later<HistoryArgs>),
    /// The machines of the archive, a row each; which of them have which value.
    Fleet(Later<FleetArgs>),
    /// The archive itself: what is in it, whether it is whole, what is kept.
    Archive(Later<ArchiveArgs>),
    /// Keep the raw evidence in one file, to be surveyed anywhere, later.
    Capture(Later<CaptureArgs>),
    /// A copy of a report or capture fit to share, its parts still to be matched.
    Redact(Later<RedactArgs>),
    /// The whole round on made-up machines, each command shown as it is run.
    #[cfg(feature = "demo")]
    Demo(Later<DemoArgs>),
    /// The sections of a survey.
    Sections(Later<SectionsArgs>),
    /// What is set, what it means, and who set it.
    Settings(Later<SettingsArgs>),
    /// The JSON Schema of a report, a comparison or a check; the tables and metrics of open formats.
    Schema(Later<SchemaArgs>),
    /// What makes a shell complete commands, from what is there.
    Completions(Later<CompletionsArgs>),
    /// Manual pages.
    Manual(Later<ManualArgs>),
    /// What a survey begins to ask where an answer may never come.
    #[command(name = HELPER_WORD, hide = true)]
    AnswerAside,
    /// What `space` begins to look at a path that may never answer.
    #[command(name = SPACE_HELPER_WORD, hide = true)]
    LookAside,
}

/// The word that makes the program a survey's helper.
pub(crate) const HELPER_WORD: &str = "answer-aside";

/// The word that makes the program the helper of `space`.
pub(crate) const SPACE_HELPER_WORD: &str = "look-aside";

/// How long to wait.
#[derive(Debug, Clone, Args)]
pub(crate) struct Patience {
    /// How long one read may take (`500ms`, `2s`).
    #[arg(long, value_name = "TIME", default_value = "2s", value_parser = duration)]
    pub(crate) deadline: Duration,
    /// How long the whole survey may take.
    #[arg(long, value_name = "TIME", default_value = "60s", value_parser = duration)]
    pub(crate) time_limit: Duration,
}

impl Default for Patience {
    fn default() -> Self {
        Self { deadline: Duration::from_secs(2), time_limit: Duration::from_secs(60) }
    }
}

impl Patience {
    /// A plan for a survey of these sections.
    pub(crate) fn plan(&self, sections: Vec<&'static Section>) -> Plan {
        Plan {
            sections,
            access_deadline: self.deadline,
            survey_deadline: self.time_limit,
            ..Plan::default()
        }
    }
}

/// How to print rows.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableFormat {
    /// For people.
    #[default]
    Text,
    /// For programs.
    Json,
    /// A table with a header (RFC 4180).
    Csv,
    /// Markdown, for a ticket or a wiki.
    Markdown,
    /// A page of its own (HTML), its rows to be sorted.
    #[cfg(feature = "html")]
    Html,
}

/// Whether to colour.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Color {
    /// Where the output is a terminal that can.
    #[default]
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// A form of output.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    /// For people.
    #[default]
    Text,
    /// For programs.
    Json,
}

/// How much to print.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, ValueEnum)]
pub(crate) enum Detail {
    /// A line a section.
    Brief,
    /// A sheet; of sections that are named, drawings and tables too.
    #[default]
    Normal,
    /// Everything: missing values, and what follows from each change.
    Full,
}

/// How to write sizes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Units {
    /// As people read them, sizes in powers of 1024: KiB, MiB, GiB.
    #[default]
    Iec,
    /// As people read them, sizes in powers of 1000: kB, MB, GB.
    Si,
    /// Whole numbers of the report's own units: bytes, MHz, thousandths of a degree.
    Exact,
}

fn duration(text: &str) -> Result<Duration, String> {
    let span: SignedDuration =
        text.parse().map_err(|_| "not a time; write it like 500ms, 2s or 1m".to_owned())?;
    Duration::try_from(span).map_err(|_| "a time cannot be negative".to_owned())
}

fn subject() -> impl TypedValueParser<Value = Subject> {
    OsStringValueParser::new().map(|given| Subject::from(given.as_os_str()))
}

#[cfg(test)]
mod tests {
    use std::{fs, path::Path};

    use clap::error::ErrorKind;

    use super::*;

    /// The commands of a page: lines that begin with one, indented or behind a sign, without what a shell does with
    /// what they print.
    fn commands(text: &str) -> Vec<(usize, String)> {
        let mut found = Vec::new();
        for (index, line) in text.lines().enumerate() {
            let bare = line.trim_start();
            if !line.starts_with("    ") && !line.starts_with("$ ") {
                continue;
            }
            let bare = bare.trim_start_matches("$ ").trim_start_matches("sudo ");
            if !bare.starts_with("tectum ") {
                continue;
            }
            let mut words = Vec::new();
            for word in shlex::split(bare).unwrap_or_default() {
                if matches!(word.as_str(), "|" | ">" | "&&" | "&" | "\\" | "…") {
                    break;
                }
                words.push(word);
            }
            found.push((index + 1, shlex::try_join(words.iter().map(String::as_str)).unwrap()));
        }
        found
    }

    /// Every command that the documentation shows is one.
    #[test]
    fn commands_of_the_documentation_are_commands() {
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
        let mut folders = vec![root.join("docs")];
        let mut pages = vec![root.join("README.md"), root.join("CONTRIBUTING.md")];
        while let Some(folder) = folders.pop() {
            for entry in fs::read_dir(folder).unwrap() {
                let path = entry.unwrap().path();
                match path.is_dir() {
                    true => folders.push(path),
                    false if path.extension().is_some_and(|end| end == "md") => pages.push(path),
                    false => {}
                }
            }
        }
        let mut tried = 0;
        for page in pages {
            let text = fs::read_to_string(&page).unwrap();
            for (line, command) in commands(&text) {
                tried += 1;
                let parsed = Cli::try_parse_from(shlex::split(&command).unwrap());
                if let Err(error) = parsed
                    && !matches!(error.kind(), ErrorKind::DisplayHelp | ErrorKind::DisplayVersion)
                {
                    panic!("{}:{line}: {command}: {error}", page.display());
                }
            }
        }
        assert!(tried > 100, "{tried}");
    }
}
