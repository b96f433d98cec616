//! Subjects: where a machine is read from.

use std::{
    collections::BTreeSet,
    fs::File,
    io::{BufReader, Read},
    path::{Path, PathBuf},
    sync::{Arc, OnceLock},
};

use jiff::Timestamp;
use tectum_archive::{
    named::{NameError, Named, entry, stands_for_several},
    store::{StoreError, look},
    when::now,
};
#[cfg(feature = "demo")]
use tectum_demo::{MACHINES, Shipped};
pub(crate) use tectum_report::json::origins::Depth;
use tectum_report::{
    json::{read::SIZE_LIMIT, wanted::Wanted},
    query::Path as ReportPath,
    report::{Note, Report, Taken},
};
use tectum_survey::{
    sections::{ON_REQUEST, SECTIONS, Section, named},
    source::{ARCHIVE_LIMIT, Archive, Door, Helper, Packing, Tree},
    survey::{Event, Plan, clock_of_recorded, survey},
};

use crate::{
    archive,
    args::{HELPER_WORD, Patience},
    exit::Failure,
    patient::{Progress, within},
};

/// The name of the tool, as reports carry it.
pub(crate) const TOOL: &str = concat!("tectum ", env!("CARGO_PKG_VERSION"));

/// A subject as the user names it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Subject {
    /// This machine.
    Live,
    /// A machine that ships with Tectum.
    Demo(String),
    /// A folder that stands in for `/`, a capture, or a saved report.
    Path(PathBuf),
    /// A machine of the archive and when, by a name that nothing here has; a pattern stands for several.
    Named(Named),
    /// A look at a machine that was found in the archive.
    Look(Box<Look>),
}

/// A look at a machine that was found in the archive.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Look {
    /// The archive's key for the machine.
    machine: String,
    /// The observation's number.
    number: u64,
    /// What a person calls it.
    name: String,
}

impl From<&std::ffi::OsStr> for Subject {
    fn from(given: &std::ffi::OsStr) -> Self {
        match given.to_str() {
            Some("live") => Self::Live,
            Some(text) => match text.strip_prefix("demo:") {
                Some(name) => Self::Demo(name.to_owned()),
                // What stands here comes before what is called so in the archive.
                None if text.is_empty()
                    || text.contains('/')
                    || Path::new(text).symlink_metadata().is_ok() =>
                {
                    Self::Path(given.into())
                }
                None => Self::Named(Named::read(text)),
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
            Self::Named(Named { machine, when: Some(when) }) => format!("{machine}@{when}"),
            Self::Named(Named { machine, when: None }) => machine.clone(),
            Self::Look(look) => look.name.clone(),
        }
    }
}

/// The sections that a command line asks for: those named, or all, but for those to skip.
pub(crate) fn sections(only: &[String], skip: &[String]) -> Result<Vec<&'static Section>, Failure> {
    let known = |name: &String| {
        named(name).map(|section| section.name).ok_or_else(|| Failure::NoSuchSection {
            given: name.clone(),
            known: SECTIONS.iter().chain(ON_REQUEST).map(|section| section.name).collect(),
        })
    };
    let only: Vec<&str> = only.iter().map(known).collect::<Result<_, _>>()?;
    let skip: Vec<&str> = skip.iter().map(known).collect::<Result<_, _>>()?;
    let named_only = ON_REQUEST.iter().filter(|section| only.contains(&section.name));
    let chosen: Vec<_> = SECTIONS
        .iter()
        .filter(|section| only.is_empty() || only.contains(&section.name))
        .chain(named_only)
        .filter(|section| !skip.contains(&section.name))
        .collect();
    if chosen.is_empty() { Err(Failure::NothingLeft) } else { Ok(chosen) }
}

/// All sections, and of those that are surveyed only where they are named what a path begins with.
pub(crate) fn sections_for<'a>(
    paths: impl IntoIterator<Item = &'a ReportPath>,
) -> Vec<&'static Section> {
    let mut chosen: Vec<&'static Section> = SECTIONS.iter().collect();
    for path in paths {
        let named = ON_REQUEST.iter().filter(|section| path.begins_with(section.name));
        for section in named {
            if !chosen.iter().any(|own| own.name == section.name) {
                chosen.push(section);
            }
        }
    }
    chosen
}

/// A path into a report, which some report can have.
pub(crate) fn path(given: &str) -> Result<ReportPath, Failure> {
    let path: ReportPath = given.parse()?;
    path.check()?;
    Ok(path)
}

