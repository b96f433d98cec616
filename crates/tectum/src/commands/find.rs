//! `tectum find`: everything that has a word in it.

use crate::page::Page;
use crate::render::safe;
use std::{
    collections::{BTreeSet, HashMap, HashSet},
    io::Write,
    path::PathBuf,
    sync::Arc,
};

use serde_json::{Value, json};
use tectum_archive::side_by_side::side_by_side;
use tectum_report::{
    fact::{Gap, Place},
    json::print::line_to_writer,
    query::{Path, Search, SearchHit, Selection, find_all, search},
    report::Report,
};
use tectum_survey::{formats::mount_option::strip_secrets, survey::Plan};

use crate::{
    args::{FindArgs, Units},
    exit::{DONE, Failure, MISSING, Status},
    subject::{Depth, Opened, Subject, name_of, open, path, sections_for, subjects_in, surveyed},
    views::{Progress, Terminal, found, quantity::count},
};

/// The longest file of a capture in whose lines words are looked for, in bytes.
const LONGEST_FILE: usize = 4 << 20;

/// The most lines of raw files that are told of one subject; of others it is told how many there are.
const MOST_LINES: usize = 200;

/// A line of a file that has what is searched for, and that no value was read from.
pub(crate) struct RawLine {
    /// The file's path on the machine.
    pub(crate) path: String,
    /// The line's number, from 1.
    pub(crate) line: usize,
    /// The line, without passwords in it.
    pub(crate) text: String,
}

/// Such lines: the first of them, and how many more there are.
#[derive(Default)]
pub(crate) struct RawLines {
    pub(crate) first: Vec<RawLine>,
    pub(crate) more: usize,
}

/// What one subject gives.
struct Looked {
    report: Report,
    files: Vec<(PathBuf, Arc<[u8]>)>,
}

pub(super) fn run(
    args: &FindArgs,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let wanted = match (args.pattern, args.regex) {
        (true, _) => Search::pattern(&args.text)?,
        (_, true) => Search::expression(&args.text)?,
        _ => Search::words(&args.text)?,
    };
    let only: Vec<Path> = args.only.iter().map(|given| path(given)).collect::<Result<_, _>>()?;
    let plan = args.patience.plan(sections_for(&only));
    let mut subjects = Vec::new();
    for given in &args.from {
        subjects.extend(subjects_in(given, &args.patience)?);
    }
    let mut hosts = BTreeSet::new();
    let mut any = false;
    let mut unseen = 0;
    let several = subjects.len() > 1;
    let progress = Progress::new(subjects.len());
    side_by_side(
        &subjects,
        1,
        |subject| look(subject, &plan, args),
        |subject, looked| {
            let looked = match looked {
                Ok(looked) => looked,
                // One of many that cannot be read hides none of the others.
                Err(failure) if several => {
                    progress.aside(|| terminal.complain(&failure));
                    progress.step();
                    return Ok(());
                }
                Err(failure) => return Err(failure),
            };
            let host = name_of(&looked.report, subject, &mut hosts);
            let selection = (!only.is_empty()).then(|| Selection::of(&looked.report, &only));
            let hits = search(&looked.report, &wanted, selection.as_ref());
            let raw = match only.is_empty() {
                true => raw_lines(&looked.files, &wanted, &hits),
                false => RawLines::default(),
            };
            any |= !hits.is_empty() || !raw.first.is_empty();
            unseen += unseen_in(&looked.report, &only);
            progress
                .aside(|| print(args, units, &host, subject, &wanted, &hits, &raw, terminal))?;
            progress.step();
            Ok(())
        },
    )?;
    progress.end();
    if !any && unseen > 0 {
        // What is not found may stand where nobody could look.
        let values = count(unseen, "value", "values");
        terminal.remark(&format!(
            "nothing found, and {values} could not be seen; `tectum survey --gaps` tells which, and why"
        ));
    }
    Ok(if any { DONE } else { MISSING })
}

/// How many values of what is searched there may be that could not be seen.
fn unseen_in(report: &Report, only: &[Path]) -> usize {
    let hides = |gap: &Gap| gap.why.hides_a_value();
    match only {
        [] => report.gaps().iter().filter(|(_, gap)| hides(gap)).count(),
        paths => {
            let found = paths.iter().map(|path| find_all(report, path));
            found.map(|found| found.gaps().filter(|(_, gap)| hides(gap)).count()).sum()
        }
    }
}

