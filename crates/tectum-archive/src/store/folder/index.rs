//! The index beside an archive's files: what lists and searches would else read every observation for. It is
//! made of the files alone; where it is missing, damaged or of another kind it is made anew, and where it
//! cannot be written it is kept in memory.

use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    os::unix::fs::MetadataExt,
    path::{Path, PathBuf},
    time::{Duration, SystemTime},
};

use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::Deserialize;
use tectum_report::Taken;

use super::{
    disk::{self, names},
    layout::{INDEX, MACHINES, Machine, observation_number},
};
use crate::{
    fleet::Overview,
    store::{Entry, Latest, StoreError},
    who::{Who, is_key},
    written::{FindingCounts, Observation},
};

/// Made anew whenever what it holds changes.
const KIND: i64 = 2;

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
    overview TEXT
) WITHOUT ROWID;
CREATE INDEX machine_by_system_uuid ON machine (system_uuid);
CREATE INDEX machine_by_serial ON machine (serial);
CREATE INDEX machine_by_machine_id ON machine (machine_id);
CREATE INDEX machine_by_host ON machine (host COLLATE NOCASE);
CREATE TABLE fresh (saved INTEGER NOT NULL, machines INTEGER NOT NULL);
CREATE TABLE observation (
    machine TEXT NOT NULL,
    number INTEGER NOT NULL,
    at INTEGER NOT NULL,
    saved_at INTEGER NOT NULL,
    state TEXT NOT NULL,
    host TEXT, system_uuid TEXT, serial TEXT, machine_id TEXT,
    privileged INTEGER NOT NULL,
    critical INTEGER NOT NULL, warning INTEGER NOT NULL, notice INTEGER NOT NULL,
    PRIMARY KEY (machine, number)
) WITHOUT ROWID;
";

/// A folder that was changed so lately may have been changed again since without that showing.
const SETTLED: Duration = Duration::from_secs(2);

pub(super) struct Index {
    archive: PathBuf,
    database: Connection,
}

impl std::fmt::Debug for Index {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Index").field("archive", &self.archive).finish_non_exhaustive()
    }
}

impl Index {
    /// Opens the index of an archive, or makes it.
    pub(super) fn open(archive: &Path) -> Result<Self, StoreError> {
        let path = archive.join(INDEX);
        let database = match beside(&path) {
            Ok(Some(database)) => database,
            Ok(None) => in_memory().map_err(failed(archive))?,
            Err(_) => {
                // What cannot be used is made of the files anyway. Where that cannot be written it is kept
                // in memory.
                let _ = std::fs::remove_file(&path);
                match beside(&path) {
                    Ok(Some(database)) => database,
                    Ok(None) | Err(_) => in_memory().map_err(failed(archive))?,
                }
            }
        };
        Ok(Self { archive: archive.to_owned(), database })
    }

    /// Makes the index what the files say now.
    pub(super) fn refresh(&mut self) -> Result<(), StoreError> {
        let again = match self.refreshed() {
            // It can be lost without loss.
            Err(StoreError::Index { .. }) => true,
            other => return other,
        };
        debug_assert!(again);
        let _ = std::fs::remove_file(self.archive.join(INDEX));
        self.database = in_memory().map_err(failed(&self.archive))?;
        self.refreshed()
    }

    fn refreshed(&mut self) -> Result<(), StoreError> {
        let failed = failed(&self.archive);
        let mut known: HashMap<String, i64> = HashMap::new();
        {
            let mut statement =
                self.database.prepare("SELECT key, stamp FROM machine").map_err(&failed)?;
            let rows = statement
                .query_map([], |row| Ok((row.get::<_, String>(0)?, row.get::<_, i64>(1)?)))
                .map_err(&failed)?;
            for row in rows {
                let (key, stamp) = row.map_err(&failed)?;
                known.insert(key, stamp);
            }
        }
        let mut changed = Vec::new();
        for key in names(&self.archive.join(MACHINES))?.into_iter().filter(|name| is_key(name)) {
            let folder = Machine::at(&self.archive, &key).observations();
            let stamp = stamp(&folder);
            let was = known.remove(&key);
            if stamp.is_none() || was != stamp {
                changed.push((key, stamp.unwrap_or(0)));
            }
        }
        if changed.is_empty() && known.is_empty() {
            return Ok(());
        }
        let archive = self.archive.clone();
        let transaction = self.database.transaction().map_err(&failed)?;
        for key in known.keys() {
            forget(&transaction, key).map_err(&failed)?;
        }
        for (key, stamp) in changed {
            bring_up_to_date(&transaction, &archive, &key, stamp)?;
        }
        transaction.commit().map_err(&failed)
    }