/// The subjects that a subject stands for: the reports and captures in a folder that is no machine's,
/// in the order of their names, or itself.
pub(crate) fn subjects_in(subject: &Subject, patience: &Patience) -> Result<Vec<Subject>, Failure> {
    let folder = match subject {
        Subject::Path(folder) => folder.clone(),
        Subject::Named(named) if stands_for_several(&named.machine) => {
            return looks(named);
        }
        _ => return Ok(vec![subject.clone()]),
    };
    if is_file_here(&folder)? {
        return Ok(vec![subject.clone()]);
    }
    let own = folder.clone();
    let found = within(patience, move |_| reports_in(&own));
    let paths = found.unwrap_or_else(|| Err(Failure::NoAnswer { path: folder }))?;
    // A folder without any is a machine's, if it is anything.
    match paths.is_empty() {
        true => Ok(vec![subject.clone()]),
        false => Ok(paths.into_iter().map(Subject::Path).collect()),
    }
}

/// Whether a path leads to a file on this machine's own filesystems: to look at it nobody is waited for. The kernel
/// shows as files of no length what may wait for something to happen.
fn is_file_here(path: &Path) -> Result<bool, Failure> {
    let is_kept = |stands: std::fs::Metadata| stands.is_file() && stands.len() > 0;
    Ok(!is_elsewhere(path)? && path.metadata().is_ok_and(is_kept))
}

/// Whether a path leads to where an answer may never come.
fn is_elsewhere(path: &Path) -> Result<bool, Failure> {
    /// What is mounted where does not change while the program looks at what it was given.
    static HERE: OnceLock<Tree> = OnceLock::new();
    let here = match HERE.get() {
        Some(here) => here,
        None => {
            let here = live()?;
            HERE.get_or_init(|| here)
        }
    };
    let failed = |cause| Failure::Subject { path: path.to_owned(), cause };
    Ok(here.is_elsewhere(&std::path::absolute(path).map_err(failed)?))
}

/// The files in a folder that reports and captures have names like; nothing where it is no folder, or a machine's.
fn reports_in(folder: &Path) -> Result<Vec<PathBuf>, Failure> {
    let failed = |cause| Failure::Subject { path: folder.to_owned(), cause };
    let is_named = |path: &Path| {
        let kind = path.extension().and_then(std::ffi::OsStr::to_str).unwrap_or_default();
        matches!(kind, "json" | "zst" | "gz" | "tar" | "tgz")
    };
    let of_a_machine = ["proc", "sys", "etc"];
    let mut paths = Vec::new();
    // Where an answer may never come, the helper asks first.
    if is_elsewhere(folder)? {
        let whole = std::path::absolute(folder).map_err(failed)?;
        let Ok((names, cut)) = Door::new(live()?).lease().list(&whole) else { return Ok(paths) };
        if cut {
            return Err(failed(std::io::Error::other("it holds more names than are listed")));
        }
        if !names.iter().any(|name| of_a_machine.iter().any(|own| name.as_os_str() == *own)) {
            paths.extend(names.iter().map(|name| folder.join(name)).filter(|path| is_named(path)));
        }
    } else if folder.is_dir() && !of_a_machine.iter().any(|name| folder.join(name).is_dir()) {
        for entry in std::fs::read_dir(folder).map_err(failed)? {
            let path = entry.map_err(failed)?.path();
            if is_named(&path) && path.is_file() {
                paths.push(path);
            }
        }
    }
    paths.sort();
    Ok(paths)
}

/// The looks at the machines of the archive that fit a pattern.
fn looks(pattern: &Named) -> Result<Vec<Subject>, Failure> {
    let store = archive::store()?;
    let now = now();
    let mut looks = Vec::new();
    for latest in archive::machines(std::slice::from_ref(&pattern.machine))? {
        let entry = match entry(store, &latest.machine, pattern.when.as_deref(), &now) {
            // Of many some were not looked at then.
            Err(NameError::NoLook { .. }) => continue,
            entry => entry?,
        };
        let name = match &pattern.when {
            Some(when) => format!("{}@{when}", latest.name()),
            None => latest.name(),
        };
        let look = Look { machine: latest.machine, number: entry.number, name };
        looks.push(Subject::Look(Box::new(look)));
    }
    Ok(looks)
}