fn look(subject: &Subject, plan: &Plan, args: &FindArgs) -> Result<Looked, Failure> {
    let opened = open(subject, &args.patience, Depth::Whole)?;
    Ok(match opened.what {
        Opened::Machine(door) => {
            let report = surveyed(&door, subject, plan, &mut |_| {});
            Looked { report, files: door.files() }
        }
        Opened::Report(report) => Looked { report: *report, files: Vec::new() },
    })
}

#[allow(clippy::too_many_arguments, reason = "what was found, and all that says how to tell it")]
fn print(
    args: &FindArgs,
    units: Units,
    host: &str,
    subject: &Subject,
    wanted: &Search,
    hits: &[SearchHit<'_>],
    raw: &RawLines,
    terminal: &mut Terminal,
) -> Result<(), Failure> {
    if args.json {
        let out = terminal.out();
        for hit in hits {
            line_to_writer(&mut *out, &hit_json(host, subject, hit))?;
        }
        for one in &raw.first {
            line_to_writer(&mut *out, &raw_json(host, subject, one))?;
        }
        out.flush()?;
        if raw.more > 0 {
            let more = count(raw.more, "more line of its files", "more lines of its files");
            terminal.remark(&format!("{host}: {more} not told"));
        }
        return Ok(());
    }
    if args.count {
        let out = terminal.out();
        writeln!(out, "{}\t{}", hits.len() + raw.first.len() + raw.more, safe(host))?;
        return Ok(());
    }
    if hits.is_empty() && raw.first.is_empty() {
        return Ok(());
    }
    let mut page = Page::default();
    found::print(host, hits, raw, wanted, units, &mut page);
    terminal.print(&page)?;
    Ok(())
}

fn hit_json(host: &str, subject: &Subject, hit: &SearchHit<'_>) -> Value {
    json!({
        "host": host,
        "subject": subject.text(),
        "path": hit.path,
        "part": hit.label,
        "field": hit.value.map(|(field, _)| field.name),
        "value": hit.value.and_then(|(_, fact)| fact.json()),
        "in": hit.found_in.word(),
        "source": hit.evidence.map(|piece| piece.source.to_string()),
        "where": hit.evidence.and_then(|piece| piece.place.clone()),
    })
}

fn raw_json(host: &str, subject: &Subject, line: &RawLine) -> Value {
    json!({
        "host": host,
        "subject": subject.text(),
        "in": "file",
        "value": line.text,
        "source": line.path,
        "where": { "line": line.line },
    })
}

/// What of a file values were found by.
#[derive(Default)]
struct Told<'a> {
    lines: HashSet<u64>,
    /// What stands somewhere in it.
    texts: BTreeSet<&'a str>,
    /// All of it, whatever stands there.
    whole: bool,
}

impl Told<'_> {
    fn holds(&self, number: usize, text: &str) -> bool {
        let stands = || self.texts.iter().any(|own| text.contains(own));
        self.whole || self.lines.contains(&(number as u64)) || stands()
    }
}

/// Files by what values were found by in them.
fn told<'a>(hits: &'a [SearchHit<'_>]) -> HashMap<&'a str, Told<'a>> {
    let mut all: HashMap<&str, Told<'_>> = HashMap::new();
    for piece in hits.iter().filter_map(|hit| hit.value).flat_map(|(_, fact)| fact.evidence()) {
        let own = all.entry(&piece.source).or_default();
        match (&piece.place, piece.raw.as_deref()) {
            (Some(Place::Line(line)), _) => drop(own.lines.insert(*line)),
            (_, Some(raw)) => drop(own.texts.insert(raw)),
            (_, None) => own.whole = true,
        }
    }
    all
}

/// Lines of files that have what is searched for, but for those that a value was found by.
fn raw_lines(files: &[(PathBuf, Arc<[u8]>)], wanted: &Search, hits: &[SearchHit<'_>]) -> RawLines {
    let told = told(hits);
    let mut lines = RawLines::default();
    for (path, bytes) in files.iter().filter(|(_, bytes)| bytes.len() <= LONGEST_FILE) {
        let Ok(text) = std::str::from_utf8(bytes) else { continue };
        let path = path.display().to_string();
        let told = told.get(path.as_str());
        for (number, text) in (1..).zip(text.lines()).filter(|(_, text)| wanted.is_in(text)) {
            if told.is_some_and(|told| told.holds(number, text)) {
                continue;
            }
            if lines.first.len() < MOST_LINES {
                let text = strip_secrets(text);
                lines.first.push(RawLine { path: path.clone(), line: number, text });
            } else {
                lines.more += 1;
            }
        }
    }
    lines
}
