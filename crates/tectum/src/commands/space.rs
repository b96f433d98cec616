//! `tectum space`: what fills a filesystem.
//!
//! Each path is looked at by a helper, this program again: a path on a server that is gone can hold whoever asks
//! in a sleep that not even the end of the process ends, and the terminal with it.

use std::{
    io::{self, BufRead, BufReader, Write},
    os::unix::ffi::OsStrExt,
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    sync::mpsc::{self, RecvTimeoutError},
    thread,
    time::{Duration, Instant},
};

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use tectum_archive::when::age;
use tectum_report::{
    export::csv::harmless,
    json::print::to_writer,
    space::{Space, SpaceDocument},
};
use tectum_survey::{
    own_time::said_within,
    space::{Plan, Progress, SpaceError, look},
};

use super::deliver::{self, Form};
use crate::{
    args::{SPACE_HELPER_WORD, SpaceArgs, TableFormat, Units},
    exit::{DONE, Failure, Status},
    page::Page,
    views::{self, Terminal, Waiting},
};

pub(super) fn run(
    args: &SpaceArgs,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let changed_before = match &args.older_than {
        None => None,
        Some(text) => {
            let age = age(text).ok_or_else(|| Failure::NoAge(text.clone()))?;
            Some(Timestamp::now().checked_sub(age).unwrap_or(Timestamp::MIN))
        }
    };
    let mut found = Vec::new();
    for path in &args.paths {
        let asked = Asked {
            path: path.as_os_str().as_bytes().to_vec(),
            across_mounts: args.across_mounts,
            changed_before,
            exclude: args.exclude.clone(),
            depth: args.depth,
            top: args.top,
            deadline: args.deadline,
        };
        found.push(beside(path, &asked)?);
    }
    let out = args.out.as_deref();
    match args.format {
        TableFormat::Json => {
            let mut text = Vec::new();
            to_writer(&mut text, &SpaceDocument::new(found))?;
            deliver::bytes(&text, out, terminal)?;
        }
        TableFormat::Csv => deliver::bytes(&table(&found)?, out, terminal)?,
        format => {
            let mut page = Page::default();
            for (index, space) in found.iter().enumerate() {
                if index > 0 {
                    page.gap();
                }
                views::space::space(space, units, &mut page);
            }
            deliver::page(&page, Form::of_table(format), &[], out, terminal)?;
        }
    }
    Ok(DONE)
}

/// The columns of the table for programs.
const COLUMNS: [&str; 9] = [
    "kind",
    "path",
    "depth",
    "allocated_bytes",
    "apparent_bytes",
    "files",
    "folders",
    "newest_change",
    "oldest_change",
];

fn table(found: &[Space]) -> Result<Vec<u8>, Failure> {
    let mut table =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    let failed = |error: csv::Error| Failure::Output(error.into());
    let time = |at: Option<Timestamp>| at.map(|at| at.to_string()).unwrap_or_default();
    table.write_record(COLUMNS).map_err(failed)?;
    for space in found {
        let folders = space.folders.iter().map(|one| {
            let numbers = [
                u64::from(one.depth),
                one.allocated_bytes,
                one.apparent_bytes,
                one.files,
                one.folders,
            ]
            .map(|number| number.to_string());
            let times = [time(one.newest_change), time(one.oldest_change)];
            ("folder", &one.path, numbers, times)
        });
        let none = String::new;
        let file = |allocated: u64, apparent: u64| {
            [none(), allocated.to_string(), apparent.to_string(), none(), none()]
        };
        let files = space.files.iter().map(|one| {
            let times = [time(Some(one.changed)), time(Some(one.changed))];
            ("file", &one.path, file(one.allocated_bytes, one.apparent_bytes), times)
        });
        let deleted = space.deleted_open.iter().map(|one| {
            let own = file(one.allocated_bytes, one.apparent_bytes);
            ("deleted", &one.path, own, [none(), none()])
        });
        for (kind, path, numbers, times) in folders.chain(files).chain(deleted) {
            let row = [kind.to_owned(), harmless(path)].into_iter();
            table.write_record(row.chain(numbers).chain(times)).map_err(failed)?;
        }
    }
    table.into_inner().map_err(|error| Failure::Output(error.into_error()))
}

