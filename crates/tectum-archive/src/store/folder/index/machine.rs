//! What the index says of a machine, from its files.

use std::{
    collections::{BTreeMap, BTreeSet},
    path::Path,
};

use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, params};
use serde::Deserialize;
use tectum_report::Taken;

use super::{
    super::{
        called_in,
        disk::names,
        layout::{Machine, look_in, look_number},
        look_file::LookFile,
        observation_in, observation_text_at,
        reading::Reading,
    },
    failed,
    rows::{entries_of, insert, stored},
};
use crate::{
    fleet::Overview,
    store::{Entry, StoreError, state_of},
    who::Who,
    written::FindingCounts,
};

/// Reads what of a machine's observations is not known yet.
pub(super) fn bring_up_to_date(
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

/// The last of some observations.
pub(super) fn latest_of(entries: &[Entry]) -> Option<&Entry> {
    entries.iter().max_by_key(|one| (one.at, one.number))
}

/// Puts together what is told of a machine at a glance.
pub(super) fn summarise(
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
    let (path, text) = observation_text_at(&machine, last.number).ok()?;
    let observation = observation_in(&path, &text).ok()?;
    let text = Reading::of(&machine).whole_state(called_in(&path)?, &last.state).ok()?;
    let state = state_of(&|| key.to_owned(), &last.state, &text).ok()?;
    Some(Overview::of(&crate::written::report(observation, &state, Vec::new()).ok()?))
}