/// The report of a look in the archive.
fn archived(subject: &Subject, depth: Depth) -> Result<Report, Failure> {
    Ok(match subject {
        Subject::Look(own) => {
            let mut report = look(archive::store()?, &own.machine, own.number, depth)?;
            report.taken.subject.clone_from(&own.name);
            report
        }
        Subject::Named(named) => {
            let found =
                archive::store().and_then(|store| Ok(named.report(store, &now(), depth)?));
            found.map_err(|cause| match cause {
                // It may have been meant as a file, as well as a machine.
                Failure::Store(StoreError::Nothing { .. })
                | Failure::Name(NameError::NoMachine { .. }) => {
                    Failure::NoSubject { given: subject.text(), cause: Box::new(cause) }
                }
                other => other,
            })?
        }
        Subject::Live | Subject::Demo(_) | Subject::Path(_) => {
            return Err(Failure::NotAMachine(subject.text()));
        }
    })
}

/// Whose a report is, as lines of several begin: the host's name; one machine on two days is told apart
/// by what it was read from.
pub(crate) fn name_of(report: &Report, subject: &Subject, seen: &mut BTreeSet<String>) -> String {
    name_among(report.machine.hostname.value().map(|name| name.0.clone()), subject, seen)
}

/// The same of a machine whose host name is all that is left of its report.
pub(crate) fn name_among(
    host: Option<String>,
    subject: &Subject,
    seen: &mut BTreeSet<String>,
) -> String {
    let host = host.unwrap_or_else(|| subject.text());
    match seen.insert(host.clone()) {
        true => host,
        false => format!("{host} ({})", subject.text()),
    }
}

/// How much of a saved report is read.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Want<'a> {
    /// How much of where values are from.
    depth: Depth,
    /// Whether what moves by itself is.
    readings: bool,
    /// What these paths may name; everything, if there are none.
    paths: &'a [ReportPath],
    /// Of those that are surveyed these sections alone; all, if nothing is said.
    sections: Option<&'a [&'static str]>,
}

impl From<Depth> for Want<'_> {
    fn from(depth: Depth) -> Self {
        Self { depth, readings: true, paths: &[], sections: None }
    }
}

impl<'a> Want<'a> {
    /// What some paths may name.
    pub(crate) fn named(depth: Depth, paths: &'a [ReportPath]) -> Self {
        Self { depth, readings: true, paths, sections: None }
    }

    /// What is compared: the inventory, with the reasons why values are missing, and readings if they are too.
    pub(crate) fn compared(readings: bool) -> Self {
        Self { depth: Depth::Reasons, readings, paths: &[], sections: None }
    }

    /// The same, of some sections alone.
    pub(crate) fn of_sections(self, sections: Option<&'a [&'static str]>) -> Self {
        Self { sections, ..self }
    }
}

/// What a subject turned out to be.
pub(crate) enum Opened {
    /// A machine that can be surveyed.
    Machine(Arc<Door>),
    /// A saved report.
    Report(Box<Report>),
}

/// A subject that was opened.
pub(crate) struct Open {
    /// What it turned out to be.
    pub(crate) what: Opened,
    /// Holds a demo machine's files as long as they are read.
    #[cfg(feature = "demo")]
    _folder: Option<tempfile::TempDir>,
}

impl Open {
    fn of(what: Opened) -> Self {
        Self {
            what,
            #[cfg(feature = "demo")]
            _folder: None,
        }
    }
}

/// Opens a subject.
pub(crate) fn open(subject: &Subject, patience: &Patience, depth: Depth) -> Result<Open, Failure> {
    Begun::of(subject, patience)?.open(depth.into(), None)
}

/// A subject, looked at as far as is needed to know what stands there: what stands at a path may be a pipe, which
/// gives what it holds once.
pub(crate) struct Begun<'a> {
    subject: &'a Subject,
    /// What stands at its path, if it is one.
    stands: Option<(&'a Path, Stands)>,
}

impl<'a> Begun<'a> {
    /// Looks what stands there.
    pub(crate) fn of(subject: &'a Subject, patience: &Patience) -> Result<Self, Failure> {
        let Subject::Path(path) = subject else { return Ok(Self { subject, stands: None }) };
        let stands = if is_file_here(path)? {
            at_path(path, None)?
        } else {
            let own = path.clone();
            let taken = within(patience, move |progress| at_path(&own, Some(progress)));
            taken.unwrap_or_else(|| Err(Failure::NoAnswer { path: path.clone() }))?
        };
        Ok(Self { subject, stands: Some((path, stands)) })
    }

    /// The text of a saved report.
    pub(crate) fn text(&self) -> Option<&[u8]> {
        match &self.stands {
            Some((_, Stands::Text(text))) => Some(text),
            Some((_, Stands::Machine(_))) | None => None,
        }
    }

