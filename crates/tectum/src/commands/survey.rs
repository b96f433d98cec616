//! `tectum survey`: look at a machine.

use crate::page::Page;
use std::{collections::BTreeSet, path::Path};

use tectum_report::{
    Report,
    export::{Exported, Table, table_named},
    fact::Why,
    finding::Judgement,
    json::{
        print::{report_to_writer, to_writer},
        write::WithFindings,
    },
    model::Storage,
    query::spoken,
    save::write_whole,
    settings::Settings,
};
use tectum_survey::{
    process,
    survey::{Event, Plan},
};

use super::{
    deliver::{self, Form},
    export::{Export, form, holds_several, name},
};
use crate::{
    args::{Detail, SurveyArgs, SurveyFormat, Units},
    exit::{DONE, FAILED, Failure, Status},
    subject::{Depth, Subject, name_of, report, sections, subjects_in},
    views::{
        self, Progress, Terminal, Waiting, gap_words, gaps, notes, sheet, timing,
        timing::milliseconds,
    },
};

pub(super) fn run(
    args: &SurveyArgs,
    settings: &Settings,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let form = form(args);
    if let Some(pid) = args.pid {
        return one_process(pid, args, form, units, terminal);
    }
    let mut chosen = sections(&args.sections, &args.skip)?;
    // Filesystems are drawn in the disks that they stand on, so these are looked at for a page that does not tell them.
    let is_named = |name: &str| chosen.iter().any(|section| section.name == name);
    let for_drawing =
        page_form(form).is_some() && !args.save && is_named("filesystems") && !is_named("storage");
    let told: Vec<&'static str> = chosen.iter().map(|section| section.name).collect();
    if for_drawing {
        chosen.extend(sections(&["storage".to_owned()], &[])?);
    }
    let plan = Plan { watch_for: args.watch_for, ..args.patience.plan(chosen) };
    if let (Some(_), Some(still)) =
        (args.watch_for, args.from.iter().find(|from| **from != Subject::Live))
    {
        return Err(Failure::StandsStill(still.text()));
    }
    let mut export = Export::of(form, args)?;
    let mut subjects = Vec::new();
    for given in &args.from {
        subjects.extend(subjects_in(given, &args.patience)?);
    }
    let several = subjects.len() > 1;
    if several && !holds_several(form) && (args.out.is_some() || !args.save) {
        return Err(Failure::OneMachine { form: name(form), given: subjects.len() });
    }
    let progress = Progress::new(if several { subjects.len() } else { 0 });
    let mut hosts = BTreeSet::new();
    let mut status = DONE;
    let mut sheets = Sheets::default();
    for subject in &subjects {
        let look = progress.aside(|| look(subject, &plan, args, several, terminal));
        progress.step();
        let mut report = match look {
            Ok(report) => report,
            // One of many that cannot be read hides none of the others.
            Err(failure) if several => {
                progress.aside(|| terminal.complain(&failure));
                status = FAILED;
                continue;
            }
            Err(failure) => return Err(failure),
        };
        let beneath = report.inventory.storage.clone().filter(|_| for_drawing);
        if for_drawing {
            report.keep_sections(&told);
        }
        let judgement = Judgement::of(&report, &settings.limits);
        if args.save {
            super::save::file(&report, &judgement, args.quiet, terminal)?;
        }
        let host = name_of(&report, subject, &mut hosts);
        progress.aside(|| match &mut export {
            Some(export) => {
                export.add(Exported { host: &host, report: &report, judgement: &judgement })
            }
            None if args.save && args.out.is_none() => Ok(()),
            None if form == SurveyFormat::Json => whole(&report, &judgement, args, terminal),
            None => {
                sheets.add(&report, beneath.as_ref(), judgement, form, args, units);
                Ok(())
            }
        })?;
        // Sheets for a terminal are shown as they are made.
        if export.is_none() && form == SurveyFormat::Text && args.out.is_none() {
            progress.aside(|| terminal.print(&std::mem::take(&mut sheets.page)))?;
        }
        if !args.quiet {
            progress.aside(|| remarks(&report, terminal));
            if let Some(table) = args.table.as_deref().and_then(table_named) {
                let whose = if subjects.len() > 1 { format!("{host}: ") } else { String::new() };
                progress.aside(|| not_whole(table, &report, &whose, terminal));
            }
        }
        let wanting = report.gaps().iter().any(|(_, gap)| gap.why != Why::NotApplicable);
        if args.strict && wanting {
            status = FAILED;
        }
        #[cfg(feature = "html")]
        if export.is_none() && form == SurveyFormat::Html {
            sheets.reports.push(report);
        }
    }
    progress.end();
    if let Some(form) = page_form(form).filter(|_| !sheets.page.blocks().is_empty()) {
        let reports: Vec<&Report> = sheets.reports.iter().collect();
        deliver::page(&sheets.page, form, &reports, args.out.as_deref(), terminal)?;
        say_saved(args, self::form(args), terminal);
    }
    if let Some(export) = export {
        export.finish(args.out.as_deref(), terminal)?;
        say_saved(args, form, terminal);
    }
    Ok(status)
}

/// One process, as a card.
fn one_process(
    pid: u64,
    args: &SurveyArgs,
    form: SurveyFormat,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    if args.sections != ["processes"] {
        return Err(Failure::PidOfProcesses);
    }
    if let Some(still) = args.from.iter().find(|from| **from != Subject::Live) {
        return Err(Failure::ProcessStandsStill(still.text()));
    }
    let card = process::look(pid, args.command_line, args.patience.deadline)?;
    if form == SurveyFormat::Json {
        let mut text = Vec::new();
        to_writer(&mut text, &card)?;
        deliver::bytes(&text, args.out.as_deref(), terminal)?;
        return Ok(DONE);
    }
    let Some(form) = page_form(form) else { return Err(Failure::NoFormOfProcess(name(form))) };
    let mut page = crate::page::Page::default();
    views::process::card(&card, units, &mut page);
    deliver::page(&page, form, &[], args.out.as_deref(), terminal)?;
    Ok(DONE)
}

