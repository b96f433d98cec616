//! An archive in a PostgreSQL database, for fleets that outgrow one machine.
//!
//! Each look is saved in one transaction, under a lock that all savers take: it is there as a whole once it is
//! acknowledged, and not at all where the database went away before. What people may ask in SQL is in views that
//! are made of the model's declarations (`views.rs`).

mod changes;
mod chosen;
mod connection;
mod dictionary;
mod migration;
mod packing;
mod rows;
mod verify;
mod views;

use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    sync::{Arc, Mutex, PoisonError},
    time::Duration,
};

use postgres::{Client, Transaction, types::ToSql};
use tectum_report::Report;

use self::{
    changes::{Look, Stopped, insert, remember_removed, summarise},
    connection::Location,
    packing::unpacked,
    rows::{
        ENTRIES, MACHINES, OBSERVATION_TEXT, digest_at, digest_if_any, digest_of, entry, latest,
        mark, observation_text, removed, stored, stored_digest,
    },
};
use super::{
    Asked, Brought, Entry, Latest, PieceAt, Problem, ROW, Remembered, SameSections, Saved, Store,
    StoreError, Verified, remarks, shared,
};
use crate::{
    side_by_side::side_by_side,
    when::moment,
    who::{Belongs, belongs, is_key},
    written::{Mark, Observation, Prepared, Removed, digest},
};

/// The lock that savers take, by a number that nothing else of Tectum's takes.
const LOCK: i64 = 0x7465_6374_756d;

/// How long the server may take to say that it is there.
const ANSWER: Duration = Duration::from_secs(10);

/// An archive in a database.
pub struct PostgresStore {
    location: Location,
    client: Mutex<Client>,
    remembered: Remembered,
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
        let store = Self { location, client, remembered: Remembered::default() };
        match store.made()? {
            None => Err(StoreError::Nothing { location: store.location() }),
            Some(made) if Self::lacks_steps(made) => store.migrate().map(|()| store),
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
        let store = Self { location, client, remembered: Remembered::default() };
        store.migrate()?;
        Ok(store)
    }

