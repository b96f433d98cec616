//! What a reader of a report should know and no field says.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A note. Its words are for views; what it is about stands in its members.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "code", rename_all = "kebab-case")]
pub enum Note {
    /// A section failed by a defect of Tectum and is left out.
    SectionFailed {
        /// The section.
        section: String,
        /// What it said.
        said: String,
    },
    /// A section was not whole when the survey's time was up, and is left out.
    SectionUnfinished {
        /// The section.
        section: String,
    },
    /// Two sources say different things of one value; the first is taken.
    SourcesDiffer {
        /// JSON Pointer to the value.
        at: String,
        /// The source that it is taken from.
        source: String,
        /// What that says.
        says: String,
        /// The other source.
        other_source: String,
        /// What that says.
        other_says: String,
    },
    /// The report was written by a newer Tectum, and what is new in it was passed over.
    NewerFormat {
        /// The version of its form.
        version: String,
        /// JSON Pointers to what was passed over, at the most twenty.
        passed_over: Vec<String>,
    },
    /// The report holds what no report of this form does.
    NotKnown {
        /// JSON Pointers to what was passed over, at the most twenty.
        passed_over: Vec<String>,
    },
    /// The machine was recorded, and nobody says when: the time is that of its own clock then, which follows from when
    /// its kernel started and how long it had run.
    TimeByOwnClock,
    /// What identifies the machine, its owner or its users was replaced.
    Redacted {
        /// Kinds of text that were kept as they are.
        kept: Vec<String>,
        /// Pieces of evidence and gaps whose raw text was left out, because it holds more than the
        /// value.
        raw_texts_left_out: u64,
    },
    /// A note of a newer Tectum.
    #[serde(other)]
    Other,
}
