//! The index's database: its tables, beside the files or in memory.

use std::{path::Path, time::Duration};

use rusqlite::Connection;
use rustix::fs::{CWD, FileType, Mode};

/// Made anew whenever what it holds changes.
const KIND: i64 = 3;

/// Others bring it up to date in less.
const PATIENCE: Duration = Duration::from_secs(30);

const TABLES: &str = "
CREATE TABLE machine (
    key TEXT PRIMARY KEY,
    stamp INTEGER NOT NULL,
    host TEXT, system_uuid TEXT, serial TEXT, machine_id TEXT,
    state TEXT NOT NULL,
    last_seen INTEGER NOT NULL,
    unchanged_since INTEGER NOT NULL,
    observations INTEGER NOT NULL,
    states INTEGER NOT NULL,
    critical INTEGER NOT NULL, warning INTEGER NOT NULL, notice INTEGER NOT NULL,
    overview TEXT,
    last_look TEXT, last_checksum INTEGER, last_digest TEXT
) WITHOUT ROWID;
CREATE INDEX machine_by_system_uuid ON machine (system_uuid);
CREATE INDEX machine_by_serial ON machine (serial);
CREATE INDEX machine_by_machine_id ON machine (machine_id);
CREATE INDEX machine_by_host ON machine (host COLLATE NOCASE);
CREATE TABLE fresh (saved INTEGER NOT NULL, machines INTEGER NOT NULL);
CREATE TABLE observation (
    machine TEXT NOT NULL,
    number INTEGER NOT NULL,
    look TEXT NOT NULL,
    at INTEGER NOT NULL,
    saved_at INTEGER NOT NULL,
    state TEXT NOT NULL,
    host TEXT, system_uuid TEXT, serial TEXT, machine_id TEXT,
    privileged INTEGER NOT NULL,
    critical INTEGER NOT NULL, warning INTEGER NOT NULL, notice INTEGER NOT NULL,
    PRIMARY KEY (machine, number)
) WITHOUT ROWID;
CREATE TABLE file (
    machine TEXT NOT NULL,
    look TEXT NOT NULL,
    checksum INTEGER NOT NULL,
    PRIMARY KEY (machine, look)
) WITHOUT ROWID;
";

/// The index beside the files; nothing where it can only be read, because it is of use only while it can be
/// brought up to date.
pub(super) fn beside(path: &Path) -> Result<Option<Connection>, rusqlite::Error> {
    // It holds serial numbers, and what is written beside it gets its mode. It is made without being opened: closing it
    // would take another connection's locks of this process with it (fcntl(2)).
    let owner = Mode::RUSR | Mode::WUSR;
    let _ = rustix::fs::mknodat(CWD, path, FileType::RegularFile, owner, 0);
    let database = Connection::open(path)?;
    database.busy_timeout(PATIENCE)?;
    if database.is_readonly(rusqlite::MAIN_DB)? {
        return Ok(None);
    }
    prepared(&database)?;
    // What was written halfway can be made anew, so nothing is waited for.
    database.pragma_update(None, "synchronous", "OFF")?;
    // One file less is made and removed for each look.
    database.pragma_update(None, "journal_mode", "PERSIST")?;
    database.execute_batch("BEGIN IMMEDIATE; COMMIT")?;
    Ok(Some(database))
}

pub(super) fn in_memory() -> Result<Connection, rusqlite::Error> {
    let database = Connection::open_in_memory()?;
    prepared(&database)?;
    Ok(database)
}

fn prepared(database: &Connection) -> Result<(), rusqlite::Error> {
    database.busy_timeout(PATIENCE)?;
    let is_prepared = || -> Result<bool, rusqlite::Error> {
        let kind: i64 = database.pragma_query_value(None, "user_version", |row| row.get(0))?;
        Ok(kind == KIND)
    };
    if is_prepared()? {
        return Ok(());
    }
    database.execute_batch("BEGIN IMMEDIATE")?;
    // Somebody else may have made it while this one waited.
    if is_prepared()? {
        return database.execute_batch("COMMIT");
    }
    let make = "DROP TABLE IF EXISTS machine; DROP TABLE IF EXISTS observation; \
                DROP TABLE IF EXISTS file; DROP TABLE IF EXISTS fresh;";
    database.execute_batch(&format!("{make} {TABLES} PRAGMA user_version = {KIND}; COMMIT"))
}
