//! An archive in a PostgreSQL database, for fleets that outgrow one machine.
//!
//! Each look is saved in one transaction, under a lock that all savers take: it is there as a whole once it is
//! acknowledged, and not at all where the database went away before. What people may ask in SQL is in views that
//! are made of the model's declarations (`views.rs`).

mod connection;
mod views;

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::{Mutex, PoisonError},
};

use postgres::{Client, Row, Transaction, types::ToSql};
use serde_json::Value;
use tectum_report::Report;

use self::connection::Location;
use super::{
    Brought, Entry, Latest, Problem, Saved, Store, StoreError, Verified,
    chain::{About, Link, follow},
    remarks, shared, values_in,
};
use crate::{
    fleet::Overview,
    when::moment,
    who::{Belongs, Who, belongs, is_key},
    written::{ARCHIVE, FindingCounts, Mark, Observation, Prepared, Removed, State, digest},
};

/// What makes the tables, a step after the other. A step that was made is never changed: another one follows.
const MIGRATIONS: &[&str] = &[include_str!("schema.sql")];

/// The lock that savers take, by a number that nothing else of Tectum's takes.
const LOCK: i64 = 0x7465_6374_756d;

/// How hard is packed.
const LEVEL: i32 = 3;

/// An archive in a database.
pub struct PostgresStore {
    location: Location,
    client: Mutex<Client>,
}

impl std::fmt::Debug for PostgresStore {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("PostgresStore").field("location", &self.location).finish_non_exhaustive()
    }
}

/// Whether a location is a database's.
pub fn is_url(location: &str) -> bool {
    location.starts_with("postgres://") || location.starts_with("postgresql://")
}

impl PostgresStore {
    /// Opens the archive in a database.
    ///
    /// # Errors
    /// That there is none, or one of another version, or no way to the database.
    pub fn open(url: &str) -> Result<Self, StoreError> {
        let location = Location::read(url)?;
        let client = Mutex::new(location.connect()?);
        let store = Self { location, client };
        match store.made()? {
            None => Err(StoreError::Nothing { location: store.location() }),
            Some(made) if made < MIGRATIONS.len() => store.migrate().map(|()| store),
            Some(_) => Ok(store),
        }
    }

    /// Opens the archive in a database, and makes it where there is none.
    ///
    /// # Errors
    /// What stood in the way.
    pub fn open_or_make(url: &str) -> Result<Self, StoreError> {
        match Self::open(url) {
            Err(StoreError::Nothing { .. }) => {}
            other => return other,
        }
        let location = Location::read(url)?;
        let client = Mutex::new(location.connect()?);
        let store = Self { location, client };
        store.migrate()?;
        Ok(store)
    }

    fn failed(&self, doing: &'static str) -> impl Fn(postgres::Error) -> StoreError + use<> {
        let location = self.location();
        move |cause| StoreError::Database { location: location.clone(), doing, cause }
    }

    /// How many steps were made; nothing where there is no archive.
    fn made(&self) -> Result<Option<usize>, StoreError> {
        self.read(|client| {
            let there: bool =
                client.query_one("SELECT to_regclass('tectum.archive') IS NOT NULL", &[])?.get(0);
            if !there {
                return Ok(None);
            }
            let row = client
                .query_opt("SELECT format, format_version, steps FROM tectum.archive", &[])?;
            Ok(row.map(|row| {
                (row.get::<_, String>(0), row.get::<_, String>(1), row.get::<_, i32>(2))
            }))
        })?
        .map(|(format, version, steps)| {
            let steps = usize::try_from(steps).unwrap_or(0);
            if format != ARCHIVE.name {
                return Err(StoreError::NotAnArchive { location: self.location() });
            }
            let found = version.parse().unwrap_or(ARCHIVE.current);
            let known = ARCHIVE.readable(found) != tectum_report::version::Readable::No;
            match known && steps <= MIGRATIONS.len() {
                true => Ok(steps),
                false => Err(StoreError::OtherVersion {
                    location: self.location(),
                    found,
                    known: ARCHIVE.current,
                }),
            }
        })
        .transpose()
    }

