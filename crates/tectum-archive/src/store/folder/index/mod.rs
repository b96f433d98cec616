//! The index beside an archive's files: what lists and searches would else read every observation for. It is
//! made of the files alone; where it is missing, damaged or of another kind it is made anew, and where it
//! cannot be written it is kept in memory.

mod database;
mod machine;
mod rows;

use std::{
    collections::{BTreeMap, HashMap},
    os::unix::fs::MetadataExt,
    path::{Path, PathBuf},
    time::{Duration, SystemTime},
};

use rusqlite::{Connection, ErrorCode, OptionalExtension, TransactionBehavior, params};

use self::{
    database::{beside, in_memory},
    machine::{bring_up_to_date, latest_of, summarise},
    rows::{entries_of, forget, insert, keep_files, keep_last, latest, set_fresh, stored},
};
use super::{
    disk::names,
    layout::{INDEX, MACHINES, Machine},
};
use crate::{
    fleet::Overview,
    store::{Entry, Latest, StoreError},
    who::{Who, is_key},
};

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
            Err(cause) => {
                // What is damaged is made of the files anyway. Where that cannot be written it is kept in memory.
                let again = if is_damage(&cause) { made_anew(&path) } else { None };
                again.map_or_else(in_memory, Ok).map_err(failed(archive))?
            }
        };
        Ok(Self { archive: archive.to_owned(), database })
    }

    /// Makes the index what the files say now.
    pub(super) fn refresh(&mut self) -> Result<(), StoreError> {
        match self.refreshed() {
            // It can be lost without loss. One that is only held by others, or that one of them removed, is theirs.
            Err(StoreError::Index { path, cause }) => {
                let again = if is_damage(&cause) { made_anew(&path) } else { None };
                self.database = again.map_or_else(in_memory, Ok).map_err(failed(&self.archive))?;
                self.refreshed()
            }
            other => other,
        }
    }

    /// Does what reads and then changes it, alone among those who change it: one who reads first and waits then for
    /// another who does so too would wait for ever, and is told at once that it is locked.
    fn alone<T>(
        &mut self,
        work: impl FnOnce(&Connection) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let failed = failed(&self.archive);
        if self.database.is_autocommit() {
            let immediate = TransactionBehavior::Immediate;
            let own = self.database.transaction_with_behavior(immediate).map_err(&failed)?;
            let done = work(&own)?;
            own.commit().map_err(&failed)?;
            return Ok(done);
        }
        let own = self.database.savepoint().map_err(&failed)?;
        let done = work(&own)?;
        own.commit().map_err(&failed)?;
        Ok(done)
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
        self.alone(|database| {
            for key in known.keys() {
                forget(database, key).map_err(&failed)?;
            }
            for (key, stamp) in changed {
                bring_up_to_date(database, &archive, &key, stamp)?;
            }
            Ok(())
        })
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
        let archive = self.archive.clone();
        self.alone(|database| bring_up_to_date(database, &archive, key, now.unwrap_or(0)))
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
        let archive = self.archive.clone();
        self.alone(|database| {
            insert(database, key, &added.last.look, added.entry).map_err(&failed)?;
            keep_files(database, key, added.files).map_err(&failed)?;
            let entries = entries_of(database, key).map_err(&failed)?;
            let overview = Some(added.overview.clone());
            let overview = latest_of(&entries)
                .filter(|one| one.number != added.entry.number)
                .map_or(overview, |_| None);
            summarise(database, &archive, key, own, &entries, overview)?;
            keep_last(database, key, &added.last).map_err(&failed)?;
            set_fresh(database, Some(saved), machines).map_err(&failed)
        })
    }

    /// What the look of a machine is called that saw a state first.
    pub(super) fn look_with(&self, key: &str, state: &str) -> Result<Option<String>, StoreError> {
        let text = "SELECT look FROM observation WHERE machine = ?1 AND state = ?2 ORDER BY number LIMIT 1";
        self.value(text, [key, state])
    }

    /// The same of machines and the states in which they were looked at last; nothing where there is none.
    pub(super) fn looks_with_latest(
        &self,
        machines: &[Latest],
    ) -> Result<Vec<Option<String>>, StoreError> {
        // Each question by itself would lock the index and let it go again.
        let failed = failed(&self.archive);
        let together = self.database.unchecked_transaction().map_err(&failed)?;
        let looks = machines.iter().map(|one| self.look_with(&one.machine, &one.state));
        let looks = looks.collect::<Result<Vec<_>, StoreError>>()?;
        together.commit().map_err(&failed)?;
        Ok(looks)
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

/// Whether an index is no such index, or not whole, and so of use to nobody. One that is held by others, or cannot be
/// read just now, is not: to remove it would take it from them.
fn is_damage(cause: &rusqlite::Error) -> bool {
    match cause.sqlite_error_code() {
        // An error that has no code of its own is a table that is not there.
        Some(code) => matches!(
            code,
            ErrorCode::DatabaseCorrupt
                | ErrorCode::NotADatabase
                | ErrorCode::ConstraintViolation
                | ErrorCode::TypeMismatch
                | ErrorCode::Unknown
        ),
        // What stands in it is of another kind than it must be.
        None => true,
    }
}

/// The index beside the files, made anew; nothing where it cannot be.
fn made_anew(path: &Path) -> Option<Connection> {
    let _ = std::fs::remove_file(path);
    beside(path).ok().flatten()
}

fn failed(archive: &Path) -> impl Fn(rusqlite::Error) -> StoreError + use<> {
    let path = archive.join(INDEX);
    move |cause| StoreError::Index { path: path.clone(), cause }
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
