//! What stands around the model in a report: declared once, for writing, reading and the schema.

use std::{
    borrow::Cow,
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

use schemars::JsonSchema;
use serde::{Deserialize, Deserializer, Serialize, de::IgnoredAny};
use serde_json::Value;

use super::{
    compact,
    cut::{Cut, Meanings},
};
use crate::{
    fact::{Attempt, Evidence, Gap, Saying, Why},
    finding::Finding,
    report::{Note, SourceAccess, Taken},
    version::FormatVersion,
};

/// A report's members. `Values` are the model's records, the others what belongs to them.
#[derive(Debug, Serialize, Deserialize, JsonSchema)]
pub(super) struct Envelope<
    'a,
    Values,
    Findings,
    Meanings,
    Notes,
    Origins,
    Gaps,
    AllEvidence,
    Sources,
> {
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
    /// What is odd, as it follows from the values: no part of the inventory or of its digest, and found
    /// anew whenever the report is read.
    pub(super) findings: Findings,
    /// What a reader should know and no field says.
    pub(super) notes: Notes,
    /// The sentences that the codes of rules, answers and hints stand for.
    pub(super) meanings: Meanings,
    /// The compact form: where values are from, why others are missing, and every access to the machine, in
    /// tables. The expanded form has the three members that follow instead.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(super) origins: Option<Origins>,
    /// The expanded form: every value that is null, with its reason; a gap at a value that is there says why
    /// more of it may exist.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(super) gaps: Option<Gaps>,
    /// The expanded form: for each value, by its JSON Pointer, where it came from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(super) evidence: Option<AllEvidence>,
    /// The expanded form: every access to the machine.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(super) sources: Option<Sources>,
}

/// The envelope as it is read: what is not always wanted is cut out and read later. What is odd is found anew: a
/// report that does not say it is one all the same.
pub(super) type EnvelopeOf<'a> = Envelope<
    'static,
    Cut<'a>,
    Option<IgnoredAny>,
    Meanings<'a>,
    Vec<Note>,
    compact::Read<'a>,
    Vec<GapAt<String, Gap>>,
    Cut<'a>,
    Cut<'a>,
>;

/// The whole envelope, as the schema describes it.
pub(super) type WholeEnvelope = Envelope<
    'static,
    Value,
    Vec<Finding>,
    BTreeMap<String, String>,
    Vec<Note>,
    compact::WholeTables,
    Vec<GapAt<String, Gap>>,
    HashMap<String, Vec<Evidence>>,
    Vec<SourceAccess>,
>;

/// A gap, with where it is.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub(super) struct GapAt<At, G> {
    /// JSON Pointer to it.
    pub(super) at: At,
    /// The gap.
    #[serde(flatten)]
    pub(super) gap: G,
}

/// A gap with where it is, member by member: what is flattened would be put into a tree of its own
/// first, for each of thousands. A member that a gap has and this does not would not compile.
#[derive(Deserialize)]
struct ReadGapAt {
    at: String,
    why: Why,
    #[serde(default)]
    source: Option<Arc<str>>,
    #[serde(default)]
    hint: Option<Box<Saying>>,
    #[serde(default)]
    raw: Option<Arc<str>>,
    #[serde(default)]
    tried: Vec<Attempt>,
}

impl<'de> Deserialize<'de> for GapAt<String, Gap> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let ReadGapAt { at, why, source, hint, raw, tried } = ReadGapAt::deserialize(deserializer)?;
        Ok(Self { at, gap: Gap { why, source, hint, raw, tried } })
    }
}
