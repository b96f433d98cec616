//! `tectum archive`: what is in it, whether it is whole, what is kept.

use crate::page::Page;
use serde::Serialize;
use tectum_archive::{
    copy::copy,
    keep::Keep,
    named::{NameError, Named, entry, one_called},
    store::{Entry, Problem},
    when::{is_mark, moment, now},
    written::Mark,
};
use tectum_report::{json::print::to_writer, settings::Settings};

use crate::{
    archive,
    args::{ArchiveArgs, ArchiveCommand, Format},
    exit::{DIFFERENT, DONE, Failure, MISSING, Status},
    views::{self, Terminal, quantity},
};

/// What is told of one machine.
#[derive(Serialize)]
struct OfMachine {
    machine: String,
    host: String,
    observations: Vec<Entry>,
    marks: Vec<Mark>,
}

pub(super) fn run(
    args: &ArchiveArgs,
    settings: &Settings,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    match &args.what {
        ArchiveCommand::List { hosts, format } => list(hosts, *format, terminal),
        ArchiveCommand::Verify { format } => verify(*format, terminal),
        ArchiveCommand::Prune { hosts, days, weeks, months, states_too, yes } => {
            let keep = Keep { daily: *days, weekly: *weeks, monthly: *months, states: !states_too };
            prune(hosts, &keep, *yes, terminal)
        }
        ArchiveCommand::Mark { look, name, remove } => mark(look, name, *remove, terminal),
        ArchiveCommand::Copy { from, to } => {
            let from = archive::open(from, settings.archive_packed)?;
            let to = archive::open_or_make(to, settings.archive_packed)?;
            let copied = copy(from.as_ref(), to.as_ref(), &mut |_| {})?;
            let count = |number: u64, one: &str, many: &str| {
                quantity::count(usize::try_from(number).unwrap_or(usize::MAX), one, many)
            };
            terminal.remark(&format!(
                "copied {} at {}; there already: {}",
                count(copied.observations, "look", "looks"),
                count(copied.machines, "machine", "machines"),
                copied.stood_already
            ));
            Ok(DONE)
        }
    }
}

fn list(hosts: &[String], format: Format, terminal: &mut Terminal) -> Result<Status, Failure> {
    let store = archive::store()?;
    let machines = archive::machines(hosts)?;
    let mut page = Page::default();
    if hosts.is_empty() && format == Format::Text {
        views::archive::machines(&store.location(), &machines, &mut page);
        terminal.print_paged(&page)?;
        return Ok(DONE);
    }
    let mut all = Vec::new();
    for latest in machines {
        let observations = store.entries(&latest.machine)?;
        let marks = store.marks(&latest.machine)?;
        let host = latest.name();
        all.push(OfMachine { machine: latest.machine, host, observations, marks });
    }
    match format {
        Format::Json => {
            let out = terminal.out();
            to_writer(&mut *out, &all)?;
        }
        Format::Text => {
            for one in &all {
                views::archive::looks(
                    &one.host,
                    &one.machine,
                    &one.observations,
                    &one.marks,
                    &mut page,
                );
            }
            terminal.print_paged(&page)?;
        }
    }
    Ok(DONE)
}

fn verify(format: Format, terminal: &mut Terminal) -> Result<Status, Failure> {
    let mut problems: Vec<Problem> = Vec::new();
    let store = archive::store()?;
    let sum = store.verify(&mut |problem| problems.push(problem))?;
    let damaged = problems.iter().any(|one| one.is_damage);
    match format {
        Format::Json => {
            let told = serde_json::json!({ "looked_through": sum, "problems": problems });
            let out = terminal.out();
            to_writer(&mut *out, &told)?;
        }
        Format::Text => {
            let mut page = Page::default();
            views::archive::verified(&store.location(), &sum, &problems, &mut page);
            terminal.print_paged(&page)?;
        }
    }
    Ok(if damaged { DIFFERENT } else { DONE })
}

fn prune(
    hosts: &[String],
    keep: &Keep,
    yes: bool,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    if *keep == Keep::default() {
        return Err(Failure::NothingKept);
    }
    let store = archive::store()?;
    let mut page = Page::default();
    let mut sum = 0;
    for latest in archive::machines(hosts)? {
        let entries = store.entries(&latest.machine)?;
        let going = keep.going(&entries, &store.marks(&latest.machine)?);
        let told: Vec<&Entry> = entries.iter().filter(|one| going.contains(&one.number)).collect();
        sum += told.len();
        if !told.is_empty() {
            views::archive::going(&latest.name(), &told, entries.len(), yes, &mut page);
        }
        if yes {
            store.remove(&latest.machine, &going)?;
        }
    }
    terminal.print_paged(&page)?;
    terminal.remark(&match (sum, yes) {
        (0, _) => "every look is kept by a rule".to_owned(),
        (sum, true) => format!("removed {}", quantity::count(sum, "look", "looks")),
        (sum, false) => {
            format!("{} would be removed; --yes does it", quantity::count(sum, "look", "looks"))
        }
    });
    Ok(DONE)
}

fn mark(look: &str, name: &str, remove: bool, terminal: &mut Terminal) -> Result<Status, Failure> {
    if !is_mark(name) {
        return Err(Failure::NoMark(name.to_owned()));
    }
    let store = archive::store()?;
    let named = Named::read(look);
    let machine = one_called(store, &named.machine)?;
    if remove {
        let there = store.unmark(&machine.machine, name)?;
        let said = if there { "is taken away" } else { "was none" };
        terminal.remark(&format!("the mark {name} of {} {said}", machine.name()));
        return Ok(if there { DONE } else { MISSING });
    }
    let entry = entry(store, &machine.machine, named.when.as_deref(), &now())
        .map_err(|cause: NameError| Failure::Name(cause))?;
    let mark = Mark { name: name.to_owned(), observation: entry.number, marked_at: moment() };
    store.mark(&machine.machine, &mark)?;
    terminal.remark(&format!(
        "{}: the look of {} is marked {name}",
        machine.name(),
        views::archive::moment(entry.at)
    ));
    Ok(DONE)
}
