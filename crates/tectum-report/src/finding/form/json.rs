//! What was found as JSON.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::Serialize;

use crate::{
    finding::{About, Asked, Checked, Finding, Severity, Told, Unjudged},
    version::{CHECK, FormatVersion},
};

/// What `check` found.
#[derive(Debug, Serialize, JsonSchema)]
pub struct Document<'a> {
    /// The word that names the form.
    format: &'static str,
    /// The version of the form.
    format_version: FormatVersion,
    /// The machines that were checked.
    machines: &'a [About],
    /// What was found, the same of several machines once; what is accepted last.
    findings: Vec<OfMachines<'a>>,
    /// What could not be judged, by who could not and why.
    not_judged: Vec<Gone>,
    /// Who was asked, by name.
    asked: BTreeMap<&'a str, Who<'a>>,
}

/// A finding, and whose it is.
#[derive(Debug, Serialize, JsonSchema)]
struct OfMachines<'a> {
    #[serde(flatten)]
    finding: &'a Finding,
    /// The machines that have it, by name.
    machines: Vec<&'a str>,
}

/// Something that could not be judged.
#[derive(Debug, Serialize, JsonSchema)]
struct Gone {
    /// Who could not, by name.
    rule: String,
    /// The reason: `not-surveyed`, or the reason of a gap.
    reason: String,
    /// The reason in words.
    says: String,
    /// JSON Pointer to the first value that is missing.
    at: String,
    /// How many values are missing, over all machines.
    values: usize,
    /// Of how many machines.
    machines: usize,
}

/// Who was asked.
#[derive(Debug, Serialize, JsonSchema)]
struct Who<'a> {
    /// How much it matters.
    severity: Severity,
    /// What it looks for.
    title: String,
    /// Why it matters.
    #[serde(skip_serializing_if = "Option::is_none")]
    matters: Option<&'a str>,
    /// What to do.
    #[serde(skip_serializing_if = "Option::is_none")]
    action: Option<&'a str>,
    /// Where more stands.
    #[serde(skip_serializing_if = "Option::is_none")]
    reference: Option<&'a str>,
}

impl<'a> Document<'a> {
    /// What was found.
    pub fn of(checked: &'a Checked) -> Self {
        let findings = checked.told().into_iter().map(|told: &Told| OfMachines {
            finding: &told.finding,
            machines: checked.names(told).collect(),
        });
        let not_judged = checked.unjudged().map(|one: &Unjudged| Gone {
            rule: one.by.id().to_owned(),
            reason: one.reason.clone(),
            says: one.says.clone(),
            at: one.at.clone(),
            values: one.values,
            machines: one.machines.len(),
        });
        let asked = checked.asked().iter().map(|asked: &Asked| {
            let who = Who {
                severity: asked.severity(),
                title: asked.title(),
                matters: asked.matters(),
                action: asked.action(),
                reference: asked.reference(),
            };
            (asked.id(), who)
        });
        Self {
            format: CHECK.name,
            format_version: CHECK.current,
            machines: &checked.machines,
            findings: findings.collect(),
            not_judged: not_judged.collect(),
            asked: asked.collect(),
        }
    }
}
