//! `tectum compare`: what changed from one subject to another.

use crate::page::Page;
use std::{collections::BTreeSet, io, mem::ManuallyDrop};

use tectum_archive::{
    alike::{Held, Holding},
    side_by_side::side_by_side,
};
use tectum_report::{
    compare::{Change, Comparison, Scope, compare, summary},
    export::json_patch,
    json::print::to_writer,
    query::{Path, Selection},
    report::Report,
};
use tectum_survey::survey::Plan;

use super::deliver::{self, Form};
use crate::{
    args::{CompareArgs, CompareFormat, Units},
    exit::{DIFFERENT, DONE, FAILED, Failure, Status},
    subject::{
        Begun, Depth, Subject, Want, name_among, path, patience_of, report, sections, subjects_in,
    },
    views::{Progress, Terminal, alike, changes},
};

pub(super) fn run(
    args: &CompareArgs,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let paths = |given: &[String]| given.iter().map(|given| path(given)).collect::<Result<_, _>>();
    let (only, skip): (Vec<Path>, Vec<Path>) = (paths(&args.only)?, paths(&args.skip)?);
    // A part of a patch would turn the one into something that is neither.
    let chooses = args.readings || !args.only.is_empty() || !args.skip.is_empty();
    if chooses && args.format == CompareFormat::JsonPatch {
        return Err(Failure::WholePatch);
    }
    let plan = args.patience.plan(sections(&[], &[])?);
    let given = [&args.before].into_iter().chain(&args.after).chain(&args.more);
    let mut subjects = Vec::new();
    for one in given {
        subjects.extend(subjects_in(one, &args.patience)?);
    }
    let (first, second) = match subjects.as_slice() {
        [first, second] => (first, second),
        [] | [_] => return Err(Failure::NothingToCompareWith(args.before.text())),
        several if args.format == CompareFormat::JsonPatch => {
            return Err(Failure::TwoMachines { given: several.len() });
        }
        several => return many(several, args, units, terminal),
    };
    // What says which values are compared needs them, and data says what the inventory is.
    let told_by_texts = !chooses && page_form(args.format).is_some();
    let want = Want::compared(args.readings);
    let [before, after] = both([first, second], &plan, want, told_by_texts)?;
    // The program ends with them: to give them back piece by piece takes longer than to read them.
    let (before, after) = (ManuallyDrop::new(before), ManuallyDrop::new(after));
    let scope = if args.readings { Scope::InventoryAndReadings } else { Scope::Inventory };
    let mut result = compare(&before, &after, scope);
    Filter::new(&before, &after, only, skip).apply(&mut result);
    let out = args.out.as_deref();
    match page_form(args.format) {
        Some(form) => {
            let mut page = Page::default();
            changes::print(&result, args.detail, units, &mut page);
            deliver::page(&page, form, &[], out, terminal)?;
        }
        None => {
            let mut text = Vec::new();
            match args.format {
                CompareFormat::JsonPatch => {
                    to_writer(
                        &mut text,
                        &json_patch::of(&before, &after).map_err(io::Error::from)?,
                    )?;
                }
                _ => to_writer(&mut text, &result)?,
            }
            deliver::bytes(&text, out, terminal)?;
            if args.format == CompareFormat::JsonPatch
                && let Some(words) = changes::not_compared(&result).filter(|_| !args.quiet)
            {
                terminal.remark(&words);
            }
        }
    }
    Ok(if result.changes.is_empty() { DONE } else { DIFFERENT })
}

/// The reports of two subjects: without sections of which nothing is to be told, if these may be left out and the texts
/// alone tell which they are.
fn both(
    subjects: [&Subject; 2],
    plan: &Plan,
    want: Want<'_>,
    told_by_texts: bool,
) -> Result<[Report; 2], Failure> {
    let patience = patience_of(plan);
    let [before, after] = subjects;
    let [before, after] = at_once(|| Begun::of(before, &patience), || Begun::of(after, &patience))?;
    let sections = match (told_by_texts, before.text(), after.text()) {
        (true, Some(one), Some(other)) => Report::sections_to_compare(one, other),
        _ => None,
    };
    let want = want.of_sections(sections.as_deref());
    let read = |begun: Begun<'_>| begun.report(plan, want, &mut |_| {});
    at_once(|| read(before), || read(after))
}

/// Does both at once; what failed first is told.
fn at_once<T: Send, E: Send>(
    one: impl FnOnce() -> Result<T, E>,
    other: impl FnOnce() -> Result<T, E> + Send,
) -> Result<[T; 2], E> {
    std::thread::scope(|scope| {
        let other = scope.spawn(other);
        let one = one();
        let other = other.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
        Ok([one?, other?])
    })
}

