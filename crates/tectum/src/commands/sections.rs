//! `tectum sections`: what can be surveyed.

use std::io::Write;

use tectum_survey::sections::{SECTIONS, reads};

use crate::{
    args::SectionsArgs,
    exit::{DONE, Failure, Status},
    views::{Sheet, Terminal},
};

pub(super) fn run(args: &SectionsArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    if args.paths {
        let all: Vec<_> = SECTIONS.iter().collect();
        let out = terminal.out();
        for pattern in reads(&all) {
            writeln!(out, "{pattern}")?;
        }
        return Ok(DONE);
    }
    let mut page = Sheet::new(terminal.width());
    for section in SECTIONS {
        page.entry(section.name).plain(section.summary);
    }
    terminal.print(&page)?;
    Ok(DONE)
}
