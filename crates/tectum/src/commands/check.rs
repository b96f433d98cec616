//! `tectum check`: what is odd, and whether machines are as they are expected.

use crate::page::Page;
use std::{
    collections::BTreeSet,
    path::{Path, PathBuf},
    sync::Arc,
};

use tectum_archive::side_by_side::side_by_side;
use tectum_report::{
    expectation::{Expectation, Expectations},
    finding::{Asked, Checked, Judgement, Severity, form, rule, rules},
    json::print::to_writer,
    report::Report,
    settings::Settings,
};

use super::deliver::{self, Form};
use crate::{
    args::{CheckArgs, CheckFormat, FailOn},
    exit::{DIFFERENT, DONE, FAILED, Failure, Status},
    subject::{Depth, Subject, name_of, report, sections, subjects_in},
    views::{Progress, Terminal, findings},
    written::text_of,
};

pub(super) fn run(
    args: &CheckArgs,
    settings: &Settings,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let files = settings.expect.iter().map(PathBuf::from).chain(args.expect.iter().cloned());
    let expectations = expectations(files, settings)?;
    let all: Vec<Asked> = rules()
        .iter()
        .map(|rule| Asked::Rule(rule))
        .chain(expectations.expect.iter().map(|own| Asked::Expectation(Arc::clone(own))))
        .collect();
    for given in args.only.iter().chain(&args.skip).chain(&args.explain) {
        if !all.iter().any(|asked| asked.id() == given) {
            let known = all.iter().map(|asked| asked.id().to_owned()).collect();
            return Err(Failure::NoSuchFinding { given: given.clone(), known });
        }
    }
    if args.list {
        let mut page = Page::default();
        findings::list(&all, &mut page);
        terminal.print_paged(&page)?;
        return Ok(DONE);
    }
    let limits = &settings.limits;
    let mut subjects = Vec::new();
    for given in args.subjects.iter().chain(&args.from) {
        subjects.extend(subjects_in(given, &args.patience)?);
    }
    if args.subjects.is_empty() && args.from.is_empty() {
        subjects.push(Subject::Live);
    }
    let plan = args.patience.plan(sections(&[], &[])?);
    // Where values are from is told in forms for programs.
    let depth = match args.format {
        CheckFormat::Json => Depth::Whole,
        _ => Depth::Gaps,
    };
    let wanted = |id: &str| {
        let one = args.explain.as_ref().is_none_or(|only| only == id);
        let named = args.only.is_empty() || args.only.iter().any(|only| only == id);
        let asked = !args.without_rules || rule(id).is_none();
        asked && one && named && !args.skip.iter().any(|skip| skip == id)
    };
    let mut checked = Checked::new(wanted("identity-doubled"));
    let mut explained = Vec::new();
    let mut status = DONE;
    let mut hosts = BTreeSet::new();
    let several = subjects.len() > 1;
    let progress = Progress::new(subjects.len());
    let read = |subject: &Subject| {
        let mut events = Vec::new();
        let report = report(subject, &plan, depth, &mut |event| events.push(event));
        let judged = report.map(|report| {
            let judgement = Judgement::by(&wanted, &report, limits, &expectations);
            (report, judgement)
        });
        (events, judged)
    };
    side_by_side(&subjects, 1, read, |subject, (events, judged)| {
        progress.step();
        if !args.quiet {
            progress.aside(|| events.iter().for_each(|event| super::survey::say(event, terminal)));
        }
        let (report, judgement) = match judged {
            Ok(both) => both,
            // One of many that cannot be read hides none of the others.
            Err(failure) if several => {
                progress.aside(|| terminal.complain(&failure));
                status = FAILED;
                return Ok(());
            }
            Err(failure) => return Err(failure),
        };
        let name = name_of(&report, subject, &mut hosts);
        if let Some(asked) = all.iter().find(|asked| args.explain.as_deref() == Some(asked.id())) {
            explained.push((name.clone(), selected(asked, &report)));
        }
        checked.add(&name, &report, judgement);
        Ok::<(), Failure>(())
    })?;
    progress.end();
    if let Some(asked) = all.iter().find(|asked| args.explain.as_deref() == Some(asked.id())) {
        let mut page = Page::default();
        findings::explain(asked, &explained, &checked, &mut page);
        terminal.print_paged(&page)?;
        return Ok(DONE);
    }
    let failing = args.fail_on.map_or(settings.fail_on, failing);
    print(args, &checked, failing, terminal)?;
    let grave = Severity::BY_RANK
        .into_iter()
        .filter(|it| failing.is_some_and(|failing| it.rank() >= failing.rank()));
    let any = grave.map(|severity| checked.count(severity)).sum::<usize>() > 0;
    Ok(if any { status.max(DIFFERENT) } else { status })
}

/// The least severity that makes a check fail.
fn failing(on: FailOn) -> Option<Severity> {
    match on {
        FailOn::Notice => Some(Severity::Notice),
        FailOn::Warning => Some(Severity::Warning),
        FailOn::Critical => Some(Severity::Critical),
        FailOn::Never => None,
    }
}

fn print(
    args: &CheckArgs,
    checked: &Checked,
    failing: Option<Severity>,
    terminal: &mut Terminal,
) -> Result<(), Failure> {
    let mut text = Vec::new();
    let form = match args.format {
        CheckFormat::Text => Form::Text,
        CheckFormat::Markdown => Form::Markdown,
        #[cfg(feature = "html")]
        CheckFormat::Html => Form::Html,
        CheckFormat::Json => {
            to_writer(&mut text, &form::json::Document::of(checked))?;
            return deliver::bytes(&text, args.out.as_deref(), terminal);
        }
        CheckFormat::Junit => {
            form::junit::write(checked, failing, &mut text)?;
            return deliver::bytes(&text, args.out.as_deref(), terminal);
        }
        CheckFormat::Sarif => {
            to_writer(&mut text, &form::sarif::document(checked, env!("CARGO_PKG_VERSION")))?;
            return deliver::bytes(&text, args.out.as_deref(), terminal);
        }
    };
    let mut page = Page::default();
    findings::print(checked, args.not_judged, &mut page);
    deliver::page(&page, form, &[], args.out.as_deref(), terminal)
}

/// What somebody who is asked reads of a machine, each path with its value; nothing where the machine is not
/// meant.
fn selected(asked: &Asked, report: &Report) -> Option<Vec<(String, String)>> {
    let pairs = |all: Vec<tectum_report::expectation::Selected>| {
        all.into_iter().map(|one| (one.path, one.value)).collect()
    };
    match asked {
        Asked::Expectation(own) => own.selects(report).map(pairs),
        Asked::Rule(rule) => {
            let paths = rule.reads.iter().filter_map(|path| path.parse().ok());
            Some(paths.flat_map(|path| pairs(Expectation::values_of(&path, report))).collect())
        }
    }
}

/// Reads files of expectations. What one includes is looked for beside it.
fn expectations(
    files: impl Iterator<Item = PathBuf>,
    settings: &Settings,
) -> Result<Expectations, Failure> {
    let mut all = Expectations::with(settings.groups.clone());
    for file in files {
        let mut read = |name: &str, of: Option<&str>| {
            let path = match of.and_then(|of| Path::new(of).parent()) {
                Some(folder) => folder.join(name),
                None => PathBuf::from(name),
            };
            // The file that includes it names itself.
            let text = text_of(&path).map_err(|error| match of {
                Some(_) => format!("{}: {error}", path.display()),
                None => error,
            })?;
            Ok((path.display().to_string(), text))
        };
        all.read_more(&file.display().to_string(), &mut read)?;
    }
    Ok(all)
}
