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
mod complete;
mod examples;
mod space;
mod survey;

use std::{path::PathBuf, time::Duration};

use clap::{
    Args, Parser, Subcommand, ValueEnum, builder::OsStringValueParser, builder::TypedValueParser,
};

use jiff::SignedDuration;
use tectum_survey::{extra::USUAL_EXTRA_LIMIT, sections::Section, survey::Plan};

pub(crate) use archive::{
    ArchiveArgs, ArchiveCommand, FleetArgs, FleetSort, HistoryArgs, SaveArgs,
};

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
    after_help = "Exit status: 0 done, 1 differences, a value that is missing, or nothing found, 2 wrong usage, 3 could not be done."
)]
pub(crate) struct Cli {
    /// Whether to colour what is printed.
    #[arg(long, value_enum, default_value_t, global = true, value_name = "WHEN")]
    pub(crate) color: Color,
    /// How to write sizes and other quantities [default: iec; for `get`: exact].
    #[arg(long, value_enum, global = true, hide_default_value = true)]
    pub(crate) units: Option<Units>,
    /// Write pages as plain lines: no box, no drawing, no sign without its words; for a screen reader and a log.
    #[arg(long, global = true)]
    pub(crate) plain: bool,
    /// The file of settings, instead of the machine's and the user's.
    #[arg(long, global = true, value_name = "FILE")]
    pub(crate) settings: Option<PathBuf>,
    /// The archive [default: as set, else the machine's for root, the user's for others].
    #[arg(long, global = true, value_name = "LOCATION")]
    pub(crate) archive: Option<String>,
    #[command(subcommand)]
    pub(crate) command: Option<Command>,
}

/// What to do.
#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Look at a machine: print what it is made of, or save it.
    Survey(SurveyArgs),
    /// What changed from A to B; of more than two, which is the odd one.
    Compare(CompareArgs),
    /// What is odd, why it matters, what to do; and whether a machine is as you expect it.
    Check(CheckArgs),
    /// Write down what is expected of a machine, from one as it is.
    Expect(ExpectArgs),
    /// Bare values for scripts, by their paths.
    Get(GetArgs),
    /// Everything that has a word in it: labels, names, values, evidence.
    Find(FindArgs),
    /// Where a value came from, or why it is missing.
    Why(WhyArgs),
    /// What fills a filesystem: the largest folders and files, and what no folder holds.
    Space(SpaceArgs),
    /// File reports and captures that exist already into the archive.
    Save(SaveArgs),
    /// Since when a value is what it is, and where a part has been.
    History(HistoryArgs),
    /// The machines of the archive, a row each; which of them have which value.
    Fleet(FleetArgs),
    /// The archive itself: what is in it, whether it is whole, what is kept.
    Archive(ArchiveArgs),
    /// Keep the raw evidence in one file, to be surveyed anywhere, later.
    Capture(CaptureArgs),
    /// A copy of a report or capture fit to share, its parts still to be matched.
    Redact(RedactArgs),
    /// The whole round on made-up machines, each command shown as it is run.
    Demo(DemoArgs),
    /// The sections of a survey.
    Sections(SectionsArgs),
    /// What is set, what it means, and who set it.
    Settings(SettingsArgs),
    /// The JSON Schema of a report, a comparison or a check; the tables and metrics of open formats.
    Schema(SchemaArgs),
    /// What makes a shell complete commands, from what is there.
    Completions(CompletionsArgs),
    /// Manual pages.
    Manual(ManualArgs),
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