/// What a helper is asked.
#[derive(Debug, Serialize, Deserialize)]
struct Asked {
    /// A path need not be UTF-8.
    path: Vec<u8>,
    across_mounts: bool,
    changed_before: Option<Timestamp>,
    exclude: Vec<String>,
    depth: u32,
    top: usize,
    deadline: Duration,
}

/// What a helper says, a line each.
#[derive(Debug, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Says {
    /// It gets on: so many files and folders, for which so many bytes are kept.
    At(u64, u64),
    /// It is done.
    Found(Box<Space>),
    /// It cannot be done.
    Failed(String),
    /// It was asked wrongly.
    Wrong(String),
}

/// How often a helper says that it gets on.
const TICK: Duration = Duration::from_millis(100);

/// How much longer than the deadline a helper's word is waited for.
const GRACE: Duration = Duration::from_secs(2);

fn beside(path: &Path, asked: &Asked) -> Result<Space, Failure> {
    let mut child = begin(asked)?;
    let no_answer = || Failure::NoAnswer { path: path.to_owned() };
    let Some(from) = child.stdout.take() else { return Err(no_answer()) };
    let (say, heard) = mpsc::channel();
    thread::spawn(move || {
        for line in BufReader::new(from).lines() {
            let says = line.ok().and_then(|line| serde_json::from_str::<Says>(&line).ok());
            let Some(says) = says else { return };
            if say.send(says).is_err() {
                return;
            }
        }
    });
    let mut waiting = Waiting::new();
    let ended = loop {
        match said_within(&heard, asked.deadline.saturating_add(GRACE)) {
            Ok(Says::At(entries, bytes)) => {
                waiting.says(&views::space::so_far(entries, bytes));
            }
            Ok(Says::Found(space)) => break Ok(*space),
            Ok(Says::Failed(said)) => break Err(Failure::Space(said)),
            Ok(Says::Wrong(said)) => break Err(Failure::SpaceAsked(said)),
            Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => {
                // One that sleeps is killed when it wakes; nobody waits for that.
                let _ = child.kill();
                break Err(no_answer());
            }
        }
    };
    waiting.end();
    ended
}

fn begin(asked: &Asked) -> Result<Child, Failure> {
    let mut child = Command::new(std::env::current_exe().map_err(Failure::Helper)?)
        .arg(SPACE_HELPER_WORD)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        // Nobody listens; a rescue system may have no /dev/null.
        .stderr(Stdio::piped())
        .spawn()
        .map_err(Failure::Helper)?;
    if let Some(mut to) = child.stdin.take() {
        serde_json::to_writer(&mut to, asked).map_err(io::Error::from)?;
    }
    Ok(child)
}

/// What the helper does.
pub(super) fn help() -> Result<Status, Failure> {
    // Whoever asked may be gone before an answer comes.
    let signal = Some(rustix::process::Signal::KILL);
    let _ = rustix::process::set_parent_process_death_signal(signal);
    let asked: Asked = serde_json::from_reader(io::stdin()).map_err(io::Error::from)?;
    let plan = Plan {
        across_mounts: asked.across_mounts,
        changed_before: asked.changed_before,
        exclude: asked.exclude,
        depth: asked.depth,
        top: asked.top,
        deadline: asked.deadline,
        ..Plan::of(PathBuf::from(std::ffi::OsStr::from_bytes(&asked.path)))
    };
    let progress = Progress::default();
    let mut out = io::stdout().lock();
    let mut says = |says: &Says| -> io::Result<()> {
        serde_json::to_writer(&mut out, says)?;
        out.write_all(b"\n")?;
        out.flush()
    };
    let found = thread::scope(|scope| {
        let looks = scope.spawn(|| look(&plan, &progress));
        let mut last = Instant::now();
        while !looks.is_finished() {
            thread::sleep(Duration::from_millis(5));
            // What waits for an answer that may never come says nothing.
            if last.elapsed() >= TICK && !progress.waits() {
                last = Instant::now();
                says(&Says::At(progress.entries(), progress.bytes()))?;
            }
        }
        Ok::<_, io::Error>(looks.join())
    })?;
    says(&match found {
        Ok(Ok(space)) => Says::Found(Box::new(space)),
        Ok(Err(error @ SpaceError::Pattern { .. })) => Says::Wrong(error.to_string()),
        Ok(Err(error)) => Says::Failed(error.to_string()),
        Err(_) => Says::Failed("a defect of Tectum ended the looking".to_owned()),
    })?;
    Ok(DONE)
}
