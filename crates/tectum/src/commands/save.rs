//! `tectum save`: file reports and captures into the archive.

use tectum_archive::{
    side_by_side::side_by_side,
    store::{Remark, Saved},
    written::Prepared,
};
use tectum_report::{Report, finding::Judgement, settings::Settings};

use crate::{
    archive,
    args::SaveArgs,
    exit::{DONE, FAILED, Failure, Status},
    subject::{Depth, Subject, report, sections, subjects_in},
    views::{Progress, Terminal},
};

pub(super) fn run(
    args: &SaveArgs,
    settings: &Settings,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let plan = args.patience.plan(sections(&[], &[])?);
    let mut subjects = Vec::new();
    for given in &args.subjects {
        subjects.extend(subjects_in(given, &args.patience)?);
    }
    // What cannot be written anywhere is told before anything is read.
    archive::store_or_make()?;
    let several = subjects.len() > 1;
    let progress = Progress::new(subjects.len());
    let mut status = DONE;
    let read = |subject: &Subject| {
        let report = report(subject, &plan, Depth::Whole, &mut |_| {})?;
        let judgement = Judgement::of(&report, &settings.limits);
        Ok::<_, Failure>((report, judgement))
    };
    side_by_side(&subjects, 1, read, |_, judged| {
        let filed = judged.and_then(|(report, judgement)| {
            progress.aside(|| file(&report, &judgement, args.quiet, terminal))
        });
        progress.step();
        match filed {
            // One of many that cannot be filed keeps none of the others out.
            Err(failure) if several => {
                progress.aside(|| terminal.complain(&failure));
                status = FAILED;
                Ok(())
            }
            filed => filed,
        }
    })?;
    progress.end();
    Ok(status)
}

/// Files a report into the archive, and says what became of it.
pub(super) fn file(
    report: &Report,
    judgement: &Judgement,
    quiet: bool,
    terminal: &mut Terminal,
) -> Result<(), Failure> {
    let prepared = Prepared::of(report, judgement)?;
    let saved = archive::store_or_make()?.save(&prepared)?;
    if !quiet {
        let name = prepared.who.host.as_deref().unwrap_or(&saved.machine);
        terminal.remark(&words(name, &saved));
        for remark in &saved.remarks {
            terminal.remark(&format!("{name}: {}", remark_words(remark)));
        }
    }
    Ok(())
}

fn words(name: &str, saved: &Saved) -> String {
    let Saved { number, new_machine, new_state, unchanged, stood_already, .. } = saved;
    let what = match (stood_already, new_machine, new_state) {
        (true, ..) => {
            return format!("{name}: this look is in the archive already, as number {number}");
        }
        (_, true, _) => "seen for the first time",
        (_, _, true) => "changed",
        _ if *unchanged => "unchanged",
        _ => "changed, to a state that it was seen in before",
    };
    format!("{name}: saved as look {number} at {}, {what}", saved.machine)
}

fn remark_words(remark: &Remark) -> String {
    match remark {
        Remark::OtherName { before, now } => {
            format!("it was called {before} before, and is called {now}")
        }
        Remark::Shared { with, what, text } => format!(
            "{with} has the same {what} {text}: two machines that claim it, or one whose board was replaced"
        ),
        Remark::Alternates { one, other } => {
            format!("it is called {one} and {other} in turn: two machines may claim one identity")
        }
        Remark::ClockWentBack { before, now } => format!(
            "the clock went back: the look before was saved at {before}, and this one at {now}"
        ),
    }
}
