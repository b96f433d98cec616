//! `tectum schema`: the JSON Schema of a report, a comparison or a check.

use tectum_report::json::schema;

use crate::{
    args::{Form, SchemaArgs},
    exit::{DONE, Failure, Status},
    views::Terminal,
};
use tectum_report::json::print::to_writer;

pub(super) fn run(args: &SchemaArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let out = terminal.out();
    let schema = match args.of {
        Form::Report => schema::report(),
        Form::Comparison => schema::comparison(),
        Form::Check => schema::check(),
    };
    to_writer(&mut *out, &schema)?;
    Ok(DONE)
}
