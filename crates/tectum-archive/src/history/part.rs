//! Where a part has been: its way through a fleet, by what makes it itself.

use jiff::Timestamp;
use serde::Serialize;
use tectum_report::{
    Report,
    compare::label,
    declare::{Node, Record, fact_at, fields},
    json::origins::Depth,
    query::{Hit, HitValue, Path, find_all},
    walk::Met,
};

use crate::{
    side_by_side::side_by_side,
    store::{Asked, Entry, Holding, Latest, Store, StoreError, look_in_part},
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
    let mut open: Vec<(Sighting, Path)> = Vec::new();
    let mut seen: Vec<Seen> = Vec::new();
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
        let mut still = Vec::new();
        for (mut sighting, path) in open {
            if seen.iter().any(|one| one.is(&sighting)) {
                sighting.last_seen = entry.at;
            } else if !may_be_there(store, &latest.machine, entry, &sighting, &path)? {
                sighting.gone_since = Some(entry.at);
                all.push(sighting);
                continue;
            }
            still.push((sighting, path));
        }
        open = still;
        for one in &seen {
            if !open.iter().any(|(open, _)| one.is(open)) {
                let sighting = Sighting {
                    machine: latest.machine.clone(),
                    host: entry.who.host.clone().unwrap_or_else(|| latest.machine.clone()),
                    part: one.part.clone(),
                    place: one.place.clone(),
                    first_seen: entry.at,
                    last_seen: entry.at,
                    gone_since: None,
                };
                open.push((sighting, one.path.clone()));
            }
        }
    }
    all.extend(open.into_iter().map(|(sighting, _)| sighting));
    Ok(all)
}

/// A part in a state.
struct Seen {
    /// What it is called.
    part: String,
    /// Where it sits.
    place: Option<String>,
    /// The values that make parts of its kind themselves, by their path as it is declared.
    path: Path,
}

impl Seen {
    fn is(&self, sighting: &Sighting) -> bool {
        sighting.part == self.part && sighting.place == self.place
    }
}

/// Whether a part that was seen before may be there, though a look does not show it: its list was not seen whole, or
/// who sits in its place was not told.
fn may_be_there(
    store: &dyn Store,
    machine: &str,
    entry: &Entry,
    sighting: &Sighting,
    path: &Path,
) -> Result<bool, StoreError> {
    let section: Vec<&str> = path.section().into_iter().collect();
    let report = look_in_part(store, machine, entry.number, &section, Depth::Reasons)?;
    let found = find_all(&report, path);
    let in_its_place = |hit: &Hit<'_>| match hit.value {
        HitValue::Fact(fact) => fact.missing().is_some() && place(hit.record) == sighting.place,
        HitValue::MissingList(_) => true,
        HitValue::EmptyList(_) => false,
    };
    let absent = fields(&report.inventory)
        .any(|(field, node)| section.contains(&field.name) && matches!(node, Node::Absent));
    Ok(absent
        || path.not_surveyed(&report).is_some()
        || !found.hidden.is_empty()
        || found.hits.iter().any(in_its_place))
}

/// The parts that are this one, each with what it is called and where it sits.
fn parts(report: &Report, text: &str) -> Vec<Seen> {
    let mut found = Vec::new();
    report.walk(&mut |at, _, met| {
        let Met::Record(record) = met else { return };
        let is = |field: &&usize| {
            let own = fact_at(record, **field).and_then(tectum_report::declare::AnyFact::text);
            own.is_some_and(|own| own.eq_ignore_ascii_case(text))
        };
        let shape = record.shape();
        let own = shape.identity.iter().flat_map(|one| one.fields).find(is);
        let name = own.and_then(|field| shape.fields.get(*field));
        if let Some(path) = name.and_then(|field| declared(at.as_str(), field.name)) {
            found.push(Seen { part: named(record), place: place(record), path });
        }
    });
    found
}

/// The path of a field of parts at a pointer, whichever they are.
fn declared(at: &str, field: &str) -> Option<Path> {
    let is_number = |name: &str| name.bytes().all(|sign| sign.is_ascii_digit());
    let names = at.split('/').skip(1).map(|name| if is_number(name) { "*" } else { name });
    names.chain([field]).collect::<Vec<_>>().join(".").parse().ok()
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
