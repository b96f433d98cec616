//! Why a value is missing.

use std::sync::Arc;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Saying, clip};
use crate::leaf::codes;

codes! {
    /// Why a value is missing.
    Why {
        /// Nothing on this machine gives it.
        NotProvided = "not-provided",
        /// The kernel gives it to root only.
        Permission = "permission",
        /// The source left it empty, or holds a filler text.
        Blank = "blank",
        /// What stands in the source cannot be the value.
        Invalid = "invalid",
        /// The source did not answer in time.
        Timeout = "timeout",
        /// Such a part has no such property.
        NotApplicable = "not-applicable",
        /// The capture was redacted, and what gives it was left out.
        Withheld = "withheld",
        /// There is more than a report holds of one kind.
        TooMany = "too-many",
        /// What gives it could not be read here: the kernel answered with an error, nothing is mounted where
        /// it would lie, or the capture was made without it.
        NotRead = "not-read",
    }
}

impl Why {
    /// Whether a value may well exist that this survey could not see: comparing it with another
    /// survey's value would tell of the surveys, not of the machine.
    pub fn hides_a_value(self) -> bool {
        matches!(
            self,
            Self::Permission | Self::Timeout | Self::Withheld | Self::TooMany | Self::NotRead
        )
    }

    /// Whether there is no such value, as far as the machine says: nobody need look again.
    pub fn says_there_is_none(self) -> bool {
        matches!(self, Self::NotProvided | Self::NotApplicable)
    }
}

/// A missing value: why, what was asked, what would help.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Gap {
    /// The reason.
    pub why: Why,
    /// The source that was asked last, or the one that would hold the value.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<Arc<str>>,
    /// What would help, if anything.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hint: Option<Box<Saying>>,
    /// What the source holds instead of a value.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raw: Option<Arc<str>>,
    /// Each source that was asked, with its answer.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tried: Vec<Attempt>,
}

/// One source that was asked for a value it did not give.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Attempt {
    /// The source.
    pub source: Arc<str>,
    /// Its answer.
    pub answer: Saying,
}

impl Gap {
    /// A gap with a reason alone.
    pub fn new(why: Why) -> Self {
        Self { why, source: None, hint: None, raw: None, tried: Vec::new() }
    }

    /// The same gap, with the source that was asked and what it answered.
    pub fn tried(mut self, source: Arc<str>, answer: impl Into<Saying>) -> Self {
        self.source = Some(Arc::clone(&source));
        self.tried.push(Attempt { source, answer: answer.into() });
        self
    }

    /// Two attempts at one value, both without it.
    pub(super) fn join(mut self, second: &Self) -> Self {
        // What hides a value says more than that a source has none, and what would help with it more than that
        // one could not be read.
        let weight = |why: Why| match why {
            Why::NotRead => 1,
            other if other.hides_a_value() => 2,
            _ => 0,
        };
        if weight(second.why) > weight(self.why) {
            self.why = second.why;
            self.hint = second.hint.clone();
            self.source = second.source.clone();
        }
        self.hint = self.hint.or_else(|| second.hint.clone());
        self.raw = self.raw.or_else(|| second.raw.clone());
        self.tried.extend_from_slice(&second.tried);
        self
    }

    /// The same gap with what would help.
    pub fn hint(mut self, hint: impl Into<Saying>) -> Self {
        self.hint = Some(Box::new(hint.into()));
        self
    }

    /// The same gap with what stands in the source.
    pub fn raw(mut self, raw: &str) -> Self {
        self.raw = Some(clip(raw).into());
        self
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// Of two attempts the reason is told by which most can be done.
    #[rstest]
    #[case(Why::NotProvided, Why::NotRead, Why::NotRead)]
    #[case(Why::NotRead, Why::NotProvided, Why::NotRead)]
    #[case(Why::NotRead, Why::Permission, Why::Permission)]
    #[case(Why::Permission, Why::NotRead, Why::Permission)]
    #[case(Why::Blank, Why::Timeout, Why::Timeout)]
    #[case(Why::Timeout, Why::Permission, Why::Timeout)]
    #[case(Why::Blank, Why::NotProvided, Why::Blank)]
    fn of_two_reasons_the_one_that_helps_is_told(
        #[case] first: Why,
        #[case] second: Why,
        #[case] told: Why,
    ) {
        let second =
            Gap::new(second).hint(crate::fact::saying!("what-would-help", "what would help"));
        let joined = Gap::new(first).join(&second);
        assert_eq!(joined.why, told);
        assert!(joined.hint.is_some());
    }
}
