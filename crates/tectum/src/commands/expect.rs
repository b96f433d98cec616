//! `tectum expect`: what is expected of a machine, from one as it is.

use std::io::Write;

use tectum_report::{expectation::draft, save::write_whole};

use crate::{
    args::ExpectArgs,
    exit::{DONE, Failure, Status},
    subject::{Depth, report, sections},
    views::Terminal,
};

pub(super) fn run(args: &ExpectArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let plan = args.patience.plan(sections(&[], &[])?);
    let report = report(&args.from, &plan, Depth::Gaps, &mut |event| {
        super::survey::say(&event, terminal);
    })?;
    let text = draft(&report, args.identities);
    match &args.out {
        Some(out) => {
            write_whole(out, |file| file.write_all(text.as_bytes()))?;
            terminal.remark(&format!("saved {}", out.display()));
        }
        None => {
            let out = terminal.out();
            out.write_all(text.as_bytes())?;
            out.flush()?;
        }
    }
    Ok(DONE)
}
