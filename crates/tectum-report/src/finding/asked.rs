//! Who was asked: a rule, or an owner's expectation.

use std::sync::Arc;

use super::rule::{Rule, Severity};
use crate::expectation::Expectation;

/// Who was asked of a report.
#[derive(Debug, Clone)]
pub enum Asked {
    /// A rule that is built in.
    Rule(&'static Rule),
    /// An owner's expectation.
    Expectation(Arc<Expectation>),
}

impl PartialEq for Asked {
    fn eq(&self, other: &Self) -> bool {
        self.id() == other.id()
    }
}

impl Asked {
    /// The name.
    pub fn id(&self) -> &str {
        match self {
            Self::Rule(rule) => rule.id,
            Self::Expectation(own) => &own.name,
        }
    }

    /// How much it matters.
    pub fn severity(&self) -> Severity {
        match self {
            Self::Rule(rule) => rule.severity,
            Self::Expectation(own) => own.severity,
        }
    }

    /// What is looked for, in a few words.
    pub fn title(&self) -> String {
        match self {
            Self::Rule(rule) => rule.title.to_owned(),
            Self::Expectation(own) => own.message.clone().unwrap_or_else(|| own.words()),
        }
    }

    /// Why it matters.
    pub fn matters(&self) -> Option<&str> {
        match self {
            Self::Rule(rule) => Some(rule.matters),
            Self::Expectation(_) => None,
        }
    }

    /// What to do.
    pub fn action(&self) -> Option<&str> {
        match self {
            Self::Rule(rule) => Some(rule.action),
            Self::Expectation(own) => own.action.as_deref(),
        }
    }

    /// Where more stands.
    pub fn reference(&self) -> Option<&str> {
        match self {
            Self::Rule(rule) => Some(rule.reference),
            Self::Expectation(_) => None,
        }
    }
}
