//! `tectum survey`: look at a machine.

use std::path::Path;

use tectum_report::{
    fact::Why,
    finding::Judgement,
    json::{print::to_writer, write::WithFindings},
    save::write_whole,
    settings::Settings,
};
use tectum_survey::survey::{Event, Plan};

use crate::{
    args::{Detail, Format, SurveyArgs, Units},
    exit::{DONE, FAILED, Failure, Status},
    subject::{Depth, Subject, report, sections},
    views::{Sheet, Terminal, gaps, notes, sheet, timing, timing::milliseconds},
};

pub(super) fn run(
    args: &SurveyArgs,
    settings: &Settings,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let chosen = sections(&args.sections, &args.skip)?;
    let plan = Plan { watch_for: args.watch_for, ..args.patience.plan(chosen) };
    let mut times = Vec::new();
    if args.watch_for.is_some() && args.from != Subject::Live {
        return Err(Failure::StandsStill(args.from.text()));
    }
    let report = report(&args.from, &plan, Depth::Whole, &mut |event| {
        if !args.quiet {
            say(&event, terminal);
        }
        if let (Event::Confined(confined), true) = (&event, args.verbose) {
            terminal.remark(&confined.to_string());
        }
        if let Event::Ended { section, elapsed } = event {
            times.push((section, elapsed));
            if args.timing {
                terminal.remark(&format!("{section} took {} ms", milliseconds(elapsed)));
            }
        }
    })?;
    let judgement = Judgement::of(&report, &settings.limits);
    let to_stdout = args.out.as_deref() == Some(Path::new("-"));
    if args.save {
        super::save::file(&report, &judgement, args.quiet, terminal)?;
    }
    match &args.out {
        None if args.save => {}
        Some(path) if !to_stdout => {
            write_whole(path, |to| to_writer(to, &WithFindings(&report, &judgement)))?;
            if !args.quiet {
                let said = format!("saved {} ({})", path.display(), report.inventory_digest());
                terminal.remark(&said);
            }
        }
        _ if to_stdout || args.format == Format::Json => {
            let out = terminal.out();
            to_writer(&mut *out, &WithFindings(&report, &judgement))?;
        }
        _ => {
            let mut page = Sheet::new(terminal.width());
            let named = !args.sections.is_empty();
            sheet::survey(&report, judgement, &mut page, named, args.detail, units);
            if args.gaps || args.detail == Detail::Full {
                gaps::list(&report, &mut page);
            }
            terminal.print(&page)?;
        }
    }
    if args.timing {
        let mut page = Sheet::new(terminal.width());
        timing::print(&times, &report, &mut page);
        terminal.remark_page(&page);
    }
    if !args.quiet {
        if let Some(said) = gaps::summary(&report) {
            terminal.remark(&said);
        }
        for note in &report.notes {
            terminal.remark(&notes::words(note));
        }
    }
    let wanting = report.gaps().iter().any(|(_, gap)| gap.why != Why::NotApplicable);
    Ok(if args.strict && wanting { FAILED } else { DONE })
}

/// What the user should know while a survey runs.
pub(super) fn say(event: &Event, terminal: &mut Terminal) {
    match event {
        Event::Waiting { section, path, .. } => {
            terminal.remark(&format!("{section}: waiting for {}", path.display()));
        }
        Event::GaveUp { section, path, .. } => {
            terminal.remark(&format!("{section}: gave up on {}, which hangs", path.display()));
        }
        Event::LeftOut { section } => {
            terminal.remark(&format!("{section}: left out, it was not whole in time"));
        }
        Event::OutOfTime => terminal.remark("the survey's time is up; what is left becomes gaps"),
        _ => {}
    }
}