    /// Whether it is what the files said when so many had been saved, and no machine came or went since.
    pub(super) fn is_fresh(&self, saved: u64) -> bool {
        let machines = stamp(&self.archive.join(MACHINES));
        let known: Result<(i64, i64), _> =
            self.database.query_row("SELECT saved, machines FROM fresh", [], |row| {
                Ok((row.get(0)?, row.get(1)?))
            });
        machines.is_some_and(|machines| known.is_ok_and(|known| known == (stored(saved), machines)))
    }

    /// Says that it is what the files say when so many had been saved.
    pub(super) fn set_fresh(&mut self, saved: Option<u64>) -> Result<(), StoreError> {
        let failed = failed(&self.archive);
        let machines = stamp(&self.archive.join(MACHINES));
        self.database.execute("DELETE FROM fresh", []).map_err(&failed)?;
        if let (Some(saved), Some(machines)) = (saved, machines) {
            self.database
                .execute("INSERT INTO fresh VALUES (?1, ?2)", params![stored(saved), machines])
                .map_err(&failed)?;
        }
        Ok(())
    }

    /// Makes what is known of one machine what its files say now.
    pub(super) fn refresh_one(&mut self, key: &str) -> Result<(), StoreError> {
        match self.refreshed_one(key) {
            // As a whole it can be made anew.
            Err(StoreError::Index { .. }) => self.refresh(),
            other => other,
        }
    }

    fn refreshed_one(&mut self, key: &str) -> Result<(), StoreError> {
        let failed = failed(&self.archive);
        let now = stamp(&Machine::at(&self.archive, key).observations());
        let known: Option<i64> = self
            .database
            .query_row("SELECT stamp FROM machine WHERE key = ?1", [key], |row| row.get(0))
            .optional()
            .map_err(&failed)?;
        if now.is_some() && now == known {
            return Ok(());
        }
        let transaction = self.database.transaction().map_err(&failed)?;
        bring_up_to_date(&transaction, &self.archive, key, now.unwrap_or(0))?;
        transaction.commit().map_err(&failed)
    }

    /// The machines that have this host name, serial number, system UUID, machine id or key.
    pub(super) fn called(&self, name: &str) -> Result<Vec<Latest>, StoreError> {
        for condition in [
            "key = ?1",
            "host = ?1 COLLATE NOCASE",
            "serial = ?1 OR system_uuid = ?1 OR machine_id = ?1",
        ] {
            let found = self.machines_where(condition, [name])?;
            if !found.is_empty() {
                return Ok(found);
            }
        }
        Ok(Vec::new())
    }

    /// Takes over an observation that was just saved.
    pub(super) fn add(
        &mut self,
        key: &str,
        observation: &Observation,
        who: &Who,
        overview: &Overview,
    ) -> Result<(), StoreError> {
        let failed = failed(&self.archive);
        let stamp = stamp(&Machine::at(&self.archive, key).observations()).unwrap_or(0);
        let transaction = self.database.transaction().map_err(&failed)?;
        insert(&transaction, key, &entry(observation, who.clone())).map_err(&failed)?;
        let entries = entries_of(&transaction, key).map_err(&failed)?;
        let own = Some(overview.clone());
        let overview = latest_of(&entries)
            .filter(|one| one.number != observation.number)
            .map_or(own, |_| None);
        summarise(&transaction, &self.archive, key, stamp, &entries, overview)?;
        transaction.commit().map_err(&failed)
    }

    /// Every machine, by key.
    pub(super) fn machines(&self) -> Result<Vec<Latest>, StoreError> {
        self.machines_where("1", [])
    }

    /// The machines that share something of an identity.
    pub(super) fn alike(&self, who: &Who) -> Result<Vec<Latest>, StoreError> {
        self.machines_where(
            "system_uuid = ?1 OR serial = ?2 OR machine_id = ?3",
            params![who.system_uuid, who.serial, who.machine_id],
        )
    }

    fn machines_where(
        &self,
        condition: &str,
        with: impl rusqlite::Params,
    ) -> Result<Vec<Latest>, StoreError> {
        let failed = failed(&self.archive);
        let text = format!(
            "SELECT key, host, system_uuid, serial, machine_id, state, last_seen, unchanged_since, \
             observations, states, critical, warning, notice, overview \
             FROM machine WHERE ({condition}) AND observations > 0 ORDER BY key"
        );
        let mut statement = self.database.prepare_cached(&text).map_err(&failed)?;
        let rows = statement.query_map(with, latest).map_err(&failed)?;
        rows.collect::<Result<_, _>>().map_err(&failed)
    }