    /// Makes what is missing of the tables, and the views anew.
    fn migrate(&self) -> Result<(), StoreError> {
        self.write(|transaction| {
            transaction.batch_execute(
                "CREATE SCHEMA IF NOT EXISTS tectum;
                 CREATE TABLE IF NOT EXISTS tectum.archive
                    (format text NOT NULL, format_version text NOT NULL, steps integer NOT NULL);",
            )?;
            let made: i32 = transaction
                .query_opt("SELECT steps FROM tectum.archive", &[])?
                .map_or(0, |row| row.get(0));
            let made = usize::try_from(made).unwrap_or(0);
            for step in MIGRATIONS.iter().skip(made) {
                transaction.batch_execute(step)?;
            }
            for view in views::views() {
                let name = &view.name;
                transaction.batch_execute(&format!("DROP VIEW IF EXISTS tectum.{name}"))?;
                transaction.batch_execute(&view.text)?;
            }
            transaction.execute("DELETE FROM tectum.archive", &[])?;
            let steps = i32::try_from(MIGRATIONS.len()).unwrap_or(i32::MAX);
            transaction.execute(
                "INSERT INTO tectum.archive VALUES ($1, $2, $3)",
                &[&ARCHIVE.name, &ARCHIVE.current.to_string(), &steps],
            )?;
            Ok(())
        })
    }

    /// Asks the database; a connection that was lost since is made anew once.
    fn read<T>(
        &self,
        ask: impl Fn(&mut Client) -> Result<T, postgres::Error>,
    ) -> Result<T, StoreError> {
        let mut client = self.client.lock().unwrap_or_else(PoisonError::into_inner);
        if client.is_closed() {
            *client = self.location.connect()?;
        }
        match ask(&mut client) {
            Err(_) if client.is_closed() => {
                *client = self.location.connect()?;
                ask(&mut client).map_err(self.failed("read"))
            }
            answer => answer.map_err(self.failed("read")),
        }
    }

