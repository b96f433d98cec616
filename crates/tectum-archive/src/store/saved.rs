//! What became of a look that was to be saved, and what somebody should know of it.

use jiff::Timestamp;
use serde::Serialize;

use super::Entry;
use crate::who::Who;

/// What became of a look that was to be saved.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Saved {
    /// The machine.
    pub machine: String,
    /// The number of the observation.
    pub number: u64,
    /// Whether the archive saw the machine for the first time.
    pub new_machine: bool,
    /// Whether it saw the state for the first time.
    pub new_state: bool,
    /// Whether the machine was in the same state when it was looked at last.
    pub unchanged: bool,
    /// Whether this very look was saved before, and nothing was done.
    pub stood_already: bool,
    /// What somebody should know.
    pub remarks: Vec<Remark>,
}

impl Saved {
    /// A look that stood already.
    pub(crate) fn again(machine: String, number: u64) -> Self {
        Self {
            machine,
            number,
            new_machine: false,
            new_state: false,
            unchanged: true,
            stood_already: true,
            remarks: Vec::new(),
        }
    }

    /// A look that was saved behind these.
    pub(crate) fn new(
        machine: String,
        number: u64,
        new_state: bool,
        before: &[Entry],
        state: &str,
        remarks: Vec<Remark>,
    ) -> Self {
        let last = before.iter().max_by_key(|one| (one.at, one.number));
        Self {
            machine,
            number,
            new_machine: before.is_empty(),
            new_state,
            unchanged: last.is_some_and(|last| last.state == state),
            stood_already: false,
            remarks,
        }
    }
}

/// What somebody should know of a machine in the archive.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "code", rename_all = "kebab-case")]
pub enum Remark {
    /// It has another host name than before.
    OtherName {
        /// The name before.
        before: String,
        /// The name now.
        now: String,
    },
    /// Another machine of the archive has the same of something that no two should have.
    Shared {
        /// The other machine's key.
        with: String,
        /// What both have: a system UUID, a serial number, a machine id.
        what: String,
        /// Which.
        text: String,
    },
    /// It has had two names or installations in turn: two machines that claim to be one.
    Alternates {
        /// The one.
        one: String,
        /// The other.
        other: String,
    },
    /// It was looked at before the last look, and saved after it.
    ClockWentBack {
        /// When the look before was saved.
        before: Timestamp,
        /// When this one was.
        now: Timestamp,
    },
}

/// What somebody should know of a look beside those before it.
pub(crate) fn remarks(who: &Who, saved_at: Timestamp, entries: &[Entry]) -> Vec<Remark> {
    let mut remarks = Vec::new();
    let Some(last) = entries.last() else { return remarks };
    if saved_at < last.saved_at {
        remarks.push(Remark::ClockWentBack { before: last.saved_at, now: saved_at });
    }
    let names = |one: &Who| one.host.clone();
    if let (Some(before), Some(now)) = (names(&last.who), names(who))
        && before != now
    {
        // A machine that gets a name back that it had is rather two machines.
        let again = entries.iter().any(|one| names(&one.who).as_ref() == Some(&now));
        remarks.push(match again {
            true => Remark::Alternates { one: before, other: now },
            false => Remark::OtherName { before, now },
        });
    }
    remarks
}

/// Other machines that have something of this one's identity.
pub(crate) fn shared<'a>(
    who: &Who,
    own: &str,
    others: impl IntoIterator<Item = (&'a str, &'a Who)>,
) -> Vec<Remark> {
    let mut remarks = Vec::new();
    for (key, other) in others {
        if key == own {
            continue;
        }
        for ((what, mine), (_, theirs)) in who.identity().into_iter().zip(other.identity()) {
            if let (Some(mine), Some(theirs)) = (mine, theirs)
                && mine == theirs
            {
                remarks.push(Remark::Shared {
                    with: key.to_owned(),
                    what: what.to_owned(),
                    text: mine.to_owned(),
                });
            }
        }
    }
    remarks
}
