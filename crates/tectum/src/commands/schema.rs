//! `tectum schema`: the JSON Schema of a report or a comparison.

use std::io::Write;

use tectum_report::json::schema;

use crate::{
    args::{Form, SchemaArgs},
    exit::{DONE, Failure, Status},
    views::Terminal,
};

pub(super) fn run(args: &SchemaArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let out = terminal.out();
    let schema = match args.of {
        Form::Report => schema::report(),
        Form::Comparison => schema::comparison(),
    };
    serde_json::to_writer_pretty(&mut *out, &schema).map_err(std::io::Error::from)?;
    writeln!(out)?;
    Ok(DONE)
}