    /// Changes the database in one transaction, alone among savers.
    fn write<T>(
        &self,
        change: impl FnOnce(&mut Transaction<'_>) -> Result<T, Stopped>,
    ) -> Result<T, StoreError> {
        let failed = self.failed("write to");
        let mut client = self.client.lock().unwrap_or_else(PoisonError::into_inner);
        if client.is_closed() {
            *client = self.location.connect()?;
        }
        let mut transaction = client.transaction().map_err(&failed)?;
        transaction.execute("SELECT pg_advisory_xact_lock($1)", &[&LOCK]).map_err(&failed)?;
        let changed = change(&mut transaction).map_err(|stopped| match stopped {
            Stopped::Database(cause) => failed(cause),
            Stopped::Store(error) => error,
        })?;
        transaction.commit().map_err(&failed)?;
        Ok(changed)
    }

    fn no_machine(machine: &str) -> StoreError {
        StoreError::NoMachine { machine: machine.to_owned() }
    }

    /// A packed text of one row.
    fn packed(
        &self,
        what: &dyn Fn() -> String,
        query: &str,
        with: &[&(dyn ToSql + Sync)],
    ) -> Result<Option<Vec<u8>>, StoreError> {
        let row = self.read(|client| client.query_opt(query, with))?;
        row.map(|row| unpacked(what, row.get(0))).transpose()
    }
}

/// Why a change was not made.
enum Stopped {
    Database(postgres::Error),
    Store(StoreError),
}

impl From<postgres::Error> for Stopped {
    fn from(error: postgres::Error) -> Self {
        Self::Database(error)
    }
}

impl From<StoreError> for Stopped {
    fn from(error: StoreError) -> Self {
        Self::Store(error)
    }
}

/// The most bytes of an unpacked text.
const MOST_BYTES: usize = 256 << 20;

fn unpacked(what: &dyn Fn() -> String, packed: &[u8]) -> Result<Vec<u8>, StoreError> {
    zstd::bulk::decompress(packed, zstd_size(packed)).map_err(|error| StoreError::Damaged {
        what: what(),
        said: format!("it cannot be unpacked: {error}"),
    })
}

/// How long the text is that was packed, as its frame says, within bounds.
fn zstd_size(packed: &[u8]) -> usize {
    let told = zstd::zstd_safe::get_frame_content_size(packed).ok().flatten();
    told.and_then(|size| usize::try_from(size).ok()).unwrap_or(0).min(MOST_BYTES)
}

fn packed(text: &[u8]) -> Result<Vec<u8>, StoreError> {
    zstd::bulk::compress(text, LEVEL).map_err(|error| StoreError::Damaged {
        what: "what was to be saved".to_owned(),
        said: format!("it cannot be packed: {error}"),
    })
}

fn text_of<T: serde::Serialize>(value: &T) -> Vec<u8> {
    let mut text = serde_json::to_vec(value).unwrap_or_default();
    text.push(b'\n');
    text
}

fn stored(number: u64) -> i64 {
    i64::try_from(number).unwrap_or(i64::MAX)
}

fn number(row: &Row, at: &str) -> u64 {
    u64::try_from(row.get::<_, i64>(at)).unwrap_or_default()
}

fn who(row: &Row) -> Who {
    Who {
        host: row.get("host"),
        system_uuid: row.get("system_uuid"),
        serial: row.get("serial"),
        machine_id: row.get("machine_id"),
    }
}

fn findings(row: &Row) -> FindingCounts {
    FindingCounts {
        critical: number(row, "critical"),
        warning: number(row, "warning"),
        notice: number(row, "notice"),
    }
}

fn latest(row: &Row) -> Latest {
    let overview: Value = row.get("overview");
    Latest {
        machine: row.get("key"),
        who: who(row),
        state: row.get("state"),
        overview: serde_json::from_value::<Overview>(overview).unwrap_or_default(),
        last_seen: row.get("last_seen"),
        unchanged_since: row.get("unchanged_since"),
        observations: number(row, "observations"),
        states: number(row, "states"),
        findings: findings(row),
    }
}

fn entry(row: &Row) -> Entry {
    Entry {
        number: number(row, "number"),
        at: row.get("at"),
        saved_at: row.get("saved_at"),
        state: row.get("state"),
        who: who(row),
        privileged: row.get("privileged"),
        findings: findings(row),
    }
}

const MACHINES: &str = "SELECT key, host, system_uuid, serial, machine_id, state, overview, last_seen, \
    unchanged_since, observations, states, critical, warning, notice FROM tectum.machine \
    WHERE observations > 0";
const ENTRIES: &str = "SELECT number, at, saved_at, state, host, system_uuid, serial, machine_id, privileged, \
    critical, warning, notice FROM tectum.observation WHERE machine = $1 ORDER BY number";

/// A text that the server takes: it knows no character of number 0.
fn taken(value: &Value) -> Value {
    match value {
        Value::String(text) => Value::String(text.replace('\0', "\u{FFFD}")),
        Value::Array(all) => Value::Array(all.iter().map(taken).collect()),
        Value::Object(all) => {
            Value::Object(all.iter().map(|(name, value)| (name.clone(), taken(value))).collect())
        }
        other => other.clone(),
    }
}

/// Keeps a state and where values are from, and the observation; then sums the machine up anew.
fn insert(
    transaction: &mut Transaction<'_>,
    key: &str,
    own: &Who,
    observation: &Observation,
    text: &[u8],
    state: &State,
    origins: &BTreeMap<String, Vec<u8>>,
) -> Result<bool, Stopped> {
    let new_state = transaction.execute(
        "INSERT INTO tectum.state VALUES ($1, $2, $3) ON CONFLICT DO NOTHING",
        &[&state.inventory_digest, &taken(&state.inventory), &packed(&text_of(state))?],
    )? > 0;
    for (own, text) in origins {
        let there = transaction
            .query_opt("SELECT 1 FROM tectum.origins WHERE digest = $1", &[own])?
            .is_some();
        if !there {
            transaction.execute(
                "INSERT INTO tectum.origins VALUES ($1, $2) ON CONFLICT DO NOTHING",
                &[own, &packed(text)?],
            )?;
        }
    }
    transaction
        .execute("INSERT INTO tectum.machine (key) VALUES ($1) ON CONFLICT DO NOTHING", &[&key])?;
    let needs: Vec<&String> = observation.origins.values().collect();
    let found = observation.findings;
    let own_digest = digest(text);
    transaction.execute(
        "INSERT INTO tectum.observation VALUES \
         ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17)",
        &[
            &key,
            &stored(observation.number),
            &observation.taken.at,
            &observation.saved_at,
            &observation.state,
            &needs,
            &own.host,
            &own.system_uuid,
            &own.serial,
            &own.machine_id,
            &observation.taken.privileged,
            &stored(found.critical),
            &stored(found.warning),
            &stored(found.notice),
            &own_digest,
            &observation.before,
            &packed(text)?,
        ],
    )?;
    transaction.execute(
        "UPDATE tectum.machine SET last_number = $2, last_digest = $3 \
         WHERE key = $1 AND last_number < $2",
        &[&key, &stored(observation.number), &own_digest],
    )?;
    Ok(new_state)
}

/// What is told of a machine at a glance, from its observations.
fn summarise(
    transaction: &mut Transaction<'_>,
    key: &str,
    overview: Option<(&str, &Overview)>,
) -> Result<(), Stopped> {
    let entries: Vec<Entry> = transaction.query(ENTRIES, &[&key])?.iter().map(entry).collect();
    let mut by_time: Vec<&Entry> = entries.iter().collect();
    by_time.sort_by_key(|one| (one.at, one.number));
    let Some(last) = by_time.last() else { return Ok(()) };
    let mut own = Who::default();
    entries.iter().for_each(|one| own.learn(&one.who));
    own.host.clone_from(&last.who.host);
    let since = by_time.iter().rev().take_while(|one| one.state == last.state).last();
    let states: BTreeSet<&str> = entries.iter().map(|one| one.state.as_str()).collect();
    let known: Option<Option<String>> = transaction
        .query_opt("SELECT state FROM tectum.machine WHERE key = $1", &[&key])?
        .map(|row| row.get(0));
    let overview = match overview {
        Some((state, overview)) if state == last.state => Some(overview.clone()),
        _ if known.flatten().as_ref() == Some(&last.state) => None,
        _ => Some(overview_of(transaction, key, last)?),
    };
    if let Some(overview) = overview {
        let overview = serde_json::to_value(overview).unwrap_or_default();
        transaction.execute(
            "UPDATE tectum.machine SET overview = $2 WHERE key = $1",
            &[&key, &taken(&overview)],
        )?;
    }
    transaction.execute(
        "UPDATE tectum.machine SET host = $2, system_uuid = $3, serial = $4, machine_id = $5, state = $6, \
         last_seen = $7, unchanged_since = $8, observations = $9, states = $10, critical = $11, \
         warning = $12, notice = $13 WHERE key = $1",
        &[
            &key,
            &own.host,
            &own.system_uuid,
            &own.serial,
            &own.machine_id,
            &last.state,
            &last.at,
            &since.unwrap_or(last).at,
            &stored(entries.len() as u64),
            &stored(states.len() as u64),
            &stored(last.findings.critical),
            &stored(last.findings.warning),
            &stored(last.findings.notice),
        ],
    )?;
    Ok(())
}

/// What a look tells at a glance.
fn overview_of(
    transaction: &mut Transaction<'_>,
    key: &str,
    last: &Entry,
) -> Result<Overview, Stopped> {
    let what = || format!("observation {} of {key}", last.number);
    let row = transaction.query_one(
        "SELECT o.packed, s.packed FROM tectum.observation o JOIN tectum.state s ON s.digest = o.state \
         WHERE o.machine = $1 AND o.number = $2",
        &[&key, &stored(last.number)],
    )?;
    let observation: Observation = super::parsed(&what, &unpacked(&what, row.get(0))?)?;
    let state: State = super::parsed(&what, &unpacked(&what, row.get(1))?)?;
    let report = crate::written::report(observation, &state, Vec::new());
    Ok(report.map(|report| Overview::of(&report)).unwrap_or_default())
}

impl Store for PostgresStore {
    fn location(&self) -> String {
        self.location.shown().to_owned()
    }