    fn failed(&self, doing: &'static str) -> impl Fn(postgres::Error) -> StoreError + use<> {
        let location = self.location();
        move |cause| StoreError::Database { location: location.clone(), doing, cause }
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
            Err(error) if client.is_closed() || is_lost(&error) => {
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
        // Nothing is changed twice: a connection that was lost is found out before anything is begun.
        if client.is_closed() || client.is_valid(ANSWER).is_err() {
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
        let none = || StoreError::NoObservation { machine: machine.to_owned(), number };
        let row =
            self.read(|client| client.query_opt(OBSERVATION_TEXT, &[&machine, &stored(number)]))?;
        observation_text(&what, &row.ok_or_else(none)?)
    }

    fn state_text(&self, machine: &str, digest: &str) -> Result<Vec<u8>, StoreError> {
        let what = || format!("state {digest} of {machine}");
        let missing = || StoreError::Damaged { what: what(), said: "it is not there".to_owned() };
        let query = "SELECT packed FROM tectum.state WHERE digest = $1";
        self.packed(&what, query, &[&stored_digest(digest)?])?.ok_or_else(missing)
    }

    fn remembered(&self) -> &Remembered {
        &self.remembered
    }

    fn origins_list(&self, machine: &str, number: u64) -> Result<Vec<PieceAt>, StoreError> {
        let query = "SELECT l.sections, l.origins FROM tectum.observation o \
                     JOIN tectum.origins_list l ON l.digest = o.origins \
                     WHERE o.machine = $1 AND o.number = $2";
        let row = self.read(|client| client.query_opt(query, &[&machine, &stored(number)]))?;
        let none = || StoreError::NoObservation { machine: machine.to_owned(), number };
        let row = row.ok_or_else(none)?;
        let (sections, digests): (Vec<String>, Vec<Vec<u8>>) = (row.get(0), row.get(1));
        let at = |(section, own): (String, Vec<u8>)| PieceAt {
            section,
            digest: digest_of(&own),
            look: None,
        };
        Ok(sections.into_iter().zip(digests).map(at).collect())
    }

    fn origins_text(&self, machine: &str, at: &PieceAt) -> Result<Vec<u8>, StoreError> {
        let what = || format!("origins {} of {machine}", at.digest);
        let damaged = |said: &str| StoreError::Damaged { what: what(), said: said.to_owned() };
        let query = "SELECT packed FROM tectum.origins WHERE digest = $1";
        let text = self.packed(&what, query, &[&stored_digest(&at.digest)?])?;
        let text = text.ok_or_else(|| damaged("it is not there"))?;
        match digest(&text) == at.digest {
            true => Ok(text),
            false => Err(damaged("it was altered")),
        }
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
                return match digest_at(&there, "digest") == digest(&brought.text) {
                    true => Ok(false),
                    false => Err(StoreError::Differs { machine: key.to_owned(), number }.into()),
                };
            }
            let Brought { observation, text, state, origins } = brought;
            let entry = observation.entry();
            let before = observation.before.as_deref();
            let origins_list = observation.origins.as_str();
            let look = Look { entry: &entry, before, text, state, origins_list, origins };
            insert(transaction, key, &look)?;
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
                let row = transaction.query_one(OBSERVATION_TEXT, &[&key, &stored(one.number)])?;
                let there: Observation = super::parsed(&what, &observation_text(&what, &row)?)?;
                if prepared.is(&there) {
                    return Ok(Saved::again(key, one.number));
                }
            }
            let last = transaction.query_opt(
                "SELECT last_number, last_digest FROM tectum.machine WHERE key = $1",
                &[&key],
            )?;
            let (last_number, before): (i64, Option<String>) =
                last.map_or((0, None), |row| (row.get(0), digest_if_any(&row, "last_digest")));
            let number = u64::try_from(last_number).unwrap_or_default() + 1;
            let now = moment();
            let mut remarks = remarks(own, now, &entries);
            remarks.extend(shared(own, &key, known()));
            let text = prepared.observation(number, before.as_deref(), now);
            let look = Look {
                entry: &prepared.entry(number, now),
                before: before.as_deref(),
                text: &text,
                state: &prepared.state,
                origins_list: &prepared.origins_list,
                origins: &prepared.origins,
            };
            let new_state = insert(transaction, &key, &look)?;
            let state = prepared.state.inventory_digest.as_str();
            summarise(transaction, &key, Some((state, &prepared.overview)))?;
            Ok(Saved::new(key, number, new_state, &entries, state, remarks))
        })
    }

    fn marks(&self, machine: &str) -> Result<Vec<Mark>, StoreError> {
        let query = "SELECT name, number, marked_at FROM tectum.mark WHERE machine = $1 \
                     ORDER BY name COLLATE \"C\"";
        let rows = self.read(|client| client.query(query, &[&machine]))?;
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
                "DELETE FROM tectum.origins_list l WHERE NOT EXISTS \
                 (SELECT 1 FROM tectum.observation o WHERE o.origins = l.digest)",
                &[],
            )?;
            transaction.execute(
                "DELETE FROM tectum.origins WHERE digest NOT IN \
                 (SELECT unnest(origins) FROM tectum.origins_list)",
                &[],
            )?;
            summarise(transaction, key, None)?;
            Ok(())
        })
    }

    fn verify(&self, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
        verify::verify(self, tell)
    }

    fn latest_values(
        &self,
        machines: &[Latest],
        asked: &Asked<'_>,
        each: &(dyn Fn(usize, &Report) + Sync),
    ) -> Result<(), StoreError> {
        let Some(sections) = asked.names() else {
            for (row, latest) in machines.iter().enumerate() {
                each(row, &self.values(&latest.machine, &latest.state, asked)?);
            }
            return Ok(());
        };
        let query = chosen::query(sections, asked.fields());
        let same = SameSections::default();
        let numbered: Vec<(usize, &Latest)> = machines.iter().enumerate().collect();
        for some in numbered.chunks(MACHINES_AT_ONCE) {
            let states = some.iter().map(|(_, one)| stored_digest(&one.state));
            let states = states.collect::<Result<Vec<_>, _>>()?;
            let rows = self.read(|client| client.query(&query, &[&states, &sections]))?;
            let mut found: HashMap<&[u8], BTreeMap<&str, &str>> = HashMap::new();
            for row in &rows {
                found.entry(row.get(0)).or_default().insert(row.get(1), row.get(2));
            }
            let told: Vec<_> = some.iter().zip(&states).collect();
            let none = BTreeMap::new();
            let work = |((row, latest), state): &(&(usize, &Latest), &Vec<u8>)| {
                // Several machines may be in one state.
                let own = found.get(state.as_slice()).unwrap_or(&none);
                each(*row, &*report_of(latest, own, asked, &same)?);
                Ok(())
            };
            side_by_side(&told, ROW, work, |_, done: Result<(), StoreError>| done)?;
        }
        Ok(())
    }
}

/// The report of some sections, as the server gives their texts.
fn report_of(
    latest: &Latest,
    texts: &BTreeMap<&str, &str>,
    asked: &Asked<'_>,
    same: &SameSections,
) -> Result<Arc<Report>, StoreError> {
    let sections: Vec<String> = texts
        .iter()
        .map(|(name, text)| format!("{}:{text}", serde_json::Value::from(*name)))
        .collect();
    let inventory = format!("{{{}}}", sections.join(","));
    same.report(inventory.as_bytes(), || {
        let what = || format!("state {} of {}", latest.state, latest.machine);
        asked.of_inventory(&what, &latest.state, &inventory)
    })
}

/// Whether an error says that the connection is gone, which it may say before the client notices: none of the
/// server's, or one of the classes 08 (connection) and 57P (the server or somebody ended it).
fn is_lost(error: &postgres::Error) -> bool {
    error.code().is_none_or(|state| {
        let code = state.code();
        code.starts_with("08") || code.starts_with("57P")
    })
}

/// So many machines are asked for at once.
const MACHINES_AT_ONCE: usize = 500;
