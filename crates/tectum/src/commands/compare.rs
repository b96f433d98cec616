//! `tectum compare`: what changed from one subject to another.

use std::io::Write;

use serde::Serialize;
use tectum_core::{
    compare::{Comparison, Scope, compare},
    report::{Report, write::Plain},
};

use crate::{
    args::{CompareArgs, Format},
    exit::{DIFFERENT, DONE, Failure, Status},
    subject::{report, sections},
    views::{Sheet, Terminal, changes},
};

pub(super) fn run(args: &CompareArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let chosen = sections(&[], &args.skip)?;
    let plan = args.patience.plan(chosen);
    let before = report(&args.before, &plan, &mut |_| {})?;
    let after = report(&args.after, &plan, &mut |_| {})?;
    let scope = if args.readings { Scope::InventoryAndReadings } else { Scope::Inventory };
    let result = compare(&before, &after, scope);
    match args.format {
        Format::Json => {
            let out = terminal.out();
            let document = Document::new(&before, &after, &result);
            serde_json::to_writer_pretty(&mut *out, &document).map_err(std::io::Error::from)?;
            writeln!(out)?;
        }
        Format::Text => {
            let mut page = Sheet::new(terminal.width());
            changes::print(&before, &after, &result, &mut page);
            terminal.print(&page)?;
        }
    }
    if !args.quiet && !result.not_compared.is_empty() {
        terminal.remark(&changes::not_compared(&result));
    }
    Ok(if result.changes.is_empty() { DONE } else { DIFFERENT })
}

/// A comparison with the reports it is of.
#[derive(Serialize)]
struct Document<'a> {
    format: &'static str,
    format_version: &'static str,
    before: Of<'a>,
    after: Of<'a>,
    #[serde(flatten)]
    result: &'a Comparison,
}

#[derive(Serialize)]
struct Of<'a> {
    subject: &'a str,
    taken_at: String,
    machine: Plain<'a>,
    inventory_digest: String,
}

impl<'a> Document<'a> {
    fn new(before: &'a Report, after: &'a Report, result: &'a Comparison) -> Self {
        let of = |report: &'a Report| Of {
            subject: &report.taken.subject,
            taken_at: report.taken.at.to_string(),
            machine: Plain(&report.machine),
            inventory_digest: report.inventory_digest(),
        };
        Self {
            format: "tectum-comparison",
            format_version: "1.0",
            before: of(before),
            after: of(after),
            result,
        }
    }
}