    fn machines(&self) -> Result<Vec<Latest>, StoreError> {
        let query = format!("{MACHINES} ORDER BY key COLLATE \"C\"");
        Ok(self.read(|client| client.query(query.as_str(), &[]))?.iter().map(latest).collect())
    }

    fn called(&self, name: &str) -> Result<Vec<Latest>, StoreError> {
        let conditions = [
            "key = $1",
            "lower(host) = lower($1)",
            "serial = $1 OR system_uuid = $1 OR machine_id = $1",
        ];
        for condition in conditions {
            let query = format!("{MACHINES} AND ({condition}) ORDER BY key COLLATE \"C\"");
            let rows = self.read(|client| client.query(query.as_str(), &[&name]))?;
            if !rows.is_empty() {
                return Ok(rows.iter().map(latest).collect());
            }
        }
        Ok(crate::named::called(&self.machines()?, name))
    }

    fn entries(&self, machine: &str) -> Result<Vec<Entry>, StoreError> {
        let entries: Vec<Entry> =
            self.read(|client| client.query(ENTRIES, &[&machine]))?.iter().map(entry).collect();
        if entries.is_empty() { Err(Self::no_machine(machine)) } else { Ok(entries) }
    }

    fn observation_text(&self, machine: &str, number: u64) -> Result<Vec<u8>, StoreError> {
        let what = || format!("observation {number} of {machine}");
        let query = "SELECT packed FROM tectum.observation WHERE machine = $1 AND number = $2";
        let none = || StoreError::NoObservation { machine: machine.to_owned(), number };
        self.packed(&what, query, &[&machine, &stored(number)])?.ok_or_else(none)
    }

