//! Paths into a report, with wildcards.

mod path;

pub use path::{Hit, HitValue, PathError, PathPattern, find};
