//! Since when a value is what it is, and where a part has been.
//!
//! What a machine is changes rarely: its states are read, each once, and not every look at it. What moves by
//! itself stands in every look.

mod part;
mod value;

use jiff::Timestamp;
use serde::Serialize;

pub use part::{Sighting, way_of_a_part};
pub use value::{Series, Told, history};

use crate::exact::Exact;

/// A value, as long as it was seen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Span {
    /// The value.
    pub value: Exact,
    /// When it was seen first.
    pub first_seen: Timestamp,
    /// When it was seen last.
    pub last_seen: Timestamp,
    /// When something else was seen first, if ever.
    pub otherwise_since: Option<Timestamp>,
    /// How many looks saw it.
    pub observations: u64,
}

impl Span {
    pub(crate) fn new(value: Exact, at: Timestamp) -> Self {
        Self { value, first_seen: at, last_seen: at, otherwise_since: None, observations: 1 }
    }
}

/// Adds what a look saw to what was seen before: the same again, or something else.
pub(crate) fn see(spans: &mut Vec<Span>, value: &Exact, at: Timestamp) {
    match spans.last_mut() {
        Some(last) if last.value == *value && last.otherwise_since.is_none() => {
            last.last_seen = at;
            last.observations += 1;
        }
        last => {
            if let Some(last) = last {
                last.otherwise_since.get_or_insert(at);
            }
            spans.push(Span::new(value.clone(), at));
        }
    }
}