    fn state_text(&self, machine: &str, digest: &str) -> Result<Vec<u8>, StoreError> {
        let what = || format!("state {digest} of {machine}");
        let missing = || StoreError::Damaged { what: what(), said: "it is not there".to_owned() };
        let query = "SELECT packed FROM tectum.state WHERE digest = $1";
        self.packed(&what, query, &[&digest])?.ok_or_else(missing)
    }

    fn origins_text(&self, machine: &str, digest: &str) -> Result<Vec<u8>, StoreError> {
        let what = || format!("origins {digest} of {machine}");
        let missing = || StoreError::Damaged { what: what(), said: "it is not there".to_owned() };
        let query = "SELECT packed FROM tectum.origins WHERE digest = $1";
        self.packed(&what, query, &[&digest])?.ok_or_else(missing)
    }

    fn removed(&self, machine: &str) -> Result<Vec<Removed>, StoreError> {
        let query = "SELECT number, digest, before, removed_at FROM tectum.removed \
                     WHERE machine = $1 ORDER BY number";
        let rows = self.read(|client| client.query(query, &[&machine]))?;
        Ok(rows.iter().map(removed).collect())
    }

    fn bring(&self, key: &str, brought: &Brought) -> Result<bool, StoreError> {
        if !is_key(key) {
            return Err(Self::no_machine(key));
        }
        let number = brought.observation.number;
        self.write(|transaction| {
            let there = transaction.query_opt(
                "SELECT digest FROM tectum.observation WHERE machine = $1 AND number = $2",
                &[&key, &stored(number)],
            )?;
            if let Some(there) = there {
                return match there.get::<_, String>(0) == digest(&brought.text) {
                    true => Ok(false),
                    false => Err(StoreError::Differs { machine: key.to_owned(), number }.into()),
                };
            }
            let own: Who =
                serde_json::from_value(brought.observation.machine.clone()).unwrap_or_default();
            let Brought { observation, text, state, origins } = brought;
            insert(transaction, key, &own, observation, text, state, origins)?;
            summarise(transaction, key, None)?;
            Ok(true)
        })
    }

