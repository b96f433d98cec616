//! An observation: one look at a machine.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use tectum_report::{Note, Taken, finding::Severity, version::FormatVersion};

#[cfg(feature = "postgres")]
use crate::store::Entry;

/// One look at a machine. Observations of a machine are a chain: each holds the digest of the one that was
/// saved before it, so that one which was altered, removed or slipped in is found out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Observation {
    /// The word that names the form.
    pub format: String,
    /// The version of the form.
    pub format_version: FormatVersion,
    /// How many were saved of this machine up to it, itself among them.
    pub number: u64,
    /// Digest of the text of the one that was saved before it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// When it was saved.
    pub saved_at: Timestamp,
    /// The state that the machine was in: the digest of its inventory.
    pub state: String,
    /// Where the values of each section are from: the digest of the list of what says so.
    pub origins: String,
    /// When, how and by whom it was taken.
    pub taken: Taken,
    /// Which machine it is, as plain values.
    pub machine: Value,
    /// The readings, as plain values.
    pub readings: Value,
    /// How much was odd, as it was judged when it was saved.
    pub findings: FindingCounts,
    /// What a reader should know and no field says.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<Note>,
}

#[cfg(feature = "postgres")]
impl Observation {
    /// What a list of observations says of it.
    pub(crate) fn entry(&self) -> Entry {
        Entry {
            number: self.number,
            at: self.taken.at,
            saved_at: self.saved_at,
            state: self.state.clone(),
            who: serde_json::from_value(self.machine.clone()).unwrap_or_default(),
            privileged: self.taken.privileged,
            findings: self.findings,
        }
    }
}

/// How many findings there were of each severity.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct FindingCounts {
    /// Data or service is at risk.
    pub critical: u64,
    /// Something works worse than it should, or will fail.
    pub warning: u64,
    /// Worth knowing.
    pub notice: u64,
}

impl FindingCounts {
    /// How many there were of a severity.
    pub fn of(self, severity: Severity) -> u64 {
        match severity {
            Severity::Critical => self.critical,
            Severity::Warning => self.warning,
            Severity::Notice => self.notice,
        }
    }
}

/// A name for an observation.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Mark {
    /// The name.
    pub name: String,
    /// The number of the observation.
    pub observation: u64,
    /// When it was named.
    pub marked_at: Timestamp,
}

/// An observation that was removed by its owner's will: what the chain needs to stay one.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Removed {
    /// Its number.
    pub number: u64,
    /// Digest of its text.
    pub digest: String,
    /// Digest of the one before it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// When it was removed.
    pub removed_at: Timestamp,
}