/// The form of a page that a format is, if it is one.
fn page_form(format: CompareFormat) -> Option<Form> {
    match format {
        CompareFormat::Text => Some(Form::Text),
        CompareFormat::Markdown => Some(Form::Markdown),
        #[cfg(feature = "html")]
        CompareFormat::Html => Some(Form::Html),
        CompareFormat::Json | CompareFormat::JsonPatch => None,
    }
}

/// So many machines are read in one go.
const ROW: usize = 16;

/// Holds more than two machines against each other.
fn many(
    subjects: &[Subject],
    args: &CompareArgs,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let by = path(&args.alike)?;
    let plan = args.patience.plan(sections(&[], &[])?);
    let mut holding = Holding::default();
    let mut hosts = BTreeSet::new();
    let mut status = DONE;
    let progress = Progress::new(subjects.len());
    side_by_side(
        subjects,
        ROW,
        |subject| {
            let report = report(subject, &plan, Depth::Reasons, &mut |_| {})?;
            let host = report.machine.hostname.value().map(|name| name.0.clone());
            Ok::<_, Failure>((host, Held::of(&report, &by)))
        },
        |subject, held| {
            progress.step();
            match held {
                Ok((host, held)) => holding.add(&name_among(host, subject, &mut hosts), held),
                // One of many that cannot be read hides none of the others.
                Err(failure) => {
                    progress.aside(|| terminal.complain(&failure));
                    status = FAILED;
                }
            }
            Ok::<(), Failure>(())
        },
    )?;
    progress.end();
    let groups = holding.end();
    let any = groups.iter().any(|group| !group.odd.is_empty() || !group.mixed.is_empty());
    let out = args.out.as_deref();
    match page_form(args.format) {
        Some(form) => {
            let mut page = Page::default();
            alike::print(&groups, &by.to_string(), args.detail, units, &mut page);
            deliver::page(&page, form, &[], out, terminal)?;
        }
        None => {
            let mut text = Vec::new();
            to_writer(&mut text, &groups)?;
            deliver::bytes(&text, out, terminal)?;
        }
    }
    Ok(if any { status.max(DIFFERENT) } else { status })
}

/// What of a comparison is wanted.
struct Filter {
    only: Option<[Selection; 2]>,
    skip: [Selection; 2],
}

impl Filter {
    fn new(before: &Report, after: &Report, only: Vec<Path>, skip: Vec<Path>) -> Self {
        let of = |paths: &[Path]| [Selection::of(before, paths), Selection::of(after, paths)];
        Self { only: (!only.is_empty()).then(|| of(&only)), skip: of(&skip) }
    }

    fn apply(&self, result: &mut Comparison) {
        result.changes.retain_mut(|change| self.keeps(change));
        result.not_compared.retain(|one| {
            let wanted = self.only.as_ref();
            let holds = |all: &[Selection; 2]| all.iter().any(|own| own.holds(&one.at));
            wanted.is_none_or(holds) && !holds(&self.skip)
        });
        result.summary = summary(&result.changes);
    }

    /// Whether a change is wanted; fields of it that are not are taken out.
    fn keeps(&self, change: &mut Change) -> bool {
        let sides: Vec<(usize, String)> = [&change.before, &change.after]
            .into_iter()
            .enumerate()
            .filter_map(|(side, own)| own.as_ref().map(|own| (side, own.at.clone())))
            .collect();
        let any = |all: &[Selection; 2], test: &dyn Fn(&Selection, &str) -> bool| {
            sides.iter().any(|(side, at)| all.get(*side).is_some_and(|own| test(own, at)))
        };
        let had = !change.fields.is_empty();
        change.fields.retain(|field| {
            let at = |own: &Selection, at: &str| own.holds(&format!("{at}/{}", field.field));
            self.only.as_ref().is_none_or(|only| any(only, &at)) && !any(&self.skip, &at)
        });
        change.follows.retain_mut(|inner| self.keeps(inner));
        let whole = |own: &Selection, at: &str| own.holds_all_of(at);
        if any(&self.skip, &whole) || (had && change.fields.is_empty() && change.follows.is_empty())
        {
            return false;
        }
        let touches = |own: &Selection, at: &str| own.touches(at);
        self.only.as_ref().is_none_or(|only| any(only, &touches) || !change.follows.is_empty())
    }
}
