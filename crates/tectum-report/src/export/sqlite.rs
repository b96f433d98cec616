//! A database in a file (SQLite 3): a table a kind of part, for one's own questions.
//!
//! Every table is strict and refers to the report that a row is of and to the row that holds it. Numbers are whole
//! numbers of the unit in the column's name, yes and no are 1 and 0, lists are JSON. A value that is not known is
//! `NULL`, and the table `missing` says why.

use std::{
    fs::File,
    io::{self, Write},
};

use rusqlite::{Connection, params, params_from_iter, types::Value as Cell};
use tempfile::TempDir;

use super::{
    Exported, Table,
    part::{Part, parts, path_of},
    tables,
};
use crate::leaf::JsonForm;

/// The columns before a table's own.
const FIRST: [&str; 4] = ["row_id", "report_id", "holder_id", "part"];

/// A database that reports are added to. It is written in no order, so it is made aside, in a folder for its
/// owner only, and then written whole.
pub struct Database {
    connection: Connection,
    folder: TempDir,
}

/// The file's name in the folder where it is made.
const NAME: &str = "database";

impl Database {
    /// An empty one, with all tables and views, that is made in a folder of its own.
    ///
    /// # Errors
    /// What the database or the system says.
    pub fn made_in(folder: TempDir) -> io::Result<Self> {
        let made = || {
            let connection = Connection::open(folder.path().join(NAME))?;
            // Nobody else sees it before it is whole.
            connection.pragma_update(None, "journal_mode", "off")?;
            connection.pragma_update(None, "synchronous", "off")?;
            connection.pragma_update(None, "foreign_keys", true)?;
            connection.set_prepared_statement_cache_capacity(tables().len() + 8);
            connection.execute_batch(&schema())?;
            Ok(connection)
        };
        let connection = made().map_err(failed)?;
        Ok(Self { connection, folder })
    }

    /// Adds a report.
    ///
    /// # Errors
    /// What the database says.
    pub fn add(&mut self, exported: Exported<'_>) -> io::Result<()> {
        let mut add = || {
            let all = self.connection.transaction()?;
            report(&exported, &all)?;
            all.commit()
        };
        add().map_err(failed)
    }

    /// Writes it.
    ///
    /// # Errors
    /// What the database or the writer says.
    pub fn finish(self, to: &mut dyn Write) -> io::Result<()> {
        self.connection.close().map_err(|(_, error)| failed(error))?;
        io::copy(&mut File::open(self.folder.path().join(NAME))?, to)?;
        Ok(())
    }
}

fn failed(error: rusqlite::Error) -> io::Error {
    io::Error::other(error)
}

/// What makes the tables and views.
pub fn schema() -> String {
    let mut text = String::from(BEFORE);
    for table in tables() {
        let holder = table.within.and_then(|at| tables().get(at));
        let holder = match holder {
            Some(holder) => format!(" REFERENCES \"{}\" (row_id)", holder.name),
            None => String::new(),
        };
        let meaning = table.shape.doc.split_whitespace().collect::<Vec<_>>().join(" ");
        text.push_str(&format!(
            "-- {meaning}\nCREATE TABLE \"{}\" (\n    row_id INTEGER PRIMARY KEY,\n    \
             report_id INTEGER NOT NULL REFERENCES reports (report_id),\n    \
             holder_id INTEGER{holder},\n    part TEXT NOT NULL",
            table.name
        ));
        for column in &table.columns {
            let kind = match column.leaf.form {
                JsonForm::Unsigned | JsonForm::Signed | JsonForm::Boolean => "INTEGER",
                _ => "TEXT",
            };
            let meaning = column.meaning_in_a_line();
            text.push_str(&format!(",\n    -- {meaning}\n    \"{}\" {kind}", column.name));
        }
        text.push_str("\n) STRICT;\n");
    }
    text.push_str(BEHIND);
    text.push_str(&serials());
    text
}

const BEFORE: &str = "\
-- Looks at machines.
CREATE TABLE reports (
    report_id INTEGER PRIMARY KEY,
    host TEXT NOT NULL,
    taken_at TEXT NOT NULL,
    subject TEXT NOT NULL,
    tool TEXT NOT NULL,
    as_root INTEGER NOT NULL,
    inventory_digest TEXT NOT NULL
) STRICT;
-- What is odd.
CREATE TABLE findings (
    report_id INTEGER NOT NULL REFERENCES reports (report_id),
    rule TEXT NOT NULL,
    severity TEXT NOT NULL,
    part TEXT NOT NULL,
    label TEXT NOT NULL,
    says TEXT NOT NULL,
    accepted INTEGER NOT NULL
) STRICT;
-- Why values are missing.
CREATE TABLE missing (
    report_id INTEGER NOT NULL REFERENCES reports (report_id),
    path TEXT NOT NULL,
    why TEXT NOT NULL,
    hint TEXT
) STRICT;
";

const BEHIND: &str = "\
-- The last look at each machine.
CREATE VIEW latest AS
SELECT report_id, host, taken_at FROM (
    SELECT *, row_number() OVER (PARTITION BY host ORDER BY taken_at DESC, report_id DESC) AS place
    FROM reports
) WHERE place = 1;
-- A row a machine, as it was seen last.
CREATE VIEW machines AS
SELECT l.host, l.taken_at, p.system_manufacturer AS manufacturer, p.system_product AS product, m.serial, m.system_uuid,
    c.model_name AS processor, c.packages, c.cores, c.threads, e.installed_bytes AS memory_bytes,
    s.drives, s.total_bytes AS drives_bytes, o.pretty_name AS system, o.kernel_release AS kernel