    fn bring_removed(&self, key: &str, removed: &[Removed]) -> Result<(), StoreError> {
        self.write(|transaction| {
            for one in removed {
                remember_removed(transaction, key, one)?;
            }
            Ok(())
        })
    }

    fn save(&self, prepared: &Prepared) -> Result<Saved, StoreError> {
        self.write(|transaction| {
            let own = &prepared.who;
            let query =
                format!("{MACHINES} AND (system_uuid = $1 OR serial = $2 OR machine_id = $3)");
            let alike: Vec<Latest> = transaction
                .query(query.as_str(), &[&own.system_uuid, &own.serial, &own.machine_id])?
                .iter()
                .map(latest)
                .collect();
            let known = || alike.iter().map(|one| (one.machine.as_str(), &one.who));
            let key = match belongs(own, known()) {
                Belongs::To(key) => key,
                Belongs::ToNone => own.key(),
                Belongs::ToSeveral(machines) => {
                    let subject = own.host.clone().unwrap_or_default();
                    return Err(StoreError::Several { subject, machines }.into());
                }
            };
            let entries: Vec<Entry> =
                transaction.query(ENTRIES, &[&key])?.iter().map(entry).collect();
            let same = entries.iter().filter(|one| {
                one.at == prepared.taken_at() && one.state == prepared.state.inventory_digest
            });
            for one in same {
                let what = || format!("observation {} of {key}", one.number);
                let row = transaction.query_one(
                    "SELECT packed FROM tectum.observation WHERE machine = $1 AND number = $2",
                    &[&key, &stored(one.number)],
                )?;
                let there: Observation = super::parsed(&what, &unpacked(&what, row.get(0))?)?;
                if prepared.is(&there) {
                    return Ok(Saved::again(key, one.number));
                }
            }
            let last = transaction.query_opt(
                "SELECT last_number, last_digest FROM tectum.machine WHERE key = $1",
                &[&key],
            )?;
            let (last_number, before): (i64, Option<String>) =
                last.map_or((0, None), |row| (row.get(0), row.get(1)));
            let number = u64::try_from(last_number).unwrap_or_default() + 1;
            let now = moment();
            let mut remarks = remarks(own, now, &entries);
            remarks.extend(shared(own, &key, known()));
            let observation = prepared.observation(number, before, now);
            let origins: BTreeMap<String, Vec<u8>> = prepared
                .origins
                .values()
                .map(|piece| (piece.digest.clone(), piece.text.clone()))
                .collect();
            let text = text_of(&observation);
            let new_state =
                insert(transaction, &key, own, &observation, &text, &prepared.state, &origins)?;
            let state = prepared.state.inventory_digest.as_str();
            summarise(transaction, &key, Some((state, &prepared.overview)))?;
            Ok(Saved::new(key, number, new_state, &entries, state, remarks))
        })
    }

    fn marks(&self, machine: &str) -> Result<Vec<Mark>, StoreError> {
        let query = "SELECT name, number, marked_at FROM tectum.mark WHERE machine = $1 \
                     ORDER BY name COLLATE \"C\"";
        let rows = self.read(|client| client.query(query, &[&machine]))?;
        let mark = |row: &Row| Mark {
            name: row.get("name"),
            observation: number(row, "number"),
            marked_at: row.get("marked_at"),
        };
        Ok(rows.iter().map(mark).collect())
    }

