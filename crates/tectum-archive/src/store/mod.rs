//! Where an archive is kept. A store holds what [`Prepared`] reports are made of; both the contract and what
//! is asked of it are the same for every store.

mod asked;
mod bounded;
mod chain;
mod error;
pub mod folder;
mod holding;
#[cfg(feature = "postgres")]
pub mod postgres;
mod remembered;
mod same;
mod saved;

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use tectum_report::{
    Report, Taken,
    json::origins::{Depth, Origins},
    version::{Format, FormatVersion, Readable},
};

pub use asked::Asked;
use asked::another_state;
pub use error::StoreError;
pub use holding::Holding;
pub use remembered::Remembered;
pub(crate) use same::SameSections;
pub use saved::{Remark, Saved};
pub(crate) use saved::{remarks, shared};

use crate::{
    fleet::Overview,
    named::called,
    side_by_side::side_by_side,
    who::Who,
    written::{
        FindingCounts, Mark, OBSERVATION, Observation, Piece, Prepared, Removed, STATE, State,
        report,
    },
};

/// An observation in a list of them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Entry {
    /// Its number.
    pub number: u64,
    /// When the machine was looked at.
    pub at: Timestamp,
    /// When that was saved.
    pub saved_at: Timestamp,
    /// The state that it was in.
    pub state: String,
    /// Which machine it was.
    pub who: Who,
    /// Whether it was looked at as root.
    pub privileged: bool,
    /// How much was odd.
    pub findings: FindingCounts,
}

/// A machine as it was looked at last.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Latest {
    /// The archive's key for it.
    pub machine: String,
    /// What says which machine it is: of each the last that was known.
    #[serde(flatten)]
    pub who: Who,
    /// Its state's digest.
    pub state: String,
    /// What a list tells of it.
    #[serde(flatten)]
    pub overview: Overview,
    /// When it was looked at last.
    pub last_seen: Timestamp,
    /// Since when it is in that state.
    pub unchanged_since: Timestamp,
    /// How often it was looked at.
    pub observations: u64,
    /// How many states it was seen in.
    pub states: u64,
    /// How much was odd.
    pub findings: FindingCounts,
}

impl Latest {
    /// What a person calls it: its host name, or the archive's key.
    pub fn name(&self) -> String {
        self.who.host.clone().unwrap_or_else(|| self.machine.clone())
    }
}

/// Something that is not as it should be in an archive.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Problem {
    /// The machine, if it is about one.
    pub machine: Option<String>,
    /// What it is about: a file, or a row.
    pub what: String,
    /// What is wrong.
    pub said: String,
    /// Whether something is lost or altered, and not merely to be known.
    pub is_damage: bool,
}

/// How much was looked through.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
pub struct Verified {
    /// Machines.
    pub machines: u64,
    /// Observations.
    pub observations: u64,
    /// States.
    pub states: u64,
    /// Bytes that the archive takes.
    pub bytes: u64,
}

impl Verified {
    /// Adds what was looked through beside it.
    pub(crate) fn add(&mut self, other: Self) {
        let Self { machines, observations, states, bytes } = other;
        self.machines += machines;
        self.observations += observations;
        self.states += states;
        self.bytes += bytes;
    }
}

/// A piece in a list of them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PieceAt {
    /// The section.
    pub section: String,
    /// The digest of its text.
    pub digest: String,
    /// Where it stands, if its store has to be told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub look: Option<String>,
}

/// An archive, wherever it is kept.
pub trait Store: Send + Sync {
    /// Where it is, as messages name it; no password stands in it.
    fn location(&self) -> String;

    /// Every machine as it was looked at last, by key.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn machines(&self) -> Result<Vec<Latest>, StoreError>;

    /// The machines that are called so: by the first kind of name that any has.
    ///
    /// # Errors
    /// What stands in the way of reading them.
    fn called(&self, name: &str) -> Result<Vec<Latest>, StoreError> {
        Ok(called(&self.machines()?, name))
    }

    /// A machine's observations, by number.
    ///
    /// # Errors
    /// What stands in the way of reading them, or that there is no such machine.
    fn entries(&self, machine: &str) -> Result<Vec<Entry>, StoreError>;

