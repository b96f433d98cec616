//! A report, taken apart to be saved.

use std::{collections::BTreeMap, sync::Arc};

use jiff::Timestamp;
use serde_json::{Value, json};
use tectum_report::{
    Note, Report, Taken,
    declare::Record,
    finding::{Judgement, Severity},
    json::{origins::Origins, write::Plain},
};

use super::{FindingCounts, OBSERVATION, Observation, State, digest};
use crate::{fleet::Overview, who::Who};

/// A report, taken apart to be saved.
#[derive(Debug)]
pub struct Prepared {
    /// Which machine it is.
    pub who: Who,
    /// The state that it was in.
    pub state: State,
    /// Where values are from, by section.
    pub origins: BTreeMap<String, Piece>,
    /// What a list of machines tells of it.
    pub overview: Overview,
    taken: Taken,
    machine: Value,
    readings: Value,
    findings: FindingCounts,
    notes: Vec<Note>,
}

/// A text that is kept once, by its digest.
#[derive(Debug)]
pub struct Piece {
    /// The digest.
    pub digest: String,
    /// The text.
    pub text: Vec<u8>,
}

/// Why a report cannot be saved.
#[derive(Debug, thiserror::Error)]
pub enum NotToSave {
    /// Nothing says which machine it is.
    #[error(
        "{subject}: nothing says which machine it is: no system UUID, no serial number, no machine id; an archive keeps machines apart by these. Survey it as root, or make /etc/machine-id"
    )]
    Nameless {
        /// What was surveyed.
        subject: String,
    },
    /// Only some sections were surveyed.
    #[error(
        "{subject}: only some sections were surveyed, and an archive keeps whole machines; survey it without naming or skipping sections"
    )]
    InPart {
        /// What was surveyed.
        subject: String,
    },
    /// What it holds cannot be written.
    #[error("{subject}: it cannot be written")]
    NotWritten {
        /// What was surveyed.
        subject: String,
        /// Why.
        #[source]
        cause: serde_json::Error,
    },
}

impl Prepared {
    /// Takes a report apart.
    ///
    /// # Errors
    /// [`NotToSave`], if nothing says which machine it is, or a part of it is missing.
    pub fn of(report: &Report, judgement: &Judgement) -> Result<Self, NotToSave> {
        let subject = || report.taken.subject.clone();
        let who = Who::of(&report.machine);
        if !who.is_known() {
            return Err(NotToSave::Nameless { subject: subject() });
        }
        let whole = report.inventory.shape().field_names;
        if !whole.iter().all(|name| report.taken.sections.iter().any(|own| own == name)) {
            return Err(NotToSave::InPart { subject: subject() });
        }
        let failed = |cause| NotToSave::NotWritten { subject: subject(), cause };
        let inventory = serde_json::to_value(Plain(&report.inventory)).map_err(failed)?;
        let count = |severity| {
            let own = judgement
                .findings
                .iter()
                .filter(|one| one.severity == severity && one.accepted.is_none());
            own.count() as u64
        };
        let mut origins = BTreeMap::new();
        for (section, origin) in report.origins() {
            let text = serde_json::to_vec(&origin).map_err(failed)?;
            origins.insert(section, Piece { digest: digest(&text), text });
        }
        Ok(Self {
            state: State::new(inventory, report.inventory_digest()),
            origins,
            overview: Overview::of(report),
            taken: report.taken.clone(),
            machine: serde_json::to_value(Plain(&report.machine)).map_err(failed)?,
            readings: serde_json::to_value(Plain(&report.readings)).map_err(failed)?,
            findings: FindingCounts {
                critical: count(Severity::Critical),
                warning: count(Severity::Warning),
                notice: count(Severity::Notice),
            },
            notes: report.notes.clone(),
            who,
        })
    }

    /// When the machine was looked at.
    pub fn taken_at(&self) -> Timestamp {
        self.taken.at
    }

    /// The observation, behind the one before it.
    pub fn observation(
        &self,
        number: u64,
        before: Option<String>,
        saved_at: Timestamp,
    ) -> Observation {
        Observation {
            format: OBSERVATION.name.to_owned(),
            format_version: OBSERVATION.current,
            number,
            before,
            saved_at,
            state: self.state.inventory_digest.clone(),
            origins: self
                .origins
                .iter()
                .map(|(section, piece)| (section.clone(), piece.digest.clone()))
                .collect(),
            taken: self.taken.clone(),
            machine: self.machine.clone(),
            readings: self.readings.clone(),
            findings: self.findings,
            notes: self.notes.clone(),
        }
    }

    /// Whether an observation holds the same look: the same moment, state and readings, whatever it was read
    /// from.
    pub fn is(&self, other: &Observation) -> bool {
        self.taken.at == other.taken.at
            && self.state.inventory_digest == other.state
            && self.readings == other.readings
    }
}

/// A machine's report, put together again from what was kept of it.
pub(crate) fn report(
    observation: Observation,
    state: &State,
    origins: Vec<Arc<Origins>>,
) -> Result<Report, tectum_report::json::read::ReadError> {
    Report::of_pieces(tectum_report::json::origins::Pieces {
        taken: observation.taken,
        machine: &observation.machine,
        inventory: &state.inventory,
        readings: &observation.readings,
        origins,
        notes: observation.notes,
    })
}

/// A report of a state alone, for what only its values are asked for.
pub(crate) fn values(
    state: &State,
    taken: Taken,
) -> Result<Report, tectum_report::json::read::ReadError> {
    Report::of_pieces(tectum_report::json::origins::Pieces {
        taken,
        machine: &json!({}),
        inventory: &state.inventory,
        readings: &json!({}),
        origins: Vec::new(),
        notes: Vec::new(),
    })
}

/// A report of the readings of a look alone.
pub(crate) fn readings(
    observation: Observation,
) -> Result<Report, tectum_report::json::read::ReadError> {
    let none = State::new(json!({}), observation.state.clone());
    report(observation, &none, Vec::new())
}
