//! `tectum history`: since when a value is what it is, and where a part has been.

use crate::page::Page;
use serde::Serialize;
use tectum_archive::history::{Told, history, way_of_a_part};
use tectum_report::{json::print::to_writer, query::paths};

use crate::{
    archive,
    args::{Format, HistoryArgs, Units},
    exit::{DONE, Failure, MISSING, Status},
    views::{self, Terminal},
};

/// What is told of one machine.
#[derive(Serialize)]
struct OfMachine {
    machine: String,
    host: String,
    values: Vec<Told>,
}

pub(super) fn run(
    args: &HistoryArgs,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    if let Some(part) = &args.part {
        return of_part(part, args, terminal);
    }
    let path = args.path.as_deref().unwrap_or_default();
    let paths = paths(path)?;
    for path in &paths {
        path.check()?;
    }
    // A whole part is many values, of which those tell something that were not always the same.
    let whole_parts = paths.iter().any(|path| !path.ends_at_a_value());
    let store = archive::store()?;
    let mut all = Vec::new();
    for latest in archive::machines(&args.hosts)? {
        let mut values = history(store, &latest.machine, &paths)?;
        if whole_parts {
            values.retain(|one| {
                one.spans.len() > 1 || one.spans.iter().any(|span| span.otherwise_since.is_some())
            });
        }
        let host = latest.name();
        all.push(OfMachine { machine: latest.machine, host, values });
    }
    let any = all.iter().any(|one| !one.values.is_empty());
    match args.format {
        Format::Json => {
            let out = terminal.out();
            to_writer(&mut *out, &all)?;
        }
        Format::Text => {
            let mut page = Page::default();
            for one in all.iter().filter(|one| !one.values.is_empty()) {
                views::history::values(&one.host, path, &one.values, units, &mut page);
            }
            terminal.print_paged(&page)?;
            if !any {
                terminal.remark(match whole_parts {
                    true => "nothing there was ever otherwise than it is; a path to a value tells it all the same",
                    false => "no look that the archive holds saw a value there",
                });
            }
        }
    }
    Ok(if any { DONE } else { MISSING })
}

fn of_part(part: &str, args: &HistoryArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let store = archive::store()?;
    let named: Vec<String> = args.path.iter().chain(&args.hosts).cloned().collect();
    let machines = archive::machines(&named)?;
    let sightings = way_of_a_part(store, &machines, part)?;
    match args.format {
        Format::Json => {
            let out = terminal.out();
            to_writer(&mut *out, &sightings)?;
        }
        Format::Text if sightings.is_empty() => {
            terminal.remark(&format!("the archive holds no part that is {part}"));
        }
        Format::Text => {
            let mut page = Page::default();
            views::history::part(part, &sightings, &mut page);
            terminal.print_paged(&page)?;
        }
    }
    Ok(if sightings.is_empty() { MISSING } else { DONE })
}