    fn mark(&self, machine: &str, mark: &Mark) -> Result<(), StoreError> {
        self.write(|transaction| {
            let there = transaction.query_opt(
                "SELECT 1 FROM tectum.observation WHERE machine = $1 AND number = $2",
                &[&machine, &stored(mark.observation)],
            )?;
            if there.is_none() {
                let number = mark.observation;
                return Err(
                    StoreError::NoObservation { machine: machine.to_owned(), number }.into()
                );
            }
            transaction.execute(
                "INSERT INTO tectum.mark VALUES ($1, $2, $3, $4) ON CONFLICT (machine, name) \
                 DO UPDATE SET number = excluded.number, marked_at = excluded.marked_at",
                &[&machine, &mark.name, &stored(mark.observation), &mark.marked_at],
            )?;
            Ok(())
        })
    }

    fn unmark(&self, machine: &str, name: &str) -> Result<bool, StoreError> {
        self.write(|transaction| {
            let gone = transaction.execute(
                "DELETE FROM tectum.mark WHERE machine = $1 AND name = $2",
                &[&machine, &name],
            )?;
            Ok(gone > 0)
        })
    }

    fn remove(&self, key: &str, numbers: &BTreeSet<u64>) -> Result<(), StoreError> {
        self.write(|transaction| {
            let going: Vec<i64> = numbers.iter().map(|number| stored(*number)).collect();
            let rows = transaction.query(
                "SELECT number, digest, before, now() AS removed_at FROM tectum.observation o \
                 WHERE machine = $1 AND number = ANY($2) AND number < \
                 (SELECT max(number) FROM tectum.observation WHERE machine = $1) AND NOT EXISTS \
                 (SELECT 1 FROM tectum.mark k WHERE k.machine = o.machine AND k.number = o.number)",
                &[&key, &going],
            )?;
            for one in rows.iter().map(removed) {
                remember_removed(transaction, key, &one)?;
                transaction.execute(
                    "DELETE FROM tectum.observation WHERE machine = $1 AND number = $2",
                    &[&key, &stored(one.number)],
                )?;
            }
            transaction.execute(
                "DELETE FROM tectum.state s WHERE NOT EXISTS \
                 (SELECT 1 FROM tectum.observation o WHERE o.state = s.digest)",
                &[],
            )?;
            transaction.execute(
                "DELETE FROM tectum.origins WHERE digest NOT IN \
                 (SELECT unnest(origins) FROM tectum.observation)",
                &[],
            )?;
            summarise(transaction, key, None)?;
            Ok(())
        })
    }

