//! `tectum schema`: the JSON Schema of a report.

use std::io::Write;

use crate::{
    exit::{DONE, Failure, Status},
    views::Terminal,
};

pub(super) fn run(terminal: &mut Terminal) -> Result<Status, Failure> {
    let out = terminal.out();
    serde_json::to_writer_pretty(&mut *out, &tectum_core::report::schema::schema())
        .map_err(std::io::Error::from)?;
    writeln!(out)?;
    Ok(DONE)
}