    /// The text of an observation, of which the next one holds the digest.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn observation_text(&self, machine: &str, number: u64) -> Result<Vec<u8>, StoreError>;

    /// One observation.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn observation(&self, machine: &str, number: u64) -> Result<Observation, StoreError> {
        let what = || format!("observation {number} of {machine}");
        let text = self.observation_text(machine, number)?;
        observation_of(&what, &text)
    }

    /// The text of a state.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn state_text(&self, machine: &str, digest: &str) -> Result<Vec<u8>, StoreError>;

    /// One state.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn state(&self, machine: &str, digest: &str) -> Result<State, StoreError> {
        let text = self.state_text(machine, digest)?;
        state_of(&|| format!("state {digest} of {machine}"), digest, &text)
    }

    /// The values of a state that are wanted, as a report.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn values(&self, machine: &str, digest: &str, asked: &Asked<'_>) -> Result<Report, StoreError> {
        let text = match asked.names() {
            None => self.state_text(machine, digest)?,
            Some(sections) => self.state_text_in_part(machine, digest, sections)?,
        };
        asked.of_state(&|| format!("state {digest} of {machine}"), digest, &text)
    }

    /// The text of a state with these sections; others may stand in it where leaving them out costs more.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn state_text_in_part(
        &self,
        machine: &str,
        digest: &str,
        sections: &[&str],
    ) -> Result<Vec<u8>, StoreError> {
        let text = self.state_text(machine, digest)?;
        Ok(State::text_in_part(&text, sections).unwrap_or(text))
    }

    /// The sections of a state that hold a text; others may be named where telling them apart costs more.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn sections_holding(
        &self,
        machine: &str,
        digest: &str,
        wanted: &Holding,
    ) -> Result<Vec<String>, StoreError> {
        let text = self.state_text(machine, digest)?;
        if !wanted.is_in(&text) {
            return Ok(Vec::new());
        }
        let state = state_of(&|| format!("state {digest} of {machine}"), digest, &text)?;
        Ok(state
            .inventory
            .as_object()
            .into_iter()
            .flatten()
            .map(|(name, _)| name.clone())
            .collect())
    }

    /// What says where the values of each section of an observation are from.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn origins_list(&self, machine: &str, number: u64) -> Result<Vec<PieceAt>, StoreError>;

    /// The text that says where the values of a section are from.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn origins_text(&self, machine: &str, at: &PieceAt) -> Result<Vec<u8>, StoreError>;

    /// What it remembers of where values are from.
    fn remembered(&self) -> &Remembered;

    /// Where the values of a section are from.
    ///
    /// # Errors
    /// What stands in the way of reading it.
    fn origins(
        &self,
        machine: &str,
        at: &PieceAt,
        depth: Depth,
    ) -> Result<Arc<Origins>, StoreError> {
        let digest = at.digest.as_str();
        if let Some(known) = self.remembered().get(digest, depth) {
            return Ok(known);
        }
        let text = self.origins_text(machine, at)?;
        let origins = Origins::read(&text, depth).map_err(|error| StoreError::Damaged {
            what: format!("{digest} of {machine}"),
            said: error.to_string(),
        })?;
        Ok(self.remembered().keep(digest, depth, origins, text.len()))
    }

    /// A machine's observations that their owner removed, by number.
    ///
    /// # Errors
    /// What stands in the way of reading them.
    fn removed(&self, machine: &str) -> Result<Vec<Removed>, StoreError>;

    /// Takes over a machine's observation from another archive as it is; whether it was not here yet.
    ///
    /// # Errors
    /// What stood in the way; or that another observation of this number is here.
    fn bring(&self, machine: &str, brought: &Brought) -> Result<bool, StoreError>;

    /// Takes over which of a machine's observations were removed.
    ///
    /// # Errors
    /// What stood in the way.
    fn bring_removed(&self, machine: &str, removed: &[Removed]) -> Result<(), StoreError>;

    /// Saves a look, if it is not there yet. When this returns, it is there to stay.
    ///
    /// # Errors
    /// What stood in the way; then the archive is as it was before.
    fn save(&self, prepared: &Prepared) -> Result<Saved, StoreError>;

    /// A machine's marks, by name.
    ///
    /// # Errors
    /// What stands in the way of reading them.
    fn marks(&self, machine: &str) -> Result<Vec<Mark>, StoreError>;

    /// Gives an observation a name, which another may have had.
    ///
    /// # Errors
    /// What stood in the way.
    fn mark(&self, machine: &str, mark: &Mark) -> Result<(), StoreError>;

    /// Takes a name away; whether there was one.
    ///
    /// # Errors
    /// What stood in the way.
    fn unmark(&self, machine: &str, name: &str) -> Result<bool, StoreError>;

    /// Removes observations of a machine, and states that no other saw. The last one that was saved stays, and
    /// what has a mark.
    ///
    /// # Errors
    /// What stood in the way.
    fn remove(&self, machine: &str, numbers: &BTreeSet<u64>) -> Result<(), StoreError>;

    /// Looks through all of it, and tells what is not as it should be.
    ///
    /// # Errors
    /// What stands in the way of looking.
    fn verify(&self, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError>;

    /// The values that are wanted of machines as they were looked at last, each with its machine's row. They are told
    /// side by side, in whatever order; what is the same on many machines is read once.
    ///
    /// # Errors
    /// What stands in the way of reading a machine's state.
    fn latest_values(
        &self,
        machines: &[Latest],
        asked: &Asked<'_>,
        each: &(dyn Fn(usize, &Report) + Sync),
    ) -> Result<(), StoreError> {
        let same = SameSections::default();
        each_latest(machines, each, |_, latest| same_values(self, &same, latest, asked))
    }
}

