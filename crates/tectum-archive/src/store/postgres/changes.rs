//! What changes within a transaction: rows put in, a machine summed up anew.

use std::collections::BTreeSet;

use postgres::Transaction;
use serde_json::Value;

use super::{
    dictionary::Dictionary,
    packing::{packed, packed_by, unpacked},
    rows::{
        ENTRIES, OBSERVATION_TEXT, digest_if_any, entry, observation_text, stored, stored_digest,
    },
};
use crate::{
    fleet::Overview,
    store::{Entry, StoreError, parsed, text_of_state},
    who::Who,
    written::{Observation, Piece, Removed, State, digest},
};

/// Why a change was not made.
pub(super) enum Stopped {
    /// The server refused it, or went away.
    Database(postgres::Error),
    /// The archive itself stands against it.
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

/// A look that is to be put in.
pub(super) struct Look<'a> {
    pub(super) entry: &'a Entry,
    pub(super) before: Option<&'a str>,
    /// The text of its observation.
    pub(super) text: &'a [u8],
    pub(super) state: &'a State,
    pub(super) origins_list: &'a str,
    pub(super) origins: &'a [Piece],
}

/// Keeps a state and where values are from, and the observation; whether the state was not there yet.
pub(super) fn insert(
    transaction: &mut Transaction<'_>,
    key: &str,
    look: &Look<'_>,
) -> Result<bool, Stopped> {
    let Look { entry, text, .. } = look;
    let state = stored_digest(&entry.state)?;
    let known = "SELECT 1 FROM tectum.state WHERE digest = $1";
    let new_state = transaction.query_opt(known, &[&state])?.is_none();
    if new_state {
        transaction.execute(
            "INSERT INTO tectum.state VALUES ($1, $2)",
            &[&state, &packed(&text_of_state(look.state)?)?],
        )?;
        transaction.execute(
            "INSERT INTO tectum.section SELECT $1, key, value FROM jsonb_each($2)",
            &[&state, &taken(&look.state.inventory)],
        )?;
    }
    keep_origins(transaction, look.origins_list, look.origins)?;
    transaction
        .execute("INSERT INTO tectum.machine (key) VALUES ($1) ON CONFLICT DO NOTHING", &[&key])?;
    let (found, own) = (entry.findings, &entry.who);
    let own_digest = stored_digest(&digest(text))?;
    let names = Dictionary::own(transaction)?;
    transaction.execute(
        "INSERT INTO tectum.observation VALUES \
         ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)",
        &[
            &key,
            &stored(entry.number),
            &entry.at,
            &entry.saved_at,
            &state,
            &stored_digest(look.origins_list)?,
            &own.host,
            &own.system_uuid,
            &own.serial,
            &own.machine_id,
            &entry.privileged,
            &stored(found.critical),
            &stored(found.warning),
            &stored(found.notice),
            &own_digest,
            &look.before.map(stored_digest).transpose()?,
            &names.number,
            &packed_by(&names.content, text)?,
        ],
    )?;
    transaction.execute(
        "UPDATE tectum.machine SET last_number = $2, last_digest = $3 \
         WHERE key = $1 AND last_number < $2",
        &[&key, &stored(entry.number), &own_digest],
    )?;
    Ok(new_state)
}

/// Keeps what says where values are from, unless it is there.
fn keep_origins(
    transaction: &mut Transaction<'_>,
    list: &str,
    origins: &[Piece],
) -> Result<(), Stopped> {
    let list = stored_digest(list)?;
    let known = "SELECT 1 FROM tectum.origins_list WHERE digest = $1";
    if transaction.query_opt(known, &[&list])?.is_some() {
        return Ok(());
    }
    let wanted = origins.iter().map(|one| stored_digest(&one.digest));
    let wanted = wanted.collect::<Result<Vec<_>, _>>()?;
    let there: BTreeSet<Vec<u8>> = transaction
        .query("SELECT digest FROM tectum.origins WHERE digest = ANY($1)", &[&wanted])?
        .iter()
        .map(|row| row.get(0))
        .collect();
    for (own, piece) in wanted.iter().zip(origins).filter(|(own, _)| !there.contains(*own)) {
        transaction.execute(
            "INSERT INTO tectum.origins VALUES ($1, $2) ON CONFLICT DO NOTHING",
            &[own, &packed(&piece.text)?],
        )?;
    }
    let sections: Vec<&String> = origins.iter().map(|one| &one.section).collect();
    transaction.execute(
        "INSERT INTO tectum.origins_list VALUES ($1, $2, $3) ON CONFLICT DO NOTHING",
        &[&list, &sections, &wanted],
    )?;
    Ok(())
}

/// What is told of a machine at a glance, from its observations.
pub(super) fn summarise(
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
    let known = transaction
        .query_opt("SELECT state FROM tectum.machine WHERE key = $1", &[&key])?
        .and_then(|row| digest_if_any(&row, "state"));
    let overview = match overview {
        Some((state, overview)) if state == last.state => Some(overview.clone()),
        _ if known.as_ref() == Some(&last.state) => None,
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
            &stored_digest(&last.state)?,
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
    let row = transaction.query_one(OBSERVATION_TEXT, &[&key, &stored(last.number)])?;
    let observation: Observation = parsed(&what, &observation_text(&what, &row)?)?;
    let packed = "SELECT packed FROM tectum.state WHERE digest = $1";
    let row = transaction.query_one(packed, &[&stored_digest(&observation.state)?])?;
    let state: State = parsed(&what, &unpacked(&what, row.get(0))?)?;
    let report = crate::written::report(observation, &state, Vec::new());
    Ok(report.map(|report| Overview::of(&report)).unwrap_or_default())
}

/// Says that an observation was removed by its owner's will.
pub(super) fn remember_removed(
    transaction: &mut Transaction<'_>,
    key: &str,
    one: &Removed,
) -> Result<(), Stopped> {
    transaction.execute(
        "INSERT INTO tectum.removed VALUES ($1, $2, $3, $4, $5) ON CONFLICT (machine, number) DO NOTHING",
        &[
            &key,
            &stored(one.number),
            &stored_digest(&one.digest)?,
            &one.before.as_deref().map(stored_digest).transpose()?,
            &one.removed_at,
        ],
    )?;
    Ok(())
}