FROM latest l
LEFT JOIN machine m USING (report_id)
LEFT JOIN platform p USING (report_id)
LEFT JOIN cpu c USING (report_id)
LEFT JOIN memory e USING (report_id)
LEFT JOIN storage s USING (report_id)
LEFT JOIN os o USING (report_id);
";

/// A view of all serial numbers.
fn serials() -> String {
    let own = tables().iter().filter(|table| !table.readings).flat_map(|table| {
        let columns = table.columns.iter();
        let serials = columns.filter(|it| it.name == "serial" || it.name.ends_with("_serial"));
        serials.map(|column| {
            format!(
                "SELECT report_id, '{}' AS kind, part, \"{}\" AS serial FROM \"{}\"",
                table.name, column.name, table.name
            )
        })
    });
    let all: Vec<String> = own.collect();
    format!(
        "-- Every serial number, as it was seen last.\nCREATE VIEW serials AS\nSELECT l.host, s.kind, s.part, s.serial \
         FROM (\n{}\n) s JOIN latest l USING (report_id) WHERE s.serial IS NOT NULL;\n",
        all.join("\nUNION ALL ")
    )
}

fn report(one: &Exported<'_>, to: &rusqlite::Transaction<'_>) -> rusqlite::Result<()> {
    let taken = &one.report.taken;
    to.prepare_cached(
        "INSERT INTO reports (host, taken_at, subject, tool, as_root, inventory_digest) VALUES (?, ?, ?, ?, ?, ?)",
    )?
    .execute(params![
        one.host,
        taken.at.to_string(),
        taken.subject,
        taken.tool,
        taken.privileged,
        one.report.inventory_digest()
    ])?;
    let id = to.last_insert_rowid();
    let mut missing = to.prepare_cached("INSERT INTO missing VALUES (?, ?, ?, ?)")?;
    let parts = parts(one.report);
    let mut rows: Vec<i64> = Vec::with_capacity(parts.len());
    for part in &parts {
        let holder = part.within.and_then(|at| rows.get(at)).copied();
        let mut cells = vec![
            Cell::Null,
            id.into(),
            holder.map_or(Cell::Null, Cell::from),
            part.path.clone().into(),
        ];
        for (column, fact) in part.values() {
            let cell = fact.and_then(|fact| fact.json()).map(|json| cell(&json));
            if let Some(Err(too_large)) = &cell {
                let path = format!("{}.{}", part.path, column.name);
                let hint = format!("{too_large} is more than a database's number holds");
                missing.execute(params![id, path, "too-many", hint])?;
            }
            cells.push(cell.and_then(Result::ok).unwrap_or(Cell::Null));
        }
        to.prepare_cached(&insertion(part.table()))?.execute(params_from_iter(cells))?;
        rows.push(to.last_insert_rowid());
        gaps(part, id, &mut missing)?;
    }
    let mut findings = to.prepare_cached("INSERT INTO findings VALUES (?, ?, ?, ?, ?, ?, ?)")?;
    for found in &one.judgement.findings {
        let (rule, severity) = (found.by.id(), found.severity.code());
        let (part, accepted) = (path_of(&parts, &found.part), found.accepted.is_some());
        findings.execute(params![id, rule, severity, part, found.label, found.says, accepted])?;
    }
    Ok(())
}

fn gaps(
    part: &Part<'_>,
    id: i64,
    missing: &mut rusqlite::CachedStatement<'_>,
) -> rusqlite::Result<()> {
    for (name, gap) in part.gaps() {
        let path = format!("{}.{name}", part.path);
        let hint = gap.hint.as_ref().map(|hint| hint.words().to_owned());
        missing.execute(params![id, path, gap.why.code(), hint])?;
    }
    Ok(())
}

fn insertion(table: &Table) -> String {
    let cells = vec!["?"; FIRST.len() + table.columns.len()].join(", ");
    format!("INSERT INTO \"{}\" VALUES ({cells})", table.name)
}

/// A value as a cell; or the number that a cell cannot hold.
fn cell(json: &serde_json::Value) -> Result<Cell, u64> {
    Ok(match json {
        serde_json::Value::Null => Cell::Null,
        serde_json::Value::Bool(yes) => Cell::Integer((*yes).into()),
        serde_json::Value::String(text) => Cell::Text(text.clone()),
        serde_json::Value::Number(number) => match (number.as_i64(), number.as_u64()) {
            (Some(number), _) => Cell::Integer(number),
            (None, Some(large)) => return Err(large),
            (None, None) => Cell::Text(number.to_string()),
        },
        list => Cell::Text(list.to_string()),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_column_of_a_part_is_called_like_one_that_every_table_has() {
        for table in tables() {
            for column in &table.columns {
                assert!(!FIRST.contains(&column.name.as_str()), "{}: {}", table.name, column.name);
                assert!(
                    !super::super::csv::FIRST.contains(&column.name.as_str()),
                    "{}: {}",
                    table.name,
                    column.name
                );
            }
        }
    }

    #[test]
    fn numbers_that_a_cell_cannot_hold_are_told() {
        assert_eq!(cell(&serde_json::json!(u64::MAX)), Err(u64::MAX));
        assert_eq!(cell(&serde_json::json!(i64::MIN)), Ok(Cell::Integer(i64::MIN)));
        assert_eq!(cell(&serde_json::json!([1, "a"])), Ok(Cell::Text("[1,\"a\"]".to_owned())));
    }
}