/// The values that are wanted of a machine as it was looked at last, read where none before it had the same.
fn same_values<S: Store + ?Sized>(
    store: &S,
    same: &SameSections,
    latest: &Latest,
    asked: &Asked<'_>,
) -> Result<Arc<Report>, StoreError> {
    let (machine, digest) = (latest.machine.as_str(), latest.state.as_str());
    let Some(wanted) = asked.names() else {
        return store.values(machine, digest, asked).map(Arc::new);
    };
    let text = store.state_text_in_part(machine, digest, wanted)?;
    let read = || asked.of_state(&|| format!("state {digest} of {machine}"), digest, &text);
    match State::sections_of(&text, digest) {
        Some(own) => same.report(own, read),
        None => read().map(Arc::new),
    }
}

/// Tells of machines as they were looked at last what values they have, each with its row, side by side.
fn each_latest(
    machines: &[Latest],
    each: &(dyn Fn(usize, &Report) + Sync),
    values: impl Fn(usize, &Latest) -> Result<Arc<Report>, StoreError> + Sync,
) -> Result<(), StoreError> {
    let rows: Vec<(usize, &Latest)> = machines.iter().enumerate().collect();
    let work = |(row, latest): &(usize, &Latest)| {
        each(*row, &*values(*row, latest)?);
        Ok(())
    };
    side_by_side(&rows, ROW, work, |_, done: Result<(), StoreError>| done)
}

/// So many states are read in one go.
pub(crate) const ROW: usize = 16;

/// The observation in a text.
pub(crate) fn observation_of(
    what: &dyn Fn() -> String,
    text: &[u8],
) -> Result<Observation, StoreError> {
    let observation: Observation = parsed(what, text)?;
    known_form(what, &OBSERVATION, (&observation.format, observation.format_version))?;
    Ok(observation)
}

/// The state in a text.
pub(crate) fn state_of(
    what: &dyn Fn() -> String,
    digest: &str,
    text: &[u8],
) -> Result<State, StoreError> {
    let state: State = parsed(what, text)?;
    known_form(what, &STATE, (&state.format, state.format_version))?;
    if state.inventory_digest != digest {
        return Err(another_state(what));
    }
    Ok(state)
}