#[derive(Debug, Args)]
#[command(after_long_help = examples::WHY)]
pub(crate) struct WhyArgs {
    /// A path such as `memory.modules.A1.serial`, `storage.disks.*.size_bytes`, `cpu.**`, or a
    /// JSON Pointer.
    #[arg(value_name = "PATH", required = true, add = completed!(paths))]
    pub(crate) paths: Vec<String>,
    /// The machine to look at.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Subject,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: Format,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
#[command(after_long_help = GET_HELP)]
pub(crate) struct GetArgs {
    /// A path such as `memory.modules.*.serial`, `storage.disks[rotating=yes, size>=4TB].serial`,
    /// `storage.disks.*.{model,serial,size}`, or a JSONPath, which begins with `$`.
    #[arg(value_name = "PATH", required = true, add = completed!(paths))]
    pub(crate) paths: Vec<String>,
    /// The machine to look at; may be given again, and then each line begins with whose it is.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// Rows of a table with a header (RFC 4180).
    #[arg(long)]
    pub(crate) csv: bool,
    /// Rows as JSON objects, in a list.
    #[arg(long, conflicts_with = "csv")]
    pub(crate) json: bool,
    /// What stands in the place of a missing value.
    #[arg(long, value_name = "TEXT")]
    pub(crate) null: Option<String>,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::FIND)]
pub(crate) struct FindArgs {
    /// What to look for: words, all of which must be found, whatever their case; amounts are found
    /// however they are written (32GiB, 34359738368).
    #[arg(value_name = "TEXT")]
    pub(crate) text: String,
    /// Where to look; may be given again. A folder of reports and captures stands for all of them.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// TEXT is a pattern with wildcards, for a whole value.
    #[arg(long)]
    pub(crate) pattern: bool,
    /// TEXT is a regular expression.
    #[arg(long, conflicts_with = "pattern")]
    pub(crate) regex: bool,
    /// Only in what this section or path names; may be given again.
    #[arg(long, value_name = "SECTION|PATH", add = completed!(paths))]
    pub(crate) only: Vec<String>,
    /// Print how much was found in each, and nothing else.
    #[arg(long)]
    pub(crate) count: bool,
    /// One JSON object a line, as it is found.
    #[arg(long)]
    pub(crate) json: bool,
    #[command(flatten)]
    pub(crate) patience: Patience,
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

/// What stands beneath the help of `get`.
const GET_HELP: &str = "\
Parts of a path are field names, with the unit at their end or without (`size`, `size_bytes`), and for
an element of a list its number or what it is called. `*` stands for any of them, `**` for any number.
Conditions in brackets choose among the elements of a list: = != < <= > >= and ~ for a pattern with
wildcards; amounts as people write them (4TB, 32GiB, 2.5GHz), yes and no, texts in quotes where they
hold a comma or a bracket.

Values are exact: whole numbers of the unit in the field's name, unless --units says otherwise. What is
missing is told on standard error, with its reason, and the status is then 1; a part that is not there
is no error.

  tectum get memory.modules.A1.size
  tectum get 'storage.disks[rotating=yes, size>=4TB].serial' --from demo:gannet-before
  tectum get 'storage.disks.*.{model,serial,size}' --csv --from yesterday.json --from today.json";

#[derive(Debug, Args)]
#[command(after_long_help = examples::CAPTURE)]
pub(crate) struct CaptureArgs {
    /// Where to write it (`-` for standard output); its SHA-256 is written beside it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: PathBuf,
    /// The machine to capture.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Subject,
    /// Keep what this section reads too, which is surveyed only where it is named (`processes`).
    #[arg(long, value_name = "SECTION", add = completed!(sections, all))]
    pub(crate) with: Vec<String>,
    /// Another file to keep, by absolute path or pattern; may be given again.
    #[arg(long, value_name = "PATTERN")]
    pub(crate) also: Vec<String>,
    /// The most bytes to keep of each such file.
    #[arg(long, value_name = "BYTES", default_value_t = USUAL_EXTRA_LIMIT)]
    pub(crate) also_limit: usize,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::REDACT)]
pub(crate) struct RedactArgs {
    /// The report or capture to copy.
    #[arg(value_name = "SUBJECT", value_parser = subject(), add = completed!(subjects), required_unless_present = "make_key")]
    pub(crate) from: Option<Subject>,
    /// Where to write the copy (`-` for standard output).
    #[arg(long, value_name = "FILE", required_unless_present = "make_key")]
    pub(crate) out: Option<PathBuf>,
    /// A file that holds the key: the same key gives the same pseudonyms, so that copies can be
    /// compared (without one a fresh key is used and forgotten).
    #[arg(long, value_name = "FILE")]
    pub(crate) key: Option<PathBuf>,
    /// Make a key and write it here, for its owner only; nothing else is done.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["from", "out", "key", "keep", "include"])]
    pub(crate) make_key: Option<PathBuf>,
    /// How the copy of a report says where its values are from.
    #[arg(long, value_enum, default_value_t, value_name = "FORM")]
    pub(crate) evidence: EvidenceForm,
    /// A captured file to put into the copy of a capture as it is; may be given again.
    #[arg(long, value_name = "PATH")]
    pub(crate) include: Vec<PathBuf>,
    /// A kind of text to leave as it is; may be given again.
    #[arg(long, value_name = "KIND")]
    pub(crate) keep: Vec<String>,
}

