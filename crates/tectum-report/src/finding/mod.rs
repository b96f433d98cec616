//! Findings: what of a machine is odd, why that matters, what to do about it.
//!
//! A [`Rule`] says of a report what it found, and what it could not judge because a value that it reads
//! is missing: a gap is never taken for "fine". Rules stand in a file each below `rules`; views print what
//! they found and decide nothing. What is found follows from the report and the [`Limits`] alone; "now" is
//! the time at which the report was taken.

mod asked;
mod checked;
pub mod form;
mod judge;
mod judgement;
mod limits;
mod rule;
mod rules;
mod support_dates;

pub use asked::Asked;
pub use checked::{About, Checked, Told, Unjudged};
pub use judge::Seen;
pub use judgement::{Finding, Judgement, NotJudged, Reason};
pub(crate) use limits::as_set;
pub use limits::{LIMITS, Limit, LimitError, Limits};
pub use rule::{Rule, Severity, rule, rules};

pub(crate) use rules::dates::is_past;
