//! Exit statuses, and failures with the status each calls for.

use std::{io, path::PathBuf, process::ExitCode};

use tectum_archive::{named::NameError, store::StoreError, when::NoTime, written::NotToSave};
use tectum_report::{
    document::FileError,
    json::read::ReadError,
    query::{NoSuchField, PathError, SearchError, nearest_name},
    redact::RedactError,
    save::SaveError,
};
use tectum_survey::{
    extra::PatternError,
    source::{ArchiveError, OpenError},
};

/// An exit status. Of several that hold the greatest is told: what was not done hides what was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Status(u8);

/// Done.
pub(crate) const DONE: Status = Status(0);
/// Differences or findings.
pub(crate) const DIFFERENT: Status = Status(1);
/// Something that was asked for is missing.
pub(crate) const MISSING: Status = Status(1);
/// Wrong usage.
pub(crate) const USAGE: Status = Status(2);
/// The work could not be done.
pub(crate) const FAILED: Status = Status(3);

impl From<Status> for ExitCode {
    fn from(status: Status) -> Self {
        Self::from(status.0)
    }
}

impl std::fmt::Display for Status {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.fmt(f)
    }
}

/// Why a command could not do its work.
#[derive(Debug, thiserror::Error)]
pub(crate) enum Failure {
    /// A section that is none.
    #[error("there is no section {given:?}{}; `tectum sections` lists them", nearest(given, known))]
    NoSuchSection { given: String, known: Vec<&'static str> },
    /// Several machines in a form that holds one.
    #[error(
        "the form {form} holds one machine, and {given} are asked for; name one, or a form for several"
    )]
    OneMachine { form: &'static str, given: usize },
    /// More or fewer than two machines where two are compared.
    #[error("a patch turns one inventory into one other, and {given} machines are named; name two")]
    TwoMachines { given: usize },
    /// A part of a patch.
    #[error("a patch is of the whole inventory: leave out --only, --skip and --readings")]
    WholePatch,
    /// A form that needs a file.
    #[error("the form {form} is {what}: name where it goes by --out")]
    NeedsOut { form: &'static str, what: &'static str },
    /// An option of another form.
    #[error("--table chooses among the tables of the form csv; the form here is {0}")]
    NoTables(&'static str),
    /// A table that is none.
    #[error(
        "there is no table {given:?}{}; `tectum schema tables` lists them",
        nearest(given, known)
    )]
    NoSuchTable { given: String, known: Vec<&'static str> },
    /// Something stands where a folder of tables would go.
    #[error("{} is there already; name a folder that is new or empty", .0.display())]
    FolderStands(PathBuf),
    /// A step of the demo that is none.
    #[cfg(feature = "demo")]
    #[error("the demo has steps from 1 to {last}, and no {given}; --list tells them")]
    NoSuchStep { given: usize, last: usize },
    /// A page of the manual that is none.
    #[error("there is no page {given:?} in the manual{}", .nearest.as_ref().map(|name| format!("; the nearest is {name:?}")).unwrap_or_default())]
    NoSuchPage { given: String, nearest: Option<String> },
    /// A folder that could not be written.
    #[error("cannot write {}", .path.display())]
    Unwritable {
        path: PathBuf,
        #[source]
        cause: io::Error,
    },
    /// Nothing left to survey.
    #[error("every section is skipped: nothing is left to survey")]
    NothingLeft,
    /// This program has no made-up machines in it.
    #[cfg(not(feature = "demo"))]
    #[error("this program was built without the made-up machines (feature demo)")]
    WithoutDemo,
    /// A demo machine that is none.
    #[cfg(feature = "demo")]
    #[error(
        "there is no demo machine {given:?}{}; `tectum demo` shows them",
        nearest(given, known)
    )]
    NoSuchDemo { given: String, known: Vec<&'static str> },
    /// Nothing at a path.
    #[error("cannot read {}", .path.display())]
    Subject {
        path: PathBuf,
        #[source]
        cause: io::Error,
    },
    /// A subject that nothing came from.
    #[error("{} did not answer in time", .path.display())]
    NoAnswer { path: PathBuf },
    /// A file too large to be a report.
    #[error("{} is no report: it is longer than {limit} bytes, the most that is read of one", .path.display())]
    TooLarge { path: PathBuf, limit: u64 },
    /// A folder that cannot be a subject.
    #[error(transparent)]
    Open(#[from] OpenError),
    /// An archive that cannot be a subject.
    #[error("{}", .path.display())]
    Archive {
        path: PathBuf,
        #[source]
        cause: ArchiveError,
    },
    /// A kind of identifying text that is none.
    #[error(
        "there is no kind {given:?}{}; `tectum redact --help` lists them",
        nearest(given, known)
    )]
    NoSuchKind { given: String, known: Vec<&'static str> },
    /// A saved report where a machine is needed.
    #[error("{0} is a saved report; a capture needs the machine itself, a folder or a capture")]
    NotAMachine(String),
    /// Files are put into the copy of a capture only.
    #[error(
        "{0} is no capture: only the copy of a capture can hold files as they are; leave out --include"
    )]
    NotACapture(String),
    /// A file that the capture does not hold.
    #[error("{} cannot be put into the copy: {answer}", .path.display())]
    NotCaptured { path: PathBuf, answer: String },
    /// A file that holds no key.
    #[error(transparent)]
    Key(#[from] crate::key::KeyError),
    /// A process of no section.
    #[error("--pid tells one of the processes: write `tectum survey processes --pid N`")]
    PidOfProcesses,
    /// A process of what stands still.
    #[error(
        "{0} stands still: one process is told of the running machine (live) alone; leave out --from or --pid"
    )]
    ProcessStandsStill(String),
    /// A form that has no room for one process.
    #[error("one process is told as text, json, markdown or html, and not as {0}")]
    NoFormOfProcess(&'static str),
    /// A process that cannot be told.
    #[error(transparent)]
    Process(#[from] tectum_survey::process::ProcessError),
    /// A subject that stands still where one that moves is needed.
    #[error(
        "{0} stands still: only the running machine (live) can be watched; leave out --watch-for or --from"
    )]
    StandsStill(String),
    /// A finding that is none.
    #[error(
        "there is no finding {given:?}{}; `tectum check --list` tells them all",
        nearest_of(given, known)
    )]
    NoSuchFinding { given: String, known: Vec<String> },
    /// A file of expectations that says something wrong.
    #[error(transparent)]
    Expectations(#[from] FileError),
    /// An environment variable that sets nothing, or sets it wrongly.
    #[error("{0}")]
    Environment(String),
    /// Settings that belong to somebody else.
    #[error("{} belongs to neither root nor who runs this, and so its settings are not taken", .0.display())]
    OthersSettings(PathBuf),
    /// A file that a person wrote and that cannot be read.
    #[error("{}: {said}", .path.display())]
    Unreadable { path: PathBuf, said: String },
    /// The program could not begin itself again.
    #[error("cannot begin the helper that looks at the path; /proc must be mounted for it")]
    Helper(#[source] io::Error),
    /// A path of which it cannot be told what fills it.
    #[error("{0}")]
    Space(String),
    /// A pattern of what is passed over that is none.
    #[error("{0}")]
    SpaceAsked(String),
    /// A path that no report can have.
    #[error(transparent)]
    NoSuchField(#[from] NoSuchField),
    /// A text that cannot be searched for.
    #[error(transparent)]
    Search(#[from] SearchError),
    /// A text that is no path into a report.
    #[error(transparent)]
    Path(#[from] PathError),
    /// A text that is no pattern for files.
    #[error(transparent)]
    Pattern(#[from] PatternError),
    /// A copy that would not have been fit to share.
    #[error(transparent)]
    Redact(#[from] RedactError),
    /// A file that is no report.
    #[error("{}", .path.display())]
    Report {
        path: PathBuf,
        #[source]
        cause: ReadError,
    },
    /// A file that could not be written.
    #[error(transparent)]
    Save(#[from] SaveError),
    /// A demo tree that could not be written.
    #[cfg(feature = "demo")]
    #[error(transparent)]
    Demo(#[from] tectum_demo::WriteError),
    /// A shipped description that cannot be read: a defect.
    #[cfg(feature = "demo")]
    #[error("the shipped demo machine {name:?} cannot be read: {cause}")]
    DemoDescription { name: &'static str, cause: String },
    /// A temporary folder that could not be made.
    #[cfg(feature = "demo")]
    #[error("cannot make a folder for the demo")]
    Folder(#[source] io::Error),
    /// Something stands where the demo would write.
    #[cfg(feature = "demo")]
    #[error("{} is there already; name a folder that is new or empty", .0.display())]
    DemoStands(PathBuf),
    /// An archive that cannot be read or written.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// A name that leads to no look in the archive.
    #[error(transparent)]
    Name(#[from] NameError),
    /// A subject that is neither on this machine nor in the archive.
    #[error("there is no file or folder {given:?} here")]
    NoSubject {
        given: String,
        #[source]
        cause: Box<Failure>,
    },
    /// A report that an archive cannot keep.
    #[error(transparent)]
    NotToSave(#[from] NotToSave),
    /// Nobody knows where the archive is.
    #[error(
        "nothing says where the archive is; name a place by --archive or the setting archive.location"
    )]
    NoPlaceForArchive,
    /// A text that says no time.
    #[error(transparent)]
    When(#[from] NoTime),
    /// A text that says no length of time.
    #[error("{0:?} is no length of time; write it like 36h, 7d, 4w or 1y")]
    NoAge(String),
    /// A name that no mark can have.
    #[error(
        "{0:?} can be no mark: a mark is a word of lower-case letters, digits and hyphens that begins with a letter, and neither `latest` nor `previous`"
    )]
    NoMark(String),
    /// One subject where two are compared.
    #[error("there is nothing to compare {0} with; name a second subject")]
    NothingToCompareWith(String),
    /// Clearing up that would leave nothing but the last look.
    #[error(
        "no rule would keep more than the last look; say what to keep: --days, --weeks, --months"
    )]
    NothingKept,
    /// Output that could not be written.
    #[error("cannot write the output")]
    Output(#[from] io::Error),
}

fn nearest_of(given: &str, known: &[String]) -> String {
    nearest_name(given, known.iter().map(String::as_str))
        .map(|name| format!("; the nearest is {name:?}"))
        .unwrap_or_default()
}

/// The nearest name in words, if there is one.
fn nearest(given: &str, known: &[&'static str]) -> String {
    nearest_name(given, known.iter().copied())
        .map(|name| format!("; the nearest is {name:?}"))
        .unwrap_or_default()
}

impl Failure {
    /// The exit status it calls for.
    pub(crate) fn status(&self) -> Status {
        match self {
            #[cfg(feature = "demo")]
            Self::NoSuchStep { .. } | Self::NoSuchDemo { .. } => USAGE,
            #[cfg(not(feature = "demo"))]
            Self::WithoutDemo => USAGE,
            Self::NoSuchSection { .. }
            | Self::OneMachine { .. }
            | Self::TwoMachines { .. }
            | Self::WholePatch
            | Self::NeedsOut { .. }
            | Self::NoTables(_)
            | Self::NoSuchPage { .. }
            | Self::NoSuchTable { .. }
            | Self::FolderStands(_)
            | Self::NothingLeft
            | Self::PidOfProcesses
            | Self::ProcessStandsStill(_)
            | Self::NoFormOfProcess(_)
            | Self::SpaceAsked(_)
            | Self::NoSuchKind { .. }
            | Self::NotACapture(_)
            | Self::NoSuchField(_)
            | Self::NoSuchFinding { .. }
            | Self::Expectations(_)
            | Self::Environment(_)
            | Self::Path(_)
            | Self::Pattern(_)
            | Self::StandsStill(_)
            | Self::Name(
                NameError::NoMachine { .. }
                | NameError::Several { .. }
                | NameError::NoLook { .. }
                | NameError::When(_)
                | NameError::Group(_)
                | NameError::Pattern { .. },
            )
            | Self::When(_)
            | Self::NoAge(_)
            | Self::NoMark(_)
            | Self::NothingToCompareWith(_)
            | Self::NothingKept
            | Self::NotAMachine(_) => USAGE,
            _ => FAILED,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn statuses_are_those_that_scripts_rely_on() {
        assert_eq!([DONE, DIFFERENT, USAGE, FAILED].map(|status| status.0), [0, 1, 2, 3]);
    }
}