#[derive(Debug, Args)]
pub(crate) struct SectionsArgs {
    /// List every path that a survey may ask for.
    #[arg(long, conflicts_with = "fields")]
    pub(crate) paths: bool,
    /// List every value there is to ask for, or those beneath a path: what it means, its unit, where
    /// it is from, and whether the machine has it.
    #[arg(long, value_name = "PATH", num_args = 0..=1, add = completed!(paths))]
    pub(crate) fields: Option<Option<String>>,
    /// The machine to look at for its values.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects), requires = "fields")]
    pub(crate) from: Subject,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
pub(crate) struct SchemaArgs {
    /// Of what.
    #[arg(value_enum, default_value_t)]
    pub(crate) of: Form,
}

/// A form that has a schema.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Form {
    /// What `survey` saves.
    #[default]
    Report,
    /// What `compare --format json` prints.
    Comparison,
    /// What `check --format json` prints.
    Check,
    /// What `space --format json` prints.
    Space,
    /// What `survey processes --pid N --format json` prints.
    Process,
    /// The tables of the forms csv and json-lines, with their columns.
    Tables,
    /// The metrics of the form openmetrics.
    Metrics,
    /// What makes the database of the form sqlite, in SQL.
    #[cfg(feature = "sqlite")]
    Database,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::COMPARE)]
pub(crate) struct CompareArgs {
    /// The state before.
    #[arg(value_name = "A", value_parser = subject(), add = completed!(subjects))]
    pub(crate) before: Subject,
    /// The state after; a pattern (`tide-*`) or a folder of reports may stand for more than two.
    #[arg(value_name = "B", value_parser = subject(), add = completed!(subjects))]
    pub(crate) after: Option<Subject>,
    /// More machines: then what most have in common is told, and which are odd.
    #[arg(value_name = "MORE", value_parser = subject(), add = completed!(subjects))]
    pub(crate) more: Vec<Subject>,
    /// Of more than two, hold those against each other that have the same at this path.
    #[arg(long, value_name = "PATH", default_value = "platform.system.product")]
    pub(crate) alike: String,
    /// Compare what moves by itself too: free memory, frequencies, times.
    #[arg(long)]
    pub(crate) readings: bool,
    /// Only what this path names (`memory.modules`, `**.serial`); may be given again.
    #[arg(long, value_name = "PATH", add = completed!(paths))]
    pub(crate) only: Vec<String>,
    /// Not what this path names; may be given again.
    #[arg(long, value_name = "PATH", add = completed!(paths))]
    pub(crate) skip: Vec<String>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: CompareFormat,
    /// Save it here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// How much to print.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) detail: Detail,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// How to print a comparison.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum CompareFormat {
    /// For people.
    #[default]
    Text,
    /// For programs (`tectum schema comparison`).
    Json,
    /// What turns the inventory of A into that of B (JSON Patch, RFC 6902).
    JsonPatch,
    /// Markdown, for a ticket or a wiki.
    Markdown,
    /// A page of its own (HTML).
    #[cfg(feature = "html")]
    Html,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::CHECK)]
