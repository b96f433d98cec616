//! `tectum survey`: look at a machine.

use std::{io::Write, path::Path};

use tectum_core::{report::save::write_whole, survey::Event};

use crate::{
    args::{Format, SurveyArgs},
    exit::{DONE, Failure, Status},
    subject::{report, sections},
    views::{Sheet, Terminal, sheet},
};

pub(super) fn run(args: &SurveyArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let chosen = sections(&args.sections, &args.skip)?;
    let report = report(&args.from, &chosen, &mut |event| {
        if !args.quiet {
            say(&event, terminal);
        }
    })?;
    let to_stdout = args.out.as_deref() == Some(Path::new("-"));
    match &args.out {
        Some(path) if !to_stdout => {
            write_whole(path, |to| {
                serde_json::to_writer_pretty(&mut *to, &report)?;
                to.write_all(b"\n")
            })?;
            if !args.quiet {
                let said = format!("saved {} ({})", path.display(), report.inventory_digest());
                terminal.remark(&said);
            }
        }
        _ if to_stdout || args.format == Format::Json => {
            let out = terminal.out();
            serde_json::to_writer_pretty(&mut *out, &report).map_err(std::io::Error::from)?;
            writeln!(out)?;
        }
        _ => {
            let mut page = Sheet::new(terminal.width());
            let named = !args.sections.is_empty();
            sheet::survey(&report, &mut page, named, args.detail, args.units);
            terminal.print(&page)?;
        }
    }
    if !args.quiet
        && let Some(said) = crate::views::gaps::summary(&report)
    {
        terminal.remark(&said);
    }
    Ok(DONE)
}

/// What the user should know while a survey runs.
fn say(event: &Event, terminal: &mut Terminal) {
    match event {
        Event::Waiting { section, path, .. } => {
            terminal.remark(&format!("{section}: waiting for {}", path.display()));
        }
        Event::GaveUp { section, path, .. } => {
            terminal.remark(&format!("{section}: gave up on {}, which hangs", path.display()));
        }
        Event::OutOfTime => terminal.remark("the survey's time is up; what is left becomes gaps"),
        _ => {}
    }
}