/// The text of a state that is to be kept.
#[cfg(feature = "postgres")]
pub(crate) fn text_of_state(state: &State) -> Result<Vec<u8>, StoreError> {
    state.text().map_err(|error| StoreError::Damaged {
        what: format!("state {}, which was to be saved,", state.inventory_digest),
        said: error.to_string(),
    })
}

/// How a state's values alone were taken.
fn taken_of(digest: &str) -> Taken {
    Taken {
        at: Timestamp::UNIX_EPOCH,
        tool: String::new(),
        subject: digest.to_owned(),
        privileged: true,
        sections: Vec::new(),
        elapsed_ms: 0,
    }
}

/// An observation with all that it needs, on its way from one archive to another.
#[derive(Debug)]
pub struct Brought {
    /// The observation.
    pub observation: Observation,
    /// Its text.
    pub text: Vec<u8>,
    /// The state that was seen.
    pub state: State,
    /// Where values are from.
    pub origins: Vec<Piece>,
}

/// What a text of an archive says.
pub(crate) fn parsed<'a, T: Deserialize<'a>>(
    what: &dyn Fn() -> String,
    text: &'a [u8],
) -> Result<T, StoreError> {
    serde_json::from_slice(text)
        .map_err(|error| StoreError::Damaged { what: what(), said: error.to_string() })
}

/// A form that this Tectum does not know is told as such, and not as damage.
pub(crate) fn known_form(
    what: &dyn Fn() -> String,
    form: &Format,
    (name, version): (&str, FormatVersion),
) -> Result<(), StoreError> {
    if name != form.name {
        let said = format!("its `format` is not {:?}", form.name);
        return Err(StoreError::Damaged { what: what(), said });
    }
    match form.readable(version) {
        Readable::No => {
            Err(StoreError::OtherVersion { location: what(), found: version, known: form.current })
        }
        Readable::Yes | Readable::ButForNews => Ok(()),
    }
}

/// A machine's report as it was looked at, put together from what was kept.
///
/// # Errors
/// What stands in the way of reading a piece of it.
pub fn look(
    store: &dyn Store,
    machine: &str,
    number: u64,
    depth: Depth,
) -> Result<Report, StoreError> {
    let observation = store.observation(machine, number)?;
    let state = store.state(machine, &observation.state)?;
    let origins = store.origins_list(machine, number)?;
    put_together(store, machine, observation, &state, origins.iter(), depth)
}

/// The same, of some sections of the inventory; others may stand in it.
///
/// # Errors
/// What stands in the way of reading a piece of it.
pub(crate) fn look_in_part(
    store: &dyn Store,
    machine: &str,
    number: u64,
    sections: &[&str],
    depth: Depth,
) -> Result<Report, StoreError> {
    let observation = store.observation(machine, number)?;
    let digest = observation.state.as_str();
    let text = store.state_text_in_part(machine, digest, sections)?;
    let state = state_of(&|| format!("state {digest} of {machine}"), digest, &text)?;
    let origins = store.origins_list(machine, number)?;
    let wanted = origins.iter().filter(|at| sections.contains(&at.section.as_str()));
    put_together(store, machine, observation, &state, wanted, depth)
}

fn put_together<'a>(
    store: &dyn Store,
    machine: &str,
    observation: Observation,
    state: &State,
    origins: impl Iterator<Item = &'a PieceAt>,
    depth: Depth,
) -> Result<Report, StoreError> {
    let origins =
        origins.map(|at| store.origins(machine, at, depth)).collect::<Result<Vec<_>, _>>()?;
    report(observation, state, origins)
        .map_err(|cause| StoreError::Report { machine: machine.to_owned(), cause })
}

/// Tells what several machines have and none should share.
pub(crate) fn told_of_several(
    whose: BTreeMap<(&'static str, String), BTreeSet<String>>,
    tell: &mut dyn FnMut(Problem),
) {
    for ((what, text), machines) in whose.into_iter().filter(|(_, machines)| machines.len() > 1) {
        let machines: Vec<String> = machines.into_iter().collect();
        tell(Problem {
            machine: None,
            what: format!("{what} {text}"),
            said: format!("several machines have it: {}", machines.join(", ")),
            is_damage: false,
        });
    }
}
