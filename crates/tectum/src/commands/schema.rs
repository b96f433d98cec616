//! `tectum schema`: the JSON Schema of a report, a comparison or a check; what open formats hold.

use std::io::Write;

use serde_json::{Value, json};
use tectum_report::{
    export::{open_metrics, tables},
    json::{print::to_writer, schema},
};

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
        Form::Check => schema::check(),
        Form::Space => schema::space(),
        Form::Process => schema::process(),
        Form::Tables => told_tables(),
        Form::Metrics => told_metrics(),
        #[cfg(feature = "sqlite")]
        Form::Database => {
            out.write_all(tectum_report::export::sqlite::schema().as_bytes())?;
            out.flush()?;
            return Ok(DONE);
        }
    };
    to_writer(&mut *out, &schema)?;
    out.flush()?;
    Ok(DONE)
}

/// Every table, with what its rows are and what its columns mean.
fn told_tables() -> Value {
    let all = tables().iter().map(|table| {
        let columns = table.columns.iter().map(|column| {
            json!({
                "name": column.name,
                "unit": column.leaf.unit.map(|unit| unit.name),
                "meaning": column.meaning_in_a_line(),
            })
        });
        json!({
            "name": table.name,
            "kind": table.path,
            "rows": table.shape.noun,
            "within": table.within.and_then(|at| tables().get(at)).map(|holder| &holder.name),
            "columns": columns.collect::<Vec<_>>(),
        })
    });
    all.collect()
}

fn told_metrics() -> Value {
    let all = open_metrics::metrics();
    all.into_iter().map(|(name, meaning)| json!({ "name": name, "meaning": meaning })).collect()
}