    fn verify(&self, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
        let mut sum = Verified::default();
        let mut whose: BTreeMap<(&'static str, String), BTreeSet<String>> = BTreeMap::new();
        let mut seen = BTreeSet::new();
        let machines = self.read(|client| {
            client
                .query("SELECT key, last_number, last_digest FROM tectum.machine ORDER BY key", &[])
        })?;
        for row in &machines {
            let key: String = row.get(0);
            sum.machines += 1;
            let mut says = |what: String, said: String, is_damage: bool| {
                tell(Problem { machine: Some(key.clone()), what, said, is_damage });
            };
            let mut chain: BTreeMap<u64, Link> = self
                .removed(&key)?
                .into_iter()
                .map(|one| (one.number, Link { digest: one.digest, before: one.before }))
                .collect();
            let numbers = self.read(|client| {
                client.query("SELECT number, packed FROM tectum.observation WHERE machine = $1 ORDER BY number", &[&key])
            })?;
            for row in &numbers {
                let own = number(row, "number");
                let what = || format!("observation {own} of {key}");
                let bytes: &[u8] = row.get("packed");
                sum.observations += 1;
                sum.bytes += bytes.len() as u64;
                let read = unpacked(&what, bytes).and_then(|text| {
                    Ok((digest(&text), super::parsed::<Observation>(&what, &text)?))
                });
                match read {
                    Err(error) => {
                        says(what(), error.to_string(), true);
                        chain.insert(own, Link { digest: String::new(), before: None });
                    }
                    Ok((digest, observation)) => {
                        if observation.number != own {
                            says(
                                what(),
                                format!("it holds observation {}", observation.number),
                                true,
                            );
                        }
                        for state in [&observation.state] {
                            if seen.insert(state.clone()) {
                                sum.states += 1;
                                let whole = self.state(&key, state).map(|state| state.is_whole());
                                match whole {
                                    Ok(true) => {}
                                    Ok(false) => says(
                                        format!("state {state}"),
                                        "it was altered".to_owned(),
                                        true,
                                    ),
                                    Err(error) => {
                                        says(format!("state {state}"), error.to_string(), true)
                                    }
                                }
                            }
                        }
                        for origins in observation.origins.values() {
                            if seen.insert(origins.clone()) {
                                let read = self.origins_text(&key, origins);
                                match read.map(|text| self::digest(&text) == *origins) {
                                    Ok(true) => {}
                                    Ok(false) => says(
                                        format!("origins {origins}"),
                                        "they were altered".to_owned(),
                                        true,
                                    ),
                                    Err(error) => {
                                        says(format!("origins {origins}"), error.to_string(), true)
                                    }
                                }
                            }
                        }
                        if let Ok(who) = serde_json::from_value::<Who>(observation.machine.clone())
                        {
                            for (what, text) in who.identity() {
                                if let Some(text) = text {
                                    whose
                                        .entry((what, text.to_owned()))
                                        .or_default()
                                        .insert(key.clone());
                                }
                            }
                        }
                        chain.insert(own, Link { digest, before: observation.before });
                    }
                }
            }
            let last: Option<String> = row.get(2);
            let last_number = number(row, "last_number");
            let last = last.as_deref().map(|digest| (last_number, digest));
            follow(&chain, last, &mut |about, said, is_damage| {
                let what = match about {
                    About::Last => format!("machine {key}"),
                    About::Observation(number) => format!("observation {number} of {key}"),
                };
                says(what, said, is_damage);
            });
        }
        super::told_of_several(whose, tell);
        Ok(sum)
    }

    fn latest_values(
        &self,
        machines: &[Latest],
        sections: Option<&[&str]>,
        each: &mut dyn FnMut(&Latest, &Report),
    ) -> Result<(), StoreError> {
        let Some(sections) = sections else {
            for latest in machines {
                each(latest, &self.values(&latest.machine, &latest.state, None)?);
            }
            return Ok(());
        };
        // The server takes the sections out of every inventory; the others are not sent.
        let wanted: Vec<&str> = sections.to_vec();
        for some in machines.chunks(MACHINES_AT_ONCE) {
            let states: Vec<&str> = some.iter().map(|one| one.state.as_str()).collect();
            let rows = self.read(|client| {
                client.query(
                    "SELECT s.digest, (SELECT jsonb_object_agg(e.key, e.value) \
                     FROM jsonb_each(s.inventory) e WHERE e.key = ANY($2)) AS inventory \
                     FROM tectum.state s WHERE s.digest = ANY($1)",
                    &[&states, &wanted],
                )
            })?;
            let found: BTreeMap<String, Option<Value>> =
                rows.iter().map(|row| (row.get(0), row.get(1))).collect();
            for latest in some {
                let inventory = found.get(&latest.state).cloned().flatten().unwrap_or_default();
                let inventory = if inventory.is_null() { serde_json::json!({}) } else { inventory };
                let what = || format!("state {} of {}", latest.state, latest.machine);
                each(latest, &values_in(&what, State::new(inventory, latest.state.clone()))?);
            }
        }
        Ok(())
    }
}

/// So many machines are asked for at once.
const MACHINES_AT_ONCE: usize = 500;

fn removed(row: &Row) -> Removed {
    Removed {
        number: number(row, "number"),
        digest: row.get("digest"),
        before: row.get("before"),
        removed_at: row.get("removed_at"),
    }
}

fn remember_removed(
    transaction: &mut Transaction<'_>,
    key: &str,
    one: &Removed,
) -> Result<(), Stopped> {
    transaction.execute(
        "INSERT INTO tectum.removed VALUES ($1, $2, $3, $4, $5) ON CONFLICT (machine, number) DO NOTHING",
        &[&key, &stored(one.number), &one.digest, &one.before, &one.removed_at],
    )?;
    Ok(())
}
