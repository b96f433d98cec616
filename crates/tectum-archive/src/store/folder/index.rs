//! The index beside an archive's files: what lists and searches would else read every observation for. It is
//! made of the files alone; where it is missing, damaged or of another kind it is made anew, and where it
//! cannot be written it is kept in memory.

use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    fs::OpenOptions,
    os::unix::fs::{MetadataExt, OpenOptionsExt},
    path::{Path, PathBuf},
    time::{Duration, SystemTime},
};

use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::Deserialize;
use tectum_report::Taken;

use super::{
    disk::names,
    layout::{INDEX, MACHINES, Machine, look_in, look_number},
    look_file::LookFile,
    reading::Reading,
};
use crate::{
    fleet::Overview,
    store::{Entry, Latest, StoreError, state_of},
    who::{Who, is_key},
    written::FindingCounts,
};

/// Made anew whenever what it holds changes.
const KIND: i64 = 3;

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
            let folder = Machine::at(&self.archive, &key).looks();
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
        let transaction = self.database.savepoint().map_err(&failed)?;
        for key in known.keys() {
            forget(&transaction, key).map_err(&failed)?;
        }
        for (key, stamp) in changed {
            bring_up_to_date(&transaction, &archive, &key, stamp)?;
        }
        transaction.commit().map_err(&failed)
    }

    /// Does what asks and changes it several times in one go, alone among those who change it; and whether the
    /// changes were kept.
    pub(super) fn in_one_go<T>(
        &mut self,
        work: impl FnOnce(&mut Self) -> Result<T, StoreError>,
    ) -> Result<(T, bool), StoreError> {
        // Where it cannot be begun, each step stands by itself.
        let begun = self.database.execute_batch("BEGIN IMMEDIATE").is_ok();
        let done = work(self);
        // It may have been made anew meanwhile.
        let mut kept = true;
        if begun && !self.database.is_autocommit() {
            kept = done.is_ok() && self.database.execute_batch("COMMIT").is_ok();
            if !kept {
                let _ = self.database.execute_batch("ROLLBACK");
            }
        }
        Ok((done?, kept))
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
        let machines = stamp(&self.archive.join(MACHINES));
        set_fresh(&self.database, saved, machines).map_err(failed(&self.archive))
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
        let now = stamp(&Machine::at(&self.archive, key).looks());
        let known: Option<i64> = self
            .database
            .query_row("SELECT stamp FROM machine WHERE key = ?1", [key], |row| row.get(0))
            .optional()
            .map_err(&failed)?;
        if now.is_some() && now == known {
            return Ok(());
        }
        let transaction = self.database.savepoint().map_err(&failed)?;
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

    /// Takes over a look that was just saved, by when so many had been.
    pub(super) fn add(
        &mut self,
        key: &str,
        added: &Added<'_>,
        saved: u64,
    ) -> Result<(), StoreError> {
        let failed = failed(&self.archive);
        let own = stamp(&Machine::at(&self.archive, key).looks()).unwrap_or(0);
        let machines = stamp(&self.archive.join(MACHINES));
        let transaction = self.database.savepoint().map_err(&failed)?;
        insert(&transaction, key, &added.last.look, added.entry).map_err(&failed)?;
        keep_files(&transaction, key, added.files).map_err(&failed)?;
        let entries = entries_of(&transaction, key).map_err(&failed)?;
        let overview = Some(added.overview.clone());
        let overview = latest_of(&entries)
            .filter(|one| one.number != added.entry.number)
            .map_or(overview, |_| None);
        summarise(&transaction, &self.archive, key, own, &entries, overview)?;
        keep_last(&transaction, key, &added.last).map_err(&failed)?;
        set_fresh(&transaction, Some(saved), machines).map_err(&failed)?;
        transaction.commit().map_err(&failed)
    }

    /// What the look of a machine is called that saw a state first.
    pub(super) fn look_with(&self, key: &str, state: &str) -> Result<Option<String>, StoreError> {
        let text = "SELECT look FROM observation WHERE machine = ?1 AND state = ?2 ORDER BY number LIMIT 1";
        self.value(text, [key, state])
    }

    /// What the look of a machine is called that saw a state last: what it needs is where it was whole last.
    pub(super) fn last_look_with(
        &self,
        key: &str,
        state: &str,
    ) -> Result<Option<String>, StoreError> {
        let text = "SELECT look FROM observation WHERE machine = ?1 AND state = ?2 ORDER BY number DESC LIMIT 1";
        self.value(text, [key, state])
    }

    /// What the look of a machine is called that was saved last.
    pub(super) fn last_look(&self, key: &str) -> Result<Option<String>, StoreError> {
        self.value(
            "SELECT look FROM observation WHERE machine = ?1 ORDER BY number DESC LIMIT 1",
            [key],
        )
    }

    /// The look that was saved last, as it was written.
    pub(super) fn last_known(&self, key: &str) -> Result<Option<LastKnown>, StoreError> {
        let failed = failed(&self.archive);
        let text = "SELECT last_look, last_checksum, last_digest FROM machine \
                    WHERE key = ?1 AND last_look IS NOT NULL";
        let mut statement = self.database.prepare_cached(text).map_err(&failed)?;
        let known = statement.query_row([key], |row| {
            Ok(LastKnown { look: row.get(0)?, checksum: row.get(1)?, digest: row.get(2)? })
        });
        known.optional().map_err(&failed)
    }

    /// The checksum that a file of a look had when it was known to be whole.
    pub(super) fn checksum(&self, key: &str, look: &str) -> Result<Option<i64>, StoreError> {
        self.value("SELECT checksum FROM file WHERE machine = ?1 AND look = ?2", [key, look])
    }

    /// Notes checksums of files that are whole.
    pub(super) fn keep_files(
        &mut self,
        key: &str,
        files: &BTreeMap<String, i64>,
    ) -> Result<(), StoreError> {
        keep_files(&self.database, key, files).map_err(failed(&self.archive))
    }

    /// A single value.
    fn value<T: rusqlite::types::FromSql>(
        &self,
        query: &str,
        with: impl rusqlite::Params,
    ) -> Result<Option<T>, StoreError> {
        let failed = failed(&self.archive);
        let mut statement = self.database.prepare_cached(query).map_err(&failed)?;
        statement.query_row(with, |row| row.get(0)).optional().map_err(&failed)
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

/// The look that was saved last, as it was written.
pub(super) struct LastKnown {
    /// What it is called.
    pub(super) look: String,
    /// The checksum of its file.
    pub(super) checksum: i64,
    /// The digest of its observation.
    pub(super) digest: String,
}

/// A look that was just saved.
pub(super) struct Added<'a> {
    pub(super) entry: &'a Entry,
    pub(super) last: LastKnown,
    pub(super) overview: &'a Overview,
    /// Files that are whole, with their checksums.
    pub(super) files: &'a BTreeMap<String, i64>,
}

fn keep_last(database: &Connection, key: &str, last: &LastKnown) -> Result<(), rusqlite::Error> {
    let mut statement = database.prepare_cached(
        "UPDATE machine SET last_look = ?2, last_checksum = ?3, last_digest = ?4 WHERE key = ?1",
    )?;
    statement.execute(params![key, last.look, last.checksum, last.digest])?;
    Ok(())
}

fn set_fresh(
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

fn keep_files(
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

fn failed(archive: &Path) -> impl Fn(rusqlite::Error) -> StoreError + use<> {
    let path = archive.join(INDEX);
    move |cause| StoreError::Index { path: path.clone(), cause }
}

/// The index beside the files; nothing where it can only be read, because it is of use only while it can be
/// brought up to date.
fn beside(path: &Path) -> Result<Option<Connection>, rusqlite::Error> {
    // It holds serial numbers, and what is written beside it gets its mode.
    let _ = OpenOptions::new().create(true).append(true).mode(0o600).open(path);
    let database = Connection::open(path)?;
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
                DROP TABLE IF EXISTS file; DROP TABLE IF EXISTS fresh;";
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
    database.execute("DELETE FROM file WHERE machine = ?1", [key])?;
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
    let folder = Machine::at(archive, key).looks();
    let files: BTreeMap<u64, String> = names(&folder)?
        .into_iter()
        .filter_map(|name| Some((look_number(look_in(&name)?)?, name)))
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
        let Ok(file) = LookFile::open(&folder.join(name)) else { continue };
        let Some(text) = file.observation() else { continue };
        let Ok(head) = serde_json::from_slice::<Head>(&text) else { continue };
        if let Some(look) = look_in(name).filter(|_| head.number == *number) {
            insert(database, key, look, &head.into()).map_err(&failed)?;
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

/// A whole number as the index holds it: what is counted here is far from its end.
fn stored(number: u64) -> i64 {
    i64::try_from(number).unwrap_or(i64::MAX)
}

fn insert(
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
                "INSERT OR REPLACE INTO machine VALUES (?1, ?2, NULL, NULL, NULL, NULL, '', 0, 0, 0, 0, 0, 0, 0, NULL, NULL, NULL, NULL)",
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
    // What says which machine it is hardly ever changes, and there are indexes of it.
    let mut named = database
        .prepare_cached(
            "INSERT INTO machine VALUES (?1, 0, ?2, ?3, ?4, ?5, '', 0, 0, 0, 0, 0, 0, 0, NULL, NULL, NULL, NULL) \
             ON CONFLICT (key) DO UPDATE SET host = ?2, system_uuid = ?3, serial = ?4, machine_id = ?5 \
             WHERE (host, system_uuid, serial, machine_id) IS NOT (?2, ?3, ?4, ?5)",
        )
        .map_err(&failed)?;
    named
        .execute(params![key, who.host, who.system_uuid, who.serial, who.machine_id])
        .map_err(&failed)?;
    let mut told = database
        .prepare_cached(
            "UPDATE machine SET stamp = ?2, state = ?3, last_seen = ?4, unchanged_since = ?5, observations = ?6, \
             states = ?7, critical = ?8, warning = ?9, notice = ?10, overview = ?11 WHERE key = ?1",
        )
        .map_err(&failed)?;
    told.execute(params![
        key,
        stamp,
        last.state,
        last.at.as_microsecond(),
        since.unwrap_or(last).at.as_microsecond(),
        stored(entries.len() as u64),
        stored(states.len() as u64),
        stored(last.findings.critical),
        stored(last.findings.warning),
        stored(last.findings.notice),
        overview,
    ])
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
    let (path, text) = super::observation_text_at(&machine, last.number).ok()?;
    let observation = super::observation_in(&path, &text).ok()?;
    let text = Reading::of(&machine).whole_state(super::called_in(&path)?, &last.state).ok()?;
    let state = state_of(&|| key.to_owned(), &last.state, &text).ok()?;
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
