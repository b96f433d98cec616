//! `tectum redact`: a copy fit to share, whose parts can still be matched.

use std::{collections::BTreeSet, io::Write, path::Path};

use tectum_report::{leaf::Identifies, redact::Pseudonyms, save::write_whole};
use tectum_survey::{
    redact::{Redactor, SEARCHED},
    source::Door,
};

use crate::{
    args::RedactArgs,
    exit::{DONE, Failure, Status},
    subject::{Opened, Subject, open, report, sections},
    views::Terminal,
};

pub(super) fn run(args: &RedactArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
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
        Some(path) => {
            std::fs::read(path).map_err(|cause| Failure::Subject { path: path.clone(), cause })?
        }
        None => {
            let mut random = [0u8; 32];
            getrandom::fill(&mut random)
                .map_err(|error| Failure::Output(std::io::Error::other(error.to_string())))?;
            random.to_vec()
        }
    };
    let pseudonyms = Pseudonyms::new(&key, &keep);
    let chosen = sections(&[], &[])?;
    let plan = crate::args::Patience::default().plan(chosen);
    if let Subject::Path(path) = &args.from
        && let Opened::Machine(door) = open(&args.from)?.what
        && !path.is_dir()
    {
        return redact_capture(args, &door, &plan, &pseudonyms, terminal);
    }
    let original = report(&args.from, &plan, &mut |_| {})?;
    let copy = pseudonyms.report(&original)?;
    write_out(&args.out, terminal, |to| {
        serde_json::to_writer_pretty(&mut *to, &copy)?;
        to.write_all(b"\n")
    })?;
    Ok(DONE)
}

/// A capture is surveyed first: the model says which of its texts identify the machine.
fn redact_capture(
    args: &RedactArgs,
    door: &std::sync::Arc<Door>,
    plan: &tectum_survey::survey::Plan,
    pseudonyms: &Pseudonyms,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let original = crate::subject::surveyed(door, &args.from, plan, &mut |_| {});
    let redactor = Redactor::new(&original, pseudonyms)?;
    let Some(archive) = door.archive() else {
        return Err(Failure::NotAMachine(args.from.text()));
    };
    let copy = archive.redacted(&redactor)?;
    write_out(&args.out, terminal, |to| copy.write(to))?;
    let left: Vec<&str> = Identifies::ALL
        .iter()
        .filter(|kind| pseudonyms.replaces(**kind) && !SEARCHED.contains(kind))
        .map(|kind| kind.word())
        .collect();
    terminal.remark(&format!(
        "its raw files may still hold texts of these kinds: {}; passwords that somebody wrote into \
         them; and what no section reads. A redacted report holds none of these",
        left.join(", ")
    ));
    Ok(DONE)
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
        terminal.remark(&format!("wrote {}, its identifying texts replaced", out.display()));
    }
    Ok(())
}
