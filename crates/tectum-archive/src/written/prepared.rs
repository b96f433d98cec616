//! A report, taken apart to be saved.

use std::sync::Arc;

use jiff::Timestamp;
use serde::Serialize;
use serde_json::{
    Value, json,
    value::{RawValue, to_raw_value},
};
use tectum_report::{
    Note, Report, Taken,
    declare::Record,
    finding::{Judgement, Severity},
    json::{origins::Origins, write::Plain},
    version::FormatVersion,
};

use super::{FindingCounts, OBSERVATION, Observation, OriginsList, Piece, State, piece};
use crate::{fleet::Overview, store::Entry, who::Who};

/// A report, taken apart to be saved.
#[derive(Debug)]
pub struct Prepared {
    /// Which machine it is.
    pub who: Who,
    /// The state that it was in.
    pub state: State,
    /// The sections of the state.
    pub sections: Vec<Piece>,
    /// Where values are from, by section.
    pub origins: Vec<Piece>,
    /// Digest of the list of what says so.
    pub origins_list: String,
    /// What a list of machines tells of it.
    pub overview: Overview,
    taken: Taken,
    machine: Box<RawValue>,
    readings: Box<RawValue>,
    findings: FindingCounts,
    notes: Vec<Note>,
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
        let whole = report.inventory.shape().fields;
        if !whole.iter().all(|field| report.taken.sections.iter().any(|own| own == field.name)) {
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
        let origins = report.origins().into_iter();
        let origins = origins
            .map(|(section, own)| Ok(Piece::of(section, serde_json::to_vec(&own)?)))
            .collect::<Result<Vec<_>, _>>()
            .map_err(failed)?;
        Ok(Self {
            origins_list: OriginsList::of(&origins).digest(),
            sections: piece::sections(&inventory).map_err(failed)?,
            state: State::new(inventory, report.inventory_digest()),
            origins,
            overview: Overview::of(report),
            taken: report.taken.clone(),
            machine: to_raw_value(&Plain(&report.machine)).map_err(failed)?,
            readings: to_raw_value(&Plain(&report.readings)).map_err(failed)?,
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

    /// The text of the observation, behind the one before it.
    pub fn observation(&self, number: u64, before: Option<&str>, saved_at: Timestamp) -> Vec<u8> {
        let written = Written {
            format: OBSERVATION.name,
            format_version: OBSERVATION.current,
            number,
            before,
            saved_at,
            state: &self.state.inventory_digest,
            origins: &self.origins_list,
            taken: &self.taken,
            machine: &self.machine,
            readings: &self.readings,
            findings: self.findings,
            notes: &self.notes,
        };
        let mut text = serde_json::to_vec(&written).unwrap_or_default();
        text.push(b'\n');
        text
    }

    /// What a list of observations says of it.
    pub fn entry(&self, number: u64, saved_at: Timestamp) -> Entry {
        Entry {
            number,
            at: self.taken.at,
            saved_at,
            state: self.state.inventory_digest.clone(),
            who: self.who.clone(),
            privileged: self.taken.privileged,
            findings: self.findings,
        }
    }

    /// Whether an observation holds the same look: the same moment, state and readings, whatever it was read
    /// from.
    pub fn is(&self, other: &Observation) -> bool {
        self.taken.at == other.taken.at
            && self.state.inventory_digest == other.state
            && serde_json::from_str::<Value>(self.readings.get())
                .is_ok_and(|readings| readings == other.readings)
    }
}

/// An [`Observation`], as it is written.
#[derive(Serialize)]
struct Written<'a> {
    format: &'a str,
    format_version: FormatVersion,
    number: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    before: Option<&'a str>,
    saved_at: Timestamp,
    state: &'a str,
    origins: &'a str,
    taken: &'a Taken,
    machine: &'a RawValue,
    readings: &'a RawValue,
    findings: FindingCounts,
    #[serde(skip_serializing_if = "<[Note]>::is_empty")]
    notes: &'a [Note],
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

/// A report of the readings of a look alone.
pub(crate) fn readings(
    observation: Observation,
) -> Result<Report, tectum_report::json::read::ReadError> {
    let none = State::new(json!({}), observation.state.clone());
    report(observation, &none, Vec::new())
}