    /// A machine's observations, by number.
    pub(super) fn entries(&self, key: &str) -> Result<Vec<Entry>, StoreError> {
        entries_of(&self.database, key).map_err(failed(&self.archive))
    }
}

fn failed(archive: &Path) -> impl Fn(rusqlite::Error) -> StoreError + use<> {
    let path = archive.join(INDEX);
    move |cause| StoreError::Index { path: path.clone(), cause }
}

/// The index beside the files; nothing where it can only be read, because it is of use only while it can be
/// brought up to date.
fn beside(path: &Path) -> Result<Option<Connection>, rusqlite::Error> {
    let database = Connection::open(path)?;
    if database.is_readonly(rusqlite::MAIN_DB)? {
        return Ok(None);
    }
    prepared(&database)?;
    // What was written halfway can be made anew, so nothing is waited for.
    database.pragma_update(None, "synchronous", "OFF")?;
    database.execute_batch("BEGIN IMMEDIATE; COMMIT")?;
    Ok(Some(database))
}

fn in_memory() -> Result<Connection, rusqlite::Error> {
    let database = Connection::open_in_memory()?;
    prepared(&database)?;
    Ok(database)
}

fn prepared(database: &Connection) -> Result<(), rusqlite::Error> {
    database.busy_timeout(Duration::from_secs(30))?;
    let kind: i64 = database.pragma_query_value(None, "user_version", |row| row.get(0))?;
    if kind == KIND {
        return Ok(());
    }
    let make = "BEGIN IMMEDIATE; DROP TABLE IF EXISTS machine; DROP TABLE IF EXISTS observation; \
                DROP TABLE IF EXISTS fresh;";
    database.execute_batch(&format!("{make} {TABLES} PRAGMA user_version = {KIND}; COMMIT"))
}

/// When a folder was changed last, in nanoseconds; nothing where that was just now.
fn stamp(folder: &Path) -> Option<i64> {
    let stands = std::fs::metadata(folder).ok()?;
    let modified = stands.modified().ok()?;
    let settled = SystemTime::now().duration_since(modified).is_ok_and(|since| since >= SETTLED);
    let nanoseconds =
        stands.mtime().checked_mul(1_000_000_000)?.checked_add(stands.mtime_nsec())?;
    settled.then_some(nanoseconds)
}

fn forget(database: &Connection, key: &str) -> Result<(), rusqlite::Error> {
    database.execute("DELETE FROM observation WHERE machine = ?1", [key])?;
    database.execute("DELETE FROM machine WHERE key = ?1", [key])?;
    Ok(())
}

/// Reads what of a machine's observations is not known yet.
fn bring_up_to_date(
    database: &Connection,
    archive: &Path,
    key: &str,
    stamp: i64,
) -> Result<(), StoreError> {
    let failed = failed(archive);
    let folder = Machine::at(archive, key).observations();
    let files: BTreeMap<u64, String> = names(&folder)?
        .into_iter()
        .filter_map(|name| Some((observation_number(&name)?, name)))
        .collect();
    let known: BTreeSet<u64> =
        entries_of(database, key).map_err(&failed)?.iter().map(|entry| entry.number).collect();
    for number in known.iter().filter(|number| !files.contains_key(*number)) {
        database
            .execute(
                "DELETE FROM observation WHERE machine = ?1 AND number = ?2",
                params![key, stored(*number)],
            )
            .map_err(&failed)?;
    }
    for (number, name) in files.iter().filter(|(number, _)| !known.contains(*number)) {
        // What is damaged is for `verify` to tell: the others are good all the same.
        let Ok(text) = disk::read(&folder.join(name)) else { continue };
        let Ok(head) = serde_json::from_slice::<Head>(&text) else { continue };
        if head.number == *number {
            insert(database, key, &head.into()).map_err(&failed)?;
        }
    }
    let entries = entries_of(database, key).map_err(&failed)?;
    summarise(database, archive, key, stamp, &entries, None)
}

/// What the index holds of an observation; the rest is passed over.
#[derive(Deserialize)]
struct Head {
    number: u64,
    saved_at: Timestamp,
    state: String,
    taken: Taken,
    /// What says which machine it is, as it stands in a report.
    machine: Who,
    findings: FindingCounts,
}

