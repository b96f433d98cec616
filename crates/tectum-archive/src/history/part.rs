//! Where a part has been: its way through a fleet, by what makes it itself.

use jiff::Timestamp;
use serde::Serialize;
use tectum_report::{
    Report,
    compare::label,
    declare::{Record, fact_at},
    walk::Met,
};

use crate::{
    side_by_side::side_by_side,
    store::{Asked, Holding, Latest, Store, StoreError},
};

/// A part in a machine, as long as it was seen there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Sighting {
    /// The machine's key.
    pub machine: String,
    /// What the machine is called.
    pub host: String,
    /// What a person calls the part.
    pub part: String,
    /// Where it sat.
    pub place: Option<String>,
    /// When it was seen there first.
    pub first_seen: Timestamp,
    /// When it was seen there last.
    pub last_seen: Timestamp,
    /// When the machine was seen without it there first, if ever.
    pub gone_since: Option<Timestamp>,
}

/// The way of the parts that have this text in what makes them themselves: a serial number, a World Wide
/// Name, a UUID. Sightings are in the order of time.
///
/// # Errors
/// What stands in the way of reading a machine's states.
pub fn way_of_a_part(
    store: &dyn Store,
    machines: &[Latest],
    text: &str,
) -> Result<Vec<Sighting>, StoreError> {
    let wanted = Holding::new(text);
    let mut all: Vec<Sighting> = Vec::new();
    side_by_side(
        machines,
        MACHINES_IN_A_ROW,
        |latest| way_in(store, latest, text, &wanted),
        |_, own| {
            all.extend(own?);
            Ok::<(), StoreError>(())
        },
    )?;
    all.sort_by(|a, b| (a.first_seen, &a.machine).cmp(&(b.first_seen, &b.machine)));
    Ok(all)
}

/// So many machines are looked through in one go.
const MACHINES_IN_A_ROW: usize = 16;

/// Where in one machine it was.
fn way_in(
    store: &dyn Store,
    latest: &Latest,
    text: &str,
    wanted: &Holding,
) -> Result<Vec<Sighting>, StoreError> {
    let mut all: Vec<Sighting> = Vec::new();
    let mut entries = store.entries(&latest.machine)?;
    entries.sort_by_key(|one| (one.at, one.number));
    let mut open: Vec<Sighting> = Vec::new();
    let mut seen: Vec<(String, Option<String>)> = Vec::new();
    let mut of: Option<&str> = None;
    for entry in &entries {
        if of != Some(entry.state.as_str()) {
            let machine = latest.machine.as_str();
            let sections = store.sections_holding(machine, &entry.state, wanted)?;
            let sections: Vec<&str> = sections.iter().map(String::as_str).collect();
            seen = match sections.is_empty() {
                true => Vec::new(),
                false => {
                    let asked = Asked::sections(&sections);
                    parts(&store.values(machine, &entry.state, &asked)?, text)
                }
            };
            of = Some(entry.state.as_str());
        }
        for sighting in &mut open {
            let still =
                seen.iter().any(|(part, place)| sighting.part == *part && sighting.place == *place);
            match still {
                true => sighting.last_seen = entry.at,
                false => sighting.gone_since = Some(entry.at),
            }
        }
        let (gone, still) = open.into_iter().partition(|one| one.gone_since.is_some());
        all.extend::<Vec<Sighting>>(gone);
        open = still;
        for (part, place) in &seen {
            if !open.iter().any(|one| one.part == *part && one.place == *place) {
                open.push(Sighting {
                    machine: latest.machine.clone(),
                    host: entry.who.host.clone().unwrap_or_else(|| latest.machine.clone()),
                    part: part.clone(),
                    place: place.clone(),
                    first_seen: entry.at,
                    last_seen: entry.at,
                    gone_since: None,
                });
            }
        }
    }
    all.extend(open);
    Ok(all)
}

/// The parts that are this one, each with what it is called and where it sits.
fn parts(report: &Report, text: &str) -> Vec<(String, Option<String>)> {
    let mut found = Vec::new();
    report.walk(&mut |_, _, met| {
        let Met::Record(record) = met else { return };
        let is = |field: &usize| {
            let own = fact_at(record, *field).and_then(tectum_report::declare::AnyFact::text);
            own.is_some_and(|own| own.eq_ignore_ascii_case(text))
        };
        let identity = record.shape().identity;
        if identity.iter().any(|one| one.fields.iter().any(is)) {
            found.push((named(record), place(record)));
        }
    });
    found
}

/// What a part is called without the kernel's name, which is another on the next boot.
fn named(record: &dyn Record) -> String {
    let shape = record.shape();
    if shape.place.is_empty() { label(record) } else { shape.noun.to_owned() }
}

fn place(record: &dyn Record) -> Option<String> {
    let texts: Vec<String> =
        record.shape().place.iter().filter_map(|field| fact_at(record, *field)?.text()).collect();
    (!texts.is_empty()).then(|| texts.join(", "))
}
