//! JSON Lines: a part a line, for databases and log pipelines.
//!
//! ```text
//! {"host":…, "at":…, "path":…, "kind":…, "identity":{…}, "fields":{…}, "missing":{…}}
//! ```
//!
//! `kind` is the part's kind as a path (`storage.disks`), `path` says which one (`storage.disks.sda`), `identity`
//! what makes it itself, `fields` are its known values by the names of columns, and `missing` says of the others why.
//! What does not apply to the part is in neither. A finding is a line of the kind `finding`.

use std::io::{self, Write};

use serde::Serialize;
use serde_json::{Map, Value};

use super::{
    Exported,
    part::{parts, path_of},
};
use crate::fact::Why;

#[derive(Serialize)]
struct Line<'a> {
    host: &'a str,
    at: String,
    path: &'a str,
    kind: &'a str,
    #[serde(skip_serializing_if = "Map::is_empty")]
    identity: Map<String, Value>,
    fields: Map<String, Value>,
    #[serde(skip_serializing_if = "Map::is_empty")]
    missing: Map<String, Value>,
}

/// Writes a report, a part a line.
///
/// # Errors
/// What the writer says.
pub fn write(exported: Exported<'_>, to: &mut dyn Write) -> io::Result<()> {
    let Exported { host, report, judgement } = exported;
    let at = report.taken.at.to_string();
    let parts = parts(report);
    for part in &parts {
        let known = |(column, fact): (&super::Column, Option<&dyn crate::declare::AnyFact>)| {
            Some((column.name.clone(), fact?.json()?))
        };
        let missing = part.gaps().into_iter().filter(|(_, gap)| gap.why != Why::NotApplicable);
        let line = Line {
            host,
            at: at.clone(),
            path: &part.path,
            kind: &part.table().path,
            identity: part.identity().into_iter().map(|(n, v)| (n.to_owned(), v.into())).collect(),
            fields: part.values().filter_map(known).collect(),
            missing: missing.map(|(name, gap)| (name.to_owned(), gap.why.code().into())).collect(),
        };
        write_line(&line, to)?;
    }
    for finding in &judgement.findings {
        let path = path_of(&parts, &finding.part);
        let fields = [
            ("rule", finding.by.id()),
            ("severity", finding.severity.code()),
            ("label", &finding.label),
            ("says", &finding.says),
        ];
        let line = Line {
            host,
            at: at.clone(),
            path: &path,
            kind: "finding",
            identity: Map::new(),
            fields: fields.into_iter().map(|(n, v)| (n.to_owned(), v.into())).collect(),
            missing: Map::new(),
        };
        write_line(&line, to)?;
    }
    Ok(())
}

fn write_line(line: &Line<'_>, to: &mut dyn Write) -> io::Result<()> {
    // What steers a terminal is escaped as in every JSON that is printed.
    crate::json::print::line_to_writer(to, line)
}
