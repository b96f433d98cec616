//! `tectum find`: everything that has a word in it.

mod raw;

use crate::page::Page;
use crate::render::safe;
use std::{collections::BTreeSet, io::Write, path::PathBuf, sync::Arc};

use serde_json::{Value, json};
use tectum_archive::side_by_side::side_by_side;
use tectum_report::{
    fact::Gap,
    json::print::line_to_writer,
    query::{Path, Search, SearchHit, Selection, find_all, search},
    report::Report,
};
use tectum_survey::survey::Plan;

use crate::{
    args::{FindArgs, Units},
    exit::{DONE, FAILED, Failure, MISSING, Status},
    subject::{Depth, Opened, Subject, name_of, open, path, sections_for, subjects_in, surveyed},
    views::{Progress, Terminal, found, quantity::count},
};

use raw::RawText;
pub(crate) use raw::RawTexts;

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
    let mut status = DONE;
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
                    status = FAILED;
                    return Ok(());
                }
                Err(failure) => return Err(failure),
            };
            let host = name_of(&looked.report, subject, &mut hosts);
            let selection = (!only.is_empty()).then(|| Selection::of(&looked.report, &only));
            let hits = search(&looked.report, &wanted, selection.as_ref());
            let raw = match only.is_empty() {
                true => RawTexts::of(&looked.files, &wanted, &hits),
                false => RawTexts::default(),
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
    Ok(status.max(if any { DONE } else { MISSING }))
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
    raw: &RawTexts,
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
            let more = count(raw.more, "more text of its files", "more texts of its files");
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

fn raw_json(host: &str, subject: &Subject, one: &RawText) -> Value {
    json!({
        "host": host,
        "subject": subject.text(),
        "in": "file",
        "value": one.text,
        "source": one.path,
        "where": one.place,
    })
}
