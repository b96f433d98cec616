//! `tectum redact`: a copy fit to share, whose parts can still be matched.

use std::{
    collections::BTreeSet,
    io::Write,
    mem::ManuallyDrop,
    path::{Path, PathBuf},
    sync::Arc,
};

use jiff::Timestamp;
use tectum_report::{leaf::Identifies, redact::Pseudonyms, save::write_whole};
use tectum_survey::{redact::capture, sections::kept_on_request, source::Door, survey::Plan};

use crate::{
    args::RedactArgs,
    exit::{DONE, Failure, Status},
    key,
    subject::{Depth, Opened, Subject, TOOL, open, sections, surveyed},
    views::Terminal,
};

/// How many files are named that were left out.
const MOST_NAMED: usize = 8;

pub(super) fn run(args: &RedactArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    if let Some(path) = &args.make_key {
        key::make(path)?;
        terminal.remark(&format!("wrote a new key to {}, for you only", path.display()));
        return Ok(DONE);
    }
    // Without these it is wrong usage, which the parser has told already.
    let (Some(from), Some(out)) = (&args.from, &args.out) else { return Ok(crate::exit::USAGE) };
    let keep: BTreeSet<Identifies> = args
        .keep
        .iter()
        .map(|word| {
            Identifies::from_word(word).ok_or_else(|| Failure::NoSuchKind {
                given: word.clone(),
                known: Identifies::ALL.iter().map(|kind| kind.word()).collect(),
            })
        })
        .collect::<Result<_, _>>()?;
    let key = match &args.key {
        Some(path) => key::read(path)?,
        None => key::fresh()?,
    };
    let pseudonyms = Pseudonyms::new(&key, &keep);
    let plan = crate::args::Patience::default().plan(sections(&[], &[])?);
    let opened = open(from, &crate::args::Patience::default(), Depth::Whole)?;
    let original = match opened.what {
        Opened::Machine(door) if door.archive().is_some() => {
            return redact_capture(args, from, out, &door, &plan, &pseudonyms, terminal);
        }
        _ if !args.include.is_empty() => return Err(Failure::NotACapture(from.text())),
        Opened::Machine(door) => surveyed(&door, from, &plan, &mut |_| {}),
        Opened::Report(report) => *report,
    };
    let copied = pseudonyms.report_and(original, |copy| {
        let mut text = Vec::new();
        copy.write(&mut text, args.evidence.into()).map(|()| text)
    });
    let (copy, text) = copied?;
    // The program ends with it: to give it back piece by piece takes longer than to read it.
    let _copy = ManuallyDrop::new(copy);
    let text = text.map_err(Failure::Output)?;
    write_out(out, terminal, |to| to.write_all(&text))?;
    Ok(DONE)
}

/// A capture is surveyed first: what sections ask for is what goes into the copy.
fn redact_capture(
    args: &RedactArgs,
    from: &Subject,
    out: &Path,
    door: &Arc<Door>,
    plan: &Plan,
    pseudonyms: &Pseudonyms,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let mut plan = plan.clone();
    plan.sections.extend(door.archive().map(kept_on_request).unwrap_or_default());
    let original = surveyed(door, from, &plan, &mut |_| {});
    for path in &args.include {
        door.lease().read(path, usize::MAX).map_err(|cause| Failure::NotCaptured {
            path: path.clone(),
            answer: cause.outcome.to_string(),
        })?;
    }
    let (copy, told) = capture(door, &original, pseudonyms, TOOL, Timestamp::now(), &args.include)?;
    if out == Path::new("-") {
        copy.write(terminal.out_raw())?;
    } else {
        let mut length = 0;
        super::capture::save(out, &mut length, |to| copy.write(to))?;
        terminal.remark(&format!(
            "wrote {} ({length} bytes), what identifies the machine replaced",
            out.display()
        ));
    }
    if !told.withheld.is_empty() {
        terminal.remark(&format!(
            "left out, because nobody can say what is in them: {}",
            named(&told.withheld)
        ));
    }
    if !told.included.is_empty() {
        terminal.remark(&format!(
            "in the copy as they are, by --include, whatever they hold: {}",
            named(&told.included)
        ));
    }
    Ok(DONE)
}

fn named(paths: &[PathBuf]) -> String {
    let first: Vec<String> =
        paths.iter().take(MOST_NAMED).map(|path| path.display().to_string()).collect();
    match paths.len().saturating_sub(MOST_NAMED) {
        0 => first.join(", "),
        more => format!("{} and {more} more", first.join(", ")),
    }
}

fn write_out(
    out: &Path,
    terminal: &mut Terminal,
    write: impl FnOnce(&mut dyn Write) -> std::io::Result<()>,
) -> Result<(), Failure> {
    if out == Path::new("-") {
        write(&mut terminal.out_raw())?;
    } else {
        write_whole(out, write)?;
        terminal.remark(&format!("wrote {}, what identifies the machine replaced", out.display()));
    }
    Ok(())
}