pub(crate) struct CheckArgs {
    /// The machines to check (this one, if none is named); a folder of reports stands for all of them.
    #[arg(value_name = "SUBJECT", value_parser = subject(), add = completed!(subjects))]
    pub(crate) subjects: Vec<Subject>,
    /// A machine to check, as other commands take it; may be given again.
    #[arg(long, value_name = "SUBJECT", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Vec<Subject>,
    /// Hold them against the expectations in this file too; may be given again.
    #[arg(long, value_name = "FILE")]
    pub(crate) expect: Vec<PathBuf>,
    /// Hold them against the expectations alone, and look for nothing else.
    #[arg(long)]
    pub(crate) without_rules: bool,
    /// Only this finding; may be given again.
    #[arg(long, add = completed!(findings, all), value_name = "FINDING")]
    pub(crate) only: Vec<String>,
    /// Not this finding; may be given again.
    #[arg(long, add = completed!(findings, all), value_name = "FINDING")]
    pub(crate) skip: Vec<String>,
    /// Exit with status 1 if anything so grave or graver is found.
    /// [default: as set, else warning].
    #[arg(long, value_name = "SEVERITY", value_enum)]
    pub(crate) fail_on: Option<FailOn>,
    /// How to print it.
    #[arg(long, value_enum, default_value_t)]
    pub(crate) format: CheckFormat,
    /// Save it here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// Tell everything that could not be judged, and why.
    #[arg(long)]
    pub(crate) not_judged: bool,
    /// Tell what there is to be found, and look at no machine.
    #[arg(long)]
    pub(crate) list: bool,
    /// Tell all about a finding, and what of the machine it reads or selects.
    #[arg(long, add = completed!(findings, all), value_name = "FINDING", conflicts_with = "list")]
    pub(crate) explain: Option<String>,
    #[command(flatten)]
    pub(crate) patience: Patience,
    /// Say nothing on standard error but errors.
    #[arg(long)]
    pub(crate) quiet: bool,
}

/// From which severity on a check fails.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    /// Whatever is found.
    Notice,
    /// A warning or worse.
    Warning,
    /// Something critical.
    Critical,
    /// Nothing that is found.
    Never,
}

/// How to print what was found.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    /// For people.
    #[default]
    Text,
    /// JSON (`tectum schema check`).
    Json,
    /// JUnit XML, for what shows the results of tests.
    Junit,
    /// SARIF 2.1.0, for what collects findings.
    Sarif,
    /// Markdown, for a ticket or a wiki.
    Markdown,
    /// A page of its own (HTML).
    #[cfg(feature = "html")]
    Html,
}

#[derive(Debug, Args)]
pub(crate) struct SettingsArgs {
    /// Only say whether all is well with them.
    #[arg(long)]
    pub(crate) check: bool,
}

#[derive(Debug, Args)]
#[command(after_long_help = examples::EXPECT)]
pub(crate) struct ExpectArgs {
    /// The machine as it should be.
    #[arg(long, value_name = "SUBJECT", default_value = "live", value_parser = subject(), add = completed!(subjects))]
    pub(crate) from: Subject,
    /// Expect its serial numbers and other identities too.
    #[arg(long)]
    pub(crate) identities: bool,
    /// Write the file here instead of printing it.
    #[arg(long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) patience: Patience,
}

#[derive(Debug, Args)]
pub(crate) struct DemoArgs {
    /// Leave the machines and reports in this folder (else they go when the demo ends).
    #[arg(long, value_name = "FOLDER")]
    pub(crate) keep: Option<PathBuf>,
    /// Only tell the steps.
    #[arg(long, conflicts_with_all = ["keep", "step"])]
    pub(crate) list: bool,
    /// Only this step.
    #[arg(long, value_name = "NUMBER")]
    pub(crate) step: Option<usize>,
}

#[derive(Debug, Args)]
#[command(after_help = examples::COMPLETIONS)]
pub(crate) struct CompletionsArgs {
    /// The shell.
    #[arg(value_enum)]
    pub(crate) shell: Shell,
}

/// A shell that completes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Shell {
    Bash,
    Zsh,
    Fish,
}

#[derive(Debug, Args)]
#[command(after_help = examples::MANUAL)]
pub(crate) struct ManualArgs {
    /// The page of this command (`survey`, `archive`), or `tectum.toml`, or `formats`; of the program, if none is named.
    #[arg(value_name = "PAGE")]
    pub(crate) page: Option<String>,
    /// Write all pages into this folder.
    #[arg(long, value_name = "FOLDER", conflicts_with = "page")]
    pub(crate) out: Option<PathBuf>,
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
