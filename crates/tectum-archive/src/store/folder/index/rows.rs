//! What rows of the index's tables say, and how they are put in.

use std::collections::BTreeMap;

use jiff::Timestamp;
use rusqlite::{Connection, Row, params};

use super::LastKnown;
use crate::{
    store::{Entry, Latest},
    who::Who,
    written::FindingCounts,
};

/// A whole number as the index holds it: what is counted here is far from its end.
pub(super) fn stored(number: u64) -> i64 {
    i64::try_from(number).unwrap_or(i64::MAX)
}

pub(super) fn insert(
    database: &Connection,
    key: &str,
    look: &str,
    entry: &Entry,
) -> Result<(), rusqlite::Error> {
    let mut statement = database.prepare_cached(
        "INSERT OR REPLACE INTO observation VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14)",
    )?;
    statement.execute(params![
        key,
        stored(entry.number),
        look,
        entry.at.as_microsecond(),
        entry.saved_at.as_microsecond(),
        entry.state,
        entry.who.host,
        entry.who.system_uuid,
        entry.who.serial,
        entry.who.machine_id,
        entry.privileged,
        stored(entry.findings.critical),
        stored(entry.findings.warning),
        stored(entry.findings.notice),
    ])?;
    Ok(())
}

pub(super) fn entries_of(database: &Connection, key: &str) -> Result<Vec<Entry>, rusqlite::Error> {
    let mut statement = database.prepare_cached(
        "SELECT number, at, saved_at, state, host, system_uuid, serial, machine_id, privileged, critical, \
         warning, notice FROM observation WHERE machine = ?1 ORDER BY number",
    )?;
    let rows = statement.query_map([key], |row| {
        Ok(Entry {
            number: number(row, 0)?,
            at: moment(row, 1)?,
            saved_at: moment(row, 2)?,
            state: row.get(3)?,
            who: Who {
                host: row.get(4)?,
                system_uuid: row.get(5)?,
                serial: row.get(6)?,
                machine_id: row.get(7)?,
            },
            privileged: row.get(8)?,
            findings: FindingCounts {
                critical: number(row, 9)?,
                warning: number(row, 10)?,
                notice: number(row, 11)?,
            },
        })
    })?;
    rows.collect()
}

fn number(row: &Row<'_>, at: usize) -> Result<u64, rusqlite::Error> {
    Ok(u64::try_from(row.get::<_, i64>(at)?).unwrap_or_default())
}

fn moment(row: &Row<'_>, at: usize) -> Result<Timestamp, rusqlite::Error> {
    Ok(Timestamp::from_microsecond(row.get(at)?).unwrap_or_default())
}

pub(super) fn latest(row: &Row<'_>) -> Result<Latest, rusqlite::Error> {
    let overview: Option<String> = row.get(13)?;
    Ok(Latest {
        machine: row.get(0)?,
        who: Who {
            host: row.get(1)?,
            system_uuid: row.get(2)?,
            serial: row.get(3)?,
            machine_id: row.get(4)?,
        },
        state: row.get(5)?,
        last_seen: moment(row, 6)?,
        unchanged_since: moment(row, 7)?,
        observations: number(row, 8)?,
        states: number(row, 9)?,
        findings: FindingCounts {
            critical: number(row, 10)?,
            warning: number(row, 11)?,
            notice: number(row, 12)?,
        },
        overview: overview.and_then(|text| serde_json::from_str(&text).ok()).unwrap_or_default(),
    })
}

pub(super) fn keep_last(
    database: &Connection,
    key: &str,
    last: &LastKnown,
) -> Result<(), rusqlite::Error> {
    let mut statement = database.prepare_cached(
        "UPDATE machine SET last_look = ?2, last_checksum = ?3, last_digest = ?4 WHERE key = ?1",
    )?;
    statement.execute(params![key, last.look, last.checksum, last.digest])?;
    Ok(())
}

pub(super) fn set_fresh(
    database: &Connection,
    saved: Option<u64>,
    machines: Option<i64>,
) -> Result<(), rusqlite::Error> {
    database.prepare_cached("DELETE FROM fresh")?.execute([])?;
    if let (Some(saved), Some(machines)) = (saved, machines) {
        let mut statement = database.prepare_cached("INSERT INTO fresh VALUES (?1, ?2)")?;
        statement.execute(params![stored(saved), machines])?;
    }
    Ok(())
}

pub(super) fn keep_files(
    database: &Connection,
    key: &str,
    files: &BTreeMap<String, i64>,
) -> Result<(), rusqlite::Error> {
    let mut statement =
        database.prepare_cached("INSERT OR REPLACE INTO file VALUES (?1, ?2, ?3)")?;
    for (look, checksum) in files {
        statement.execute(params![key, look, checksum])?;
    }
    Ok(())
}

pub(super) fn forget(database: &Connection, key: &str) -> Result<(), rusqlite::Error> {
    database.execute("DELETE FROM observation WHERE machine = ?1", [key])?;
    database.execute("DELETE FROM file WHERE machine = ?1", [key])?;
    database.execute("DELETE FROM machine WHERE key = ?1", [key])?;
    Ok(())
}
