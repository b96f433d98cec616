//! Subjects: where a machine is read from.

use std::{
    fs::File,
    io::Read,
    path::{Path, PathBuf},
    sync::Arc,
};

use jiff::Timestamp;
use tectum_core::{
    report::{Report, Taken, read::SIZE_LIMIT},
    sections::{SECTIONS, Section, named},
    source::{Door, Tree},
    survey::{Event, Plan, survey},
};
use tectum_demo::{MACHINES, Shipped};

use crate::exit::Failure;

/// The name of the tool, as reports carry it.
const TOOL: &str = concat!("tectum ", env!("CARGO_PKG_VERSION"));

/// A subject as the user names it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Subject {
    /// This machine.
    Live,
    /// A machine that ships with Tectum.
    Demo(String),
    /// A folder that stands in for `/`, or a saved report.
    Path(PathBuf),
}

impl From<&std::ffi::OsStr> for Subject {
    fn from(given: &std::ffi::OsStr) -> Self {
        match given.to_str() {
            Some("live") => Self::Live,
            Some(text) => match text.strip_prefix("demo:") {
                Some(name) => Self::Demo(name.to_owned()),
                None => Self::Path(given.into()),
            },
            None => Self::Path(given.into()),
        }
    }
}

impl Subject {
    /// The subject as reports and messages name it.
    pub(crate) fn text(&self) -> String {
        match self {
            Self::Live => "live".to_owned(),
            Self::Demo(name) => format!("demo:{name}"),
            Self::Path(path) => path.display().to_string(),
        }
    }
}

/// The sections that a command line asks for: those named, or all, but for those to skip.
pub(crate) fn sections(only: &[String], skip: &[String]) -> Result<Vec<&'static Section>, Failure> {
    let known = |name: &String| {
        named(name).map(|section| section.name).ok_or_else(|| Failure::NoSuchSection {
            given: name.clone(),
            known: SECTIONS.iter().map(|section| section.name).collect(),
        })
    };
    let only: Vec<&str> = only.iter().map(known).collect::<Result<_, _>>()?;
    let skip: Vec<&str> = skip.iter().map(known).collect::<Result<_, _>>()?;
    let chosen: Vec<_> = SECTIONS
        .iter()
        .filter(|section| only.is_empty() || only.contains(&section.name))
        .filter(|section| !skip.contains(&section.name))
        .collect();
    if chosen.is_empty() { Err(Failure::NothingLeft) } else { Ok(chosen) }
}

/// The report of a subject: surveyed now, or read from where it was saved.
pub(crate) fn report(
    subject: &Subject,
    sections: &[&'static Section],
    tell: &mut dyn FnMut(Event),
) -> Result<Report, Failure> {
    match subject {
        Subject::Live => Ok(surveyed(&Door::new(Tree::live()?), subject, sections, tell)),
        Subject::Demo(name) => {
            let shipped = Shipped::named(name).ok_or_else(|| Failure::NoSuchDemo {
                given: name.clone(),
                known: MACHINES.iter().map(|machine| machine.name).collect(),
            })?;
            let folder = tempfile::tempdir().map_err(Failure::Folder)?;
            write_demo(shipped, folder.path())?;
            Ok(surveyed(&Door::new(Tree::folder(folder.path())?), subject, sections, tell))
        }
        Subject::Path(path) if path.is_dir() => {
            Ok(surveyed(&Door::new(Tree::folder(path)?), subject, sections, tell))
        }
        Subject::Path(path) => {
            let mut report = saved(path)?;
            report.keep_sections(&sections.iter().map(|section| section.name).collect::<Vec<_>>());
            Ok(report)
        }
    }
}

/// Writes a demo machine into a folder.
pub(crate) fn write_demo(shipped: &'static Shipped, folder: &Path) -> Result<(), Failure> {
    let machine = shipped.machine().map_err(|error| Failure::DemoDescription {
        name: shipped.name,
        cause: error.to_string(),
    })?;
    Ok(tectum_demo::Tree::of(&machine).write(folder)?)
}

fn surveyed(
    door: &Arc<Door>,
    subject: &Subject,
    sections: &[&'static Section],
    tell: &mut dyn FnMut(Event),
) -> Report {
    let plan = Plan { sections: sections.to_vec(), ..Plan::default() };
    let at = Timestamp::now();
    let result = survey(door, &plan, tell);
    let taken = Taken {
        // Finer than a second means nothing to a reader.
        at: Timestamp::from_second(at.as_second()).unwrap_or(at),
        tool: TOOL.to_owned(),
        subject: subject.text(),
        privileged: door.is_privileged(),
        sections: sections.iter().map(|section| section.name.to_owned()).collect(),
        elapsed_ms: u64::try_from(result.elapsed.as_millis()).unwrap_or(u64::MAX),
    };
    Report::new(result, taken)
}

fn saved(path: &Path) -> Result<Report, Failure> {
    let failed = |cause| Failure::Subject { path: path.to_owned(), cause };
    let file = File::open(path).map_err(failed)?;
    let mut text = Vec::new();
    file.take(SIZE_LIMIT + 1).read_to_end(&mut text).map_err(failed)?;
    if text.len() as u64 > SIZE_LIMIT {
        let bytes = std::fs::metadata(path).map_or(text.len() as u64, |about| about.len());
        return Err(Failure::TooLarge { path: path.to_owned(), bytes, limit: SIZE_LIMIT });
    }
    Report::from_json(&text).map_err(|cause| Failure::Report { path: path.to_owned(), cause })
}
