//! A state: what a machine was, kept once.

use serde::{Deserialize, Serialize};
use serde_json::Value;
use tectum_report::version::FormatVersion;

use super::{STATE, digest};

/// An inventory, by its digest.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct State {
    /// The word that names the form.
    pub format: String,
    /// The version of the form.
    pub format_version: FormatVersion,
    /// Digest of the inventory's canonical JSON (RFC 8785).
    pub inventory_digest: String,
    /// The inventory, as plain values.
    pub inventory: Value,
}

impl State {
    /// A state of this inventory.
    pub fn new(inventory: Value, inventory_digest: String) -> Self {
        Self {
            format: STATE.name.to_owned(),
            format_version: STATE.current,
            inventory_digest,
            inventory,
        }
    }

    /// Whether the inventory is the one that the digest was made of.
    pub fn is_whole(&self) -> bool {
        serde_json_canonicalizer::to_vec(&self.inventory)
            .is_ok_and(|canonical| digest(&canonical) == self.inventory_digest)
    }
}
