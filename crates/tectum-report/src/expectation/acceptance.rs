//! Findings that are known and accepted, for a time, with a reason.

use globset::GlobMatcher;
use schemars::JsonSchema;
use serde::Serialize;

use super::hosts::Hosts;
use crate::{finding::Finding, leaf::Date, report::Report};

/// Why and until when a finding is accepted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Acceptance {
    /// Why.
    pub reason: String,
    /// The last day on which it is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub until: Option<String>,
}

/// A rule of acceptance in a file.
#[derive(Debug, Clone)]
pub(super) struct Accept {
    /// The finding's name.
    pub(super) finding: String,
    /// What the part is called.
    pub(super) part: Option<GlobMatcher>,
    pub(super) hosts: Hosts,
    pub(super) until: Option<Date>,
    pub(super) reason: String,
}

impl Accept {
    /// Whether it speaks of a finding.
    pub(super) fn is_of(&self, finding: &Finding, report: &Report) -> bool {
        finding.by.id() == self.finding
            && self.part.as_ref().is_none_or(|part| part.is_match(&finding.label))
            && self.hosts.are_meant(report, false)
    }

    pub(super) fn acceptance(&self) -> Acceptance {
        Acceptance { reason: self.reason.clone(), until: self.until.map(|date| date.to_string()) }
    }
}
