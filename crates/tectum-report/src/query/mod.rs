//! Paths into a report, with wildcards.

mod field;
mod path;
mod selection;

pub use field::every_path;
pub use path::{Hit, HitValue, NoSuchField, Path, PathError, find};
pub use selection::Selection;