fn say_saved(args: &SurveyArgs, form: SurveyFormat, terminal: &mut Terminal) {
    if let Some(path) = args.out.as_deref().filter(|path| *path != Path::new("-"))
        && !args.quiet
    {
        terminal.remark(&format!("saved {} ({})", path.display(), name(form)));
    }
}

/// The form of a page that a format is, if it is one.
fn page_form(form: SurveyFormat) -> Option<Form> {
    match form {
        SurveyFormat::Text => Some(Form::Text),
        SurveyFormat::Markdown => Some(Form::Markdown),
        #[cfg(feature = "html")]
        SurveyFormat::Html => Some(Form::Html),
        _ => None,
    }
}

/// Sheets of machines on one page.
#[derive(Default)]
struct Sheets {
    page: Page,
    /// The reports of which all values are told.
    reports: Vec<Report>,
}

impl Sheets {
    fn add(
        &mut self,
        report: &Report,
        beneath: Option<&Storage>,
        judgement: Judgement,
        form: SurveyFormat,
        args: &SurveyArgs,
        units: Units,
    ) {
        if !self.page.blocks().is_empty() {
            self.page.gap();
        }
        // A page that is opened in a browser has room for the drawings and tables of all sections.
        #[cfg(feature = "html")]
        let drawn = form == SurveyFormat::Html;
        #[cfg(not(feature = "html"))]
        let drawn = false;
        let named = !args.sections.is_empty() || (drawn && args.detail == Detail::Normal);
        let _ = form;
        sheet::survey(report, beneath, judgement, &mut self.page, named, args.detail, units);
        if args.gaps || args.detail == Detail::Full {
            gaps::list(report, &mut self.page);
        }
    }
}

/// Looks at a machine.
fn look(
    subject: &Subject,
    plan: &Plan,
    args: &SurveyArgs,
    several: bool,
    terminal: &mut Terminal,
) -> Result<Report, Failure> {
    let mut times = Vec::new();
    let mut waiting = Waiting::new();
    let report = report(subject, plan, Depth::Whole, &mut |event| {
        if let (Event::Reading { sections, whole, all }, false) = (&event, several || args.quiet) {
            waiting.says(&format!("{whole} of {all} read, now {}", sections.join(", ")));
            return;
        }
        if !args.quiet {
            waiting.aside(|| say(&event, terminal));
        }
        if let (Event::Confined(confined), true) = (&event, args.verbose) {
            terminal.remark(&confined.to_string());
        }
        if let Event::Ended { section, elapsed } = event {
            times.push((section, elapsed));
            if args.timing {
                let said = format!("{section} took {} ms", milliseconds(elapsed));
                waiting.aside(|| terminal.remark(&said));
            }
        }
    });
    waiting.end();
    let report = report?;
    if args.timing {
        let mut page = Page::default();
        timing::print(&times, &report, &mut page);
        terminal.remark_page(&page);
    }
    Ok(report)
}

/// Gives a report whole.
fn whole(
    report: &Report,
    judgement: &Judgement,
    args: &SurveyArgs,
    terminal: &mut Terminal,
) -> Result<(), Failure> {
    let written = WithFindings(report, judgement, args.evidence.into());
    match args.out.as_deref().filter(|path| *path != Path::new("-")) {
        Some(path) => {
            write_whole(path, |to| report_to_writer(to, &written))?;
            if !args.quiet {
                let said = format!("saved {} ({})", path.display(), report.inventory_digest());
                terminal.remark(&said);
            }
        }
        None => {
            let out = terminal.out();
            report_to_writer(&mut *out, &written)?;
        }
    }
    Ok(())
}

/// What is missing, and what else a reader should know.
fn remarks(report: &Report, terminal: &mut Terminal) {
    if let Some(said) = gaps::summary(report) {
        terminal.remark(&said);
    }
    for said in notes::sentences(&report.notes) {
        terminal.remark(&said);
    }
}

/// What the user should know while a survey runs.
pub(super) fn say(event: &Event, terminal: &mut Terminal) {
    match event {
        Event::Waiting { section, path, .. } => {
            terminal.remark(&format!("{section}: waiting for {}", path.display()));
        }
        Event::GaveUp { section, path, waited, .. } => terminal.remark(&format!(
            "{section}: gave up on {}, which had not answered for {} ms",
            path.display(),
            milliseconds(*waited)
        )),
        Event::LeftOut { section } => {
            terminal.remark(&format!("{section}: left out, it was not whole in time"));
        }
        Event::OutOfTime => terminal.remark("the survey's time is up; what is left becomes gaps"),
        _ => {}
    }
}

/// Says of a table, by itself, that rows may be missing: an empty one would look as if there were none.
fn not_whole(table: &Table, report: &Report, whose: &str, terminal: &mut Terminal) {
    for (at, gap) in report.gaps() {
        let spoken = spoken(&at);
        let names = spoken.split('.').filter(|name| name.parse::<usize>().is_err());
        let list = names.collect::<Vec<_>>().join(".");
        let behind = table.path.strip_prefix(&list);
        if behind.is_some_and(|behind| behind.is_empty() || behind.starts_with('.')) {
            terminal.remark(&format!("{whose}{spoken}: {}", gap_words(gap)));
        }
    }
}