    /// Opens it, for some sections alone if any are named.
    fn open(self, want: Want<'_>, sections: Option<&[&'static str]>) -> Result<Open, Failure> {
        let what = match (self.subject, self.stands) {
            (_, Some((_, Stands::Machine(door)))) => Opened::Machine(door),
            (_, Some((path, Stands::Text(text)))) => {
                let Want { depth, readings, paths, .. } = want;
                let wanted = Wanted { depth, sections, readings, paths };
                let read = Report::wanted_from_json(&text, &wanted);
                let path = || path.to_owned();
                Opened::Report(Box::new(
                    read.map_err(|cause| Failure::Report { path: path(), cause })?,
                ))
            }
            #[cfg(not(feature = "demo"))]
            (Subject::Demo(_), None) => return Err(Failure::WithoutDemo),
            #[cfg(feature = "demo")]
            (Subject::Demo(name), None) => return demo(name),
            (Subject::Live, None) => Opened::Machine(Door::new(live()?)),
            (subject, None) => Opened::Report(Box::new(archived(subject, want.depth)?)),
        };
        Ok(Open::of(what))
    }

    /// Its report: surveyed now, or read from where it was saved.
    pub(crate) fn report(
        self,
        plan: &Plan,
        want: Want<'_>,
        tell: &mut dyn FnMut(Event),
    ) -> Result<Report, Failure> {
        let subject = self.subject;
        let names: Vec<&'static str> = plan.sections.iter().map(|section| section.name).collect();
        let all = names.len() == SECTIONS.len();
        let some = want.sections.or_else(|| (!all).then_some(names.as_slice()));
        let opened = self.open(want, some)?;
        match opened.what {
            Opened::Machine(door) => {
                let plan = Plan { forget: true, ..plan.clone() };
                Ok(surveyed(&door, subject, &plan, tell))
            }
            Opened::Report(mut report) => {
                // What was saved beyond them is there to be asked for too.
                if let Some(some) = some {
                    report.keep_sections(some);
                }
                Ok(*report)
            }
        }
    }
}

/// The patience of a plan.
pub(crate) fn patience_of(plan: &Plan) -> Patience {
    Patience { deadline: plan.access_deadline, time_limit: plan.survey_deadline }
}

/// The report of a subject: surveyed now, or read from where it was saved.
pub(crate) fn report<'a>(
    subject: &Subject,
    plan: &Plan,
    want: impl Into<Want<'a>>,
    tell: &mut dyn FnMut(Event),
) -> Result<Report, Failure> {
    Begun::of(subject, &patience_of(plan))?.report(plan, want.into(), tell)
}

/// Opens a machine that ships with the program.
#[cfg(feature = "demo")]
fn demo(name: &str) -> Result<Open, Failure> {
    let shipped = Shipped::named(name).ok_or_else(|| Failure::NoSuchDemo {
        given: name.to_owned(),
        known: MACHINES.iter().map(|machine| machine.name).collect(),
    })?;
    let folder = crate::demo_folder::folder_of_machines().map_err(Failure::Folder)?;
    write_demo(shipped, folder.path())?;
    let tree = Tree::folder(folder.path())?;
    Ok(Open { what: Opened::Machine(Door::new(tree)), _folder: Some(folder) })
}

/// This machine, with this program as the helper that asks where an answer may never come.
fn live() -> Result<Tree, Failure> {
    Ok(match std::env::current_exe() {
        Ok(program) => Tree::live_with(Helper { program, word: HELPER_WORD })?,
        // Without itself it asks by itself.
        Err(_) => Tree::live()?,
    })
}

/// Writes a demo machine into a folder.
#[cfg(feature = "demo")]
pub(crate) fn write_demo(shipped: &'static Shipped, folder: &Path) -> Result<(), Failure> {
    let machine = shipped.machine().map_err(|error| Failure::DemoDescription {
        name: shipped.name,
        cause: error.to_string(),
    })?;
    Ok(tectum_demo::Tree::of(&machine).write(folder)?)
}

