//! What stands around the model in a report: declared once, for writing, reading and the schema.

use std::{
    borrow::Cow,
    collections::{BTreeMap, HashMap},
};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::{
    fact::{Evidence, Gap},
    report::{Note, SourceAccess, Taken},
    version::FormatVersion,
};

/// A report's members. `Values` are the model's records, the others what belongs to them.
#[derive(Debug, Serialize, Deserialize, JsonSchema)]
pub(super) struct Envelope<'a, Values, Gaps, AllEvidence, Meanings, Sources, Notes> {
    /// The word that names the form.
    pub(super) format: Cow<'a, str>,
    /// The version of the form.
    pub(super) format_version: FormatVersion,
    /// Digest of the inventory's canonical JSON (RFC 8785).
    #[schemars(regex(pattern = "^sha256:[0-9a-f]{64}$"))]
    pub(super) inventory_digest: String,
    /// When, how and by whom the report was taken.
    pub(super) taken: Taken,
    /// Which machine it is.
    pub(super) machine: Values,
    /// What should only change when somebody changes the machine.
    pub(super) inventory: Values,
    /// What moves by itself.
    pub(super) readings: Values,
    /// Every value that is null, with its reason; a gap at a value that is there says why more of
    /// it may exist.
    pub(super) gaps: Gaps,
    /// For each value, by its JSON Pointer, where it came from.
    pub(super) evidence: AllEvidence,
    /// The sentences that the codes of rules, answers and hints stand for.
    pub(super) meanings: Meanings,
    /// Every access to the machine.
    pub(super) sources: Sources,
    /// What a reader should know and no field says.
    pub(super) notes: Notes,
}

/// The envelope as it is read, and as the schema describes it.
pub(super) type ReadEnvelope = Envelope<
    'static,
    Value,
    Vec<GapAt<String, Gap>>,
    HashMap<String, Vec<Evidence>>,
    BTreeMap<String, String>,
    Vec<SourceAccess>,
    Vec<Note>,
>;

/// A gap, with where it is.
#[derive(Debug, Serialize, Deserialize, JsonSchema)]
pub(super) struct GapAt<At, G> {
    /// JSON Pointer to it.
    pub(super) at: At,
    /// The gap.
    #[serde(flatten)]
    pub(super) gap: G,
}
