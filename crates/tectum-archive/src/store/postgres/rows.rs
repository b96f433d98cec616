//! What rows of the tables say.

use postgres::Row;
use serde_json::Value;

use super::packing::unpacked_by;
use crate::{
    fleet::Overview,
    store::{Entry, Latest, StoreError},
    who::Who,
    written::{FindingCounts, Mark, Removed, digest_bytes},
};

pub(super) fn stored(number: u64) -> i64 {
    i64::try_from(number).unwrap_or(i64::MAX)
}

/// A digest as the database holds it.
pub(super) fn stored_digest(digest: &str) -> Result<Vec<u8>, StoreError> {
    let damaged = || StoreError::Damaged {
        what: format!("the digest {digest:?}"),
        said: "it is none".to_owned(),
    };
    digest_bytes(digest).map(|bytes| bytes.to_vec()).ok_or_else(damaged)
}

/// The digest of these bytes.
pub(super) fn digest_of(bytes: &[u8]) -> String {
    format!("sha256:{}", hex::encode(bytes))
}

/// The digest in a row.
pub(super) fn digest_at(row: &Row, at: &str) -> String {
    digest_of(row.get(at))
}

/// The digest in a row, if there is one.
pub(super) fn digest_if_any(row: &Row, at: &str) -> Option<String> {
    row.get::<_, Option<&[u8]>>(at).map(digest_of)
}

pub(super) fn number(row: &Row, at: &str) -> u64 {
    u64::try_from(row.get::<_, i64>(at)).unwrap_or_default()
}

pub(super) fn who(row: &Row) -> Who {
    Who {
        host: row.get("host"),
        system_uuid: row.get("system_uuid"),
        serial: row.get("serial"),
        machine_id: row.get("machine_id"),
    }
}

pub(super) fn findings(row: &Row) -> FindingCounts {
    FindingCounts {
        critical: number(row, "critical"),
        warning: number(row, "warning"),
        notice: number(row, "notice"),
    }
}

pub(super) fn latest(row: &Row) -> Latest {
    let overview: Value = row.get("overview");
    Latest {
        machine: row.get("key"),
        who: who(row),
        state: digest_at(row, "state"),
        overview: serde_json::from_value::<Overview>(overview).unwrap_or_default(),
        last_seen: row.get("last_seen"),
        unchanged_since: row.get("unchanged_since"),
        observations: number(row, "observations"),
        states: number(row, "states"),
        findings: findings(row),
    }
}

pub(super) fn entry(row: &Row) -> Entry {
    Entry {
        number: number(row, "number"),
        at: row.get("at"),
        saved_at: row.get("saved_at"),
        state: digest_at(row, "state"),
        who: who(row),
        privileged: row.get("privileged"),
        findings: findings(row),
    }
}

pub(super) const MACHINES: &str = "SELECT key, host, system_uuid, serial, machine_id, state, overview, last_seen, \
    unchanged_since, observations, states, critical, warning, notice FROM tectum.machine \
    WHERE observations > 0";
pub(super) const ENTRIES: &str = "SELECT number, at, saved_at, state, host, system_uuid, serial, machine_id, privileged, \
    critical, warning, notice FROM tectum.observation WHERE machine = $1 ORDER BY number";

/// The text of an observation, packed, and the names that it is packed by.
pub(super) const OBSERVATION_TEXT: &str = "SELECT o.packed, d.content AS names FROM tectum.observation o \
    JOIN tectum.dictionary d ON d.number = o.dictionary WHERE o.machine = $1 AND o.number = $2";

/// The text of an observation in a row.
pub(super) fn observation_text(
    what: &dyn Fn() -> String,
    row: &Row,
) -> Result<Vec<u8>, StoreError> {
    unpacked_by(what, row.get("names"), row.get("packed"))
}

pub(super) fn removed(row: &Row) -> Removed {
    Removed {
        number: number(row, "number"),
        digest: digest_at(row, "digest"),
        before: digest_if_any(row, "before"),
        removed_at: row.get("removed_at"),
    }
}

pub(super) fn mark(row: &Row) -> Mark {
    Mark {
        name: row.get("name"),
        observation: number(row, "number"),
        marked_at: row.get("marked_at"),
    }
}
