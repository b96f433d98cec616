//! `tectum sections`: what can be surveyed.

use tectum_core::sections::SECTIONS;

use crate::{
    exit::{DONE, Failure, Status},
    views::{Sheet, Terminal},
};

pub(super) fn run(terminal: &mut Terminal) -> Result<Status, Failure> {
    let mut page = Sheet::new(terminal.width());
    for section in SECTIONS {
        page.entry(section.name).plain(section.summary);
    }
    terminal.print(&page)?;
    Ok(DONE)
}