/// The report of a survey.
pub(crate) fn surveyed(
    door: &Arc<Door>,
    subject: &Subject,
    plan: &Plan,
    tell: &mut dyn FnMut(Event),
) -> Report {
    let now = Timestamp::now();
    let result = survey(door, plan, tell);
    let told = door.taken_at();
    // A demo machine is there now, whatever its files say.
    let may_be_recorded = told.is_none() && matches!(subject, Subject::Path(_));
    let own_clock = may_be_recorded.then(|| clock_of_recorded(door)).flatten();
    // One that is ahead was not set.
    let own_clock = own_clock.filter(|at| *at <= now);
    let at = told.or(own_clock).unwrap_or(now);
    let taken = Taken {
        // Finer than a second means nothing to a reader.
        at: Timestamp::from_second(at.as_second()).unwrap_or(at),
        tool: TOOL.to_owned(),
        subject: subject.text(),
        privileged: door.is_privileged(),
        sections: plan.sections.iter().map(|section| section.name.to_owned()).collect(),
        elapsed_ms: u64::try_from(result.elapsed.as_millis()).unwrap_or(u64::MAX),
    };
    let mut report = result.into_report(taken);
    if own_clock.is_some() {
        report.notes.push(Note::TimeByOwnClock);
    }
    report
}

/// What stands at a path: a folder, a capture or other archive by its first bytes, else a saved report.
///
/// Where an answer may never come, the helper asks first; where one surely comes, nobody waits and nothing is told of
/// what was got on with.
fn at_path(path: &Path, progress: Option<&Progress>) -> Result<Stands, Failure> {
    let failed = |cause| Failure::Subject { path: path.to_owned(), cause };
    if is_elsewhere(path)? {
        let whole = std::path::absolute(path).map_err(failed)?;
        let lease = Door::new(live()?).lease();
        if lease.list(&whole).is_err() {
            let limit = usize::try_from(ARCHIVE_LIMIT).unwrap_or(usize::MAX);
            let content = lease
                .read(&whole, limit)
                .map_err(|error| failed(std::io::Error::other(error.outcome.to_string())))?;
            return file(path, &content.bytes[..], content.bytes.len() as u64);
        }
    }
    let stands = std::fs::metadata(path).map_err(failed)?;
    if stands.is_dir() {
        return Ok(Stands::Machine(Door::new(Tree::folder(path)?)));
    }
    let open = || File::open(path).map_err(failed);
    let Some(progress) = progress else { return file(path, open()?, stands.len()) };
    if !stands.is_file() {
        progress.waits_for_a_program();
    }
    file(path, progress.reading(open()?), stands.len())
}

/// What stands at a path, with all that may have to be waited for done.
enum Stands {
    /// A machine, as a folder or a capture.
    Machine(Arc<Door>),
    /// The text of what is a report, if anything.
    Text(Vec<u8>),
}

/// What a file of about so many bytes holds.
fn file(path: &Path, mut from: impl Read, length: u64) -> Result<Stands, Failure> {
    let failed = |cause| Failure::Subject { path: path.to_owned(), cause };
    let mut beginning = Vec::new();
    (&mut from).take(512).read_to_end(&mut beginning).map_err(failed)?;
    if let Some(packing) = Packing::of(&beginning) {
        let whole = std::io::Cursor::new(beginning).chain(BufReader::new(from));
        let archive = Archive::read(whole, packing)
            .map_err(|cause| Failure::Archive { path: path.to_owned(), cause })?;
        return Ok(Stands::Machine(Door::to_archive(archive)));
    }
    let mut text = beginning;
    // One more than there is: that it has ended is then seen without a larger room.
    let _ = text.try_reserve(usize::try_from(length.min(SIZE_LIMIT) + 1).unwrap_or_default());
    from.take(SIZE_LIMIT + 1).read_to_end(&mut text).map_err(failed)?;
    if text.len() as u64 > SIZE_LIMIT {
        return Err(Failure::TooLarge { path: path.to_owned(), limit: SIZE_LIMIT });
    }
    Ok(Stands::Text(text))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What may wait for something to happen, as the kernel's log does, is shown as a file of no length.
    #[test]
    fn only_a_file_that_holds_something_is_read_without_waiting() {
        let folder = tempfile::tempdir().unwrap();
        let (full, empty) = (folder.path().join("full"), folder.path().join("empty"));
        std::fs::write(&full, "{}").unwrap();
        std::fs::write(&empty, "").unwrap();
        let kernels = Path::new("/proc/self/status").to_owned();
        assert!(kernels.is_file());
        let missing = folder.path().join("missing");
        let is_here = |path: &Path| is_file_here(path).unwrap();
        assert!(is_here(&full));
        for path in [empty, kernels, missing, folder.path().to_owned()] {
            assert!(!is_here(&path), "{}", path.display());
        }
    }
}
