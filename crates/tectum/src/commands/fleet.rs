//! `tectum fleet`: the machines of the archive, a row each.

use crate::page::Page;
use std::cmp::Reverse;

use jiff::{SignedDuration, Timestamp};
use tectum_archive::{
    fleet::{Row, by_value},
    when::{age, now, time},
};
use tectum_report::{export::csv::harmless, json::print::to_writer, settings::Settings};

use super::deliver::{self, Form};
use crate::{
    archive,
    args::{FleetArgs, FleetSort, TableFormat, Units},
    exit::{DONE, Failure, Status},
    subject::path,
    views::{self, Terminal},
};

pub(super) fn run(
    args: &FleetArgs,
    settings: &Settings,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let by = args.by.as_deref().map(path).transpose()?;
    let ago = |span: SignedDuration| Timestamp::now().checked_sub(span).unwrap_or(Timestamp::MIN);
    let hours = i64::try_from(settings.stale_after_hours).unwrap_or(i64::MAX / 3600);
    let usual = ago(SignedDuration::from_hours(hours));
    let stale = match &args.stale {
        Some(text) => Some(ago(age(text).ok_or_else(|| Failure::NoAge(text.clone()))?)),
        None => None,
    };
    let changed_since = match &args.changed_since {
        Some(text) => {
            let none = || tectum_archive::when::NoTime { given: text.clone() };
            Some(time(text, &now()).ok_or_else(none)?)
        }
        None => None,
    };
    let store = archive::store()?;
    let mut machines = archive::machines(&args.hosts)?;
    machines.retain(|one| {
        stale.is_none_or(|before| one.last_seen < before)
            && changed_since.is_none_or(|since| one.unchanged_since > since)
    });
    if let Some(by) = by {
        let having = by_value(store, &machines, &by)?;
        let out = args.out.as_deref();
        match args.format {
            TableFormat::Json => {
                let mut text = Vec::new();
                to_writer(&mut text, &having)?;
                deliver::bytes(&text, out, terminal)?;
            }
            TableFormat::Csv => {
                let rows = having.iter().flat_map(|one| {
                    let exactly = |value: &tectum_archive::exact::Exact| value.text().to_owned();
                    let value = views::fleet::in_a_line(&one.values, exactly);
                    let not_told = one.not_told.to_string();
                    let of = move |machine: &String| {
                        vec![machine.clone(), value.clone(), not_told.clone()]
                    };
                    one.machines.iter().map(of)
                });
                deliver::bytes(&table(&["host", "value", "not_told"], rows)?, out, terminal)?;
            }
            _ => {
                let mut page = Page::default();
                views::fleet::by(&by.to_string(), &having, units, &mut page);
                deliver::page(&page, Form::of_table(args.format), &[], out, terminal)?;
            }
        }
        return Ok(DONE);
    }
    let mut rows: Vec<Row> =
        machines.into_iter().map(|one| Row::of(one, stale.unwrap_or(usual))).collect();
    sort(&mut rows, args.sort);
    let out = args.out.as_deref();
    match args.format {
        TableFormat::Json => {
            let mut text = Vec::new();
            to_writer(&mut text, &rows)?;
            deliver::bytes(&text, out, terminal)?;
        }
        TableFormat::Csv => {
            let cells = rows.iter().map(views::fleet::cells);
            deliver::bytes(&table(&views::fleet::COLUMNS, cells)?, out, terminal)?;
        }
        _ => {
            let mut page = Page::default();
            views::fleet::rows(&rows, units, &mut page);
            deliver::page(&page, Form::of_table(args.format), &[], out, terminal)?;
        }
    }
    Ok(DONE)
}

fn sort(rows: &mut [Row], by: FleetSort) {
    rows.sort_by_cached_key(|row| {
        let host = row.latest.who.host.clone().unwrap_or_default();
        let overview = &row.latest.overview;
        let first: (Reverse<u64>, String) = match by {
            FleetSort::Host => (Reverse(0), String::new()),
            FleetSort::Model => (Reverse(0), overview.model.clone().unwrap_or_default()),
            FleetSort::Memory => (Reverse(overview.memory_bytes.unwrap_or(0)), String::new()),
            FleetSort::Disks => (Reverse(overview.drives_bytes.unwrap_or(0)), String::new()),
            FleetSort::LastSeen => (Reverse(0), row.latest.last_seen.to_string()),
            FleetSort::Changed => {
                let since = u64::try_from(row.latest.unchanged_since.as_second()).unwrap_or(0);
                (Reverse(since), String::new())
            }
            FleetSort::Findings => {
                let found = row.latest.findings;
                let grave = found.critical.saturating_mul(1_000_000);
                let grave = grave.saturating_add(found.warning.saturating_mul(1_000));
                (Reverse(grave.saturating_add(found.notice)), String::new())
            }
        };
        (first, host, row.latest.machine.clone())
    });
}

/// A table with a header (RFC 4180).
fn table(head: &[&str], rows: impl Iterator<Item = Vec<String>>) -> Result<Vec<u8>, Failure> {
    let mut table =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    let failed = |error: csv::Error| Failure::Output(error.into());
    table.write_record(head).map_err(failed)?;
    for row in rows {
        table.write_record(row.iter().map(|cell| harmless(cell))).map_err(failed)?;
    }
    table.into_inner().map_err(|error| Failure::Output(error.into_error()))
}