impl From<Head> for Entry {
    fn from(head: Head) -> Self {
        Self {
            number: head.number,
            at: head.taken.at,
            saved_at: head.saved_at,
            state: head.state,
            who: head.machine,
            privileged: head.taken.privileged,
            findings: head.findings,
        }
    }
}

/// What the index holds of an observation that was just made.
pub(super) fn entry(observation: &Observation, who: Who) -> Entry {
    Entry {
        number: observation.number,
        at: observation.taken.at,
        saved_at: observation.saved_at,
        state: observation.state.clone(),
        who,
        privileged: observation.taken.privileged,
        findings: observation.findings,
    }
}

/// A whole number as the index holds it: what is counted here is far from its end.
fn stored(number: u64) -> i64 {
    i64::try_from(number).unwrap_or(i64::MAX)
}

fn insert(database: &Connection, key: &str, entry: &Entry) -> Result<(), rusqlite::Error> {
    let mut statement = database.prepare_cached(
        "INSERT OR REPLACE INTO observation VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13)",
    )?;
    statement.execute(params![
        key,
        stored(entry.number),
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

fn entries_of(database: &Connection, key: &str) -> Result<Vec<Entry>, rusqlite::Error> {
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

/// The last of some observations.
fn latest_of(entries: &[Entry]) -> Option<&Entry> {
    entries.iter().max_by_key(|one| (one.at, one.number))
}

/// Puts together what is told of a machine at a glance.
fn summarise(
    database: &Connection,
    archive: &Path,
    key: &str,
    stamp: i64,
    entries: &[Entry],
    overview: Option<Overview>,
) -> Result<(), StoreError> {
    let failed = failed(archive);
    let mut by_time: Vec<&Entry> = entries.iter().collect();
    by_time.sort_by_key(|one| (one.at, one.number));
    let Some(last) = by_time.last() else {
        // A folder without observations is kept in mind, so that it is not read again and again.
        database
            .execute(
                "INSERT OR REPLACE INTO machine VALUES (?1, ?2, NULL, NULL, NULL, NULL, '', 0, 0, 0, 0, 0, 0, 0, NULL)",
                params![key, stamp],
            )
            .map_err(&failed)?;
        return Ok(());
    };
    let mut who = Who::default();
    entries.iter().for_each(|one| who.learn(&one.who));
    who.host.clone_from(&last.who.host);
    let since = by_time.iter().rev().take_while(|one| one.state == last.state).last();
    let states: BTreeSet<&str> = entries.iter().map(|one| one.state.as_str()).collect();
    let overview = match overview {
        Some(overview) => Some(overview),
        None => known_overview(database, key, &last.state)
            .map_err(&failed)?
            .or_else(|| overview_of(archive, key, last)),
    };
    let overview = overview.and_then(|one| serde_json::to_string(&one).ok());
    database
        .execute(
            "INSERT OR REPLACE INTO machine VALUES \
             (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15)",
            params![
                key,
                stamp,
                who.host,
                who.system_uuid,
                who.serial,
                who.machine_id,
                last.state,
                last.at.as_microsecond(),
                since.unwrap_or(last).at.as_microsecond(),
                stored(entries.len() as u64),
                stored(states.len() as u64),
                stored(last.findings.critical),
                stored(last.findings.warning),
                stored(last.findings.notice),
                overview,
            ],
        )
        .map_err(&failed)?;
    Ok(())
}

/// What is known of this very state already.
fn known_overview(
    database: &Connection,
    key: &str,
    state: &str,
) -> Result<Option<Overview>, rusqlite::Error> {
    let text: Option<Option<String>> = database
        .query_row(
            "SELECT overview FROM machine WHERE key = ?1 AND state = ?2",
            params![key, state],
            |row| row.get(0),
        )
        .optional()?;
    Ok(text.flatten().and_then(|text| serde_json::from_str(&text).ok()))
}

/// What a look tells; nothing where it cannot be read.
fn overview_of(archive: &Path, key: &str, last: &Entry) -> Option<Overview> {
    let machine = Machine::at(archive, key);
    let observation = super::observation_at(&machine, last.number).ok()?;
    let state = super::state_at(&machine, &last.state).ok()?;
    Some(Overview::of(&crate::written::report(observation, &state, Vec::new()).ok()?))
}

fn latest(row: &Row<'_>) -> Result<Latest, rusqlite::Error> {
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
