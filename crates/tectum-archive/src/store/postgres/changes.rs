//! What changes within a transaction: rows put in, a machine summed up anew.

use std::collections::{BTreeMap, BTreeSet};

use postgres::Transaction;
use serde_json::Value;

use super::{
    packing::{packed, unpacked},
    rows::{ENTRIES, entry, stored},
};
use crate::{
    fleet::Overview,
    store::{Entry, StoreError, parsed, text_of_state},
    who::Who,
    written::{Observation, Removed, State, digest},
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

/// Keeps a state and where values are from, and the observation; then sums the machine up anew.
pub(super) fn insert(
    transaction: &mut Transaction<'_>,
    key: &str,
    own: &Who,
    observation: &Observation,
    text: &[u8],
    state: &State,
    origins: &BTreeMap<String, Vec<u8>>,
) -> Result<bool, Stopped> {
    let new_state = transaction.execute(
        "INSERT INTO tectum.state VALUES ($1, $2) ON CONFLICT DO NOTHING",
        &[&state.inventory_digest, &packed(&text_of_state(state)?)?],
    )? > 0;
    if new_state {
        transaction.execute(
            "INSERT INTO tectum.section SELECT $1, key, value FROM jsonb_each($2)",
            &[&state.inventory_digest, &taken(&state.inventory)],
        )?;
    }
    let wanted: Vec<&String> = origins.keys().collect();
    let there: BTreeSet<String> = transaction
        .query("SELECT digest FROM tectum.origins WHERE digest = ANY($1)", &[&wanted])?
        .iter()
        .map(|row| row.get(0))
        .collect();
    for (own, text) in origins.iter().filter(|(own, _)| !there.contains(*own)) {
        transaction.execute(
            "INSERT INTO tectum.origins VALUES ($1, $2) ON CONFLICT DO NOTHING",
            &[own, &packed(text)?],
        )?;
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
    let observation: Observation = parsed(&what, &unpacked(&what, row.get(0))?)?;
    let state: State = parsed(&what, &unpacked(&what, row.get(1))?)?;
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
        &[&key, &stored(one.number), &one.digest, &one.before, &one.removed_at],
    )?;
    Ok(())
}
