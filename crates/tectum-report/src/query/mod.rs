//! Paths into a report, with wildcards.

mod amount;
mod condition;
mod field;
mod json_path;
mod naming;
mod part_of;
mod path;
mod rows;
mod search;
mod selection;
mod standing;
mod test;

pub use field::{DescribedField, described_fields, every_path, nearest_name};
pub use json_path::{JsonQuery, plain};
pub(crate) use path::{Along, Elements};
pub use path::{Found, Hit, HitValue, NoSuchField, Path, PathError, find, find_all};
pub use rows::{Cell, Row, Rows, paths, rows, spoken};
pub use search::{Found as SearchHit, In, Search, SearchError, search};
pub use selection::Selection;
pub use standing::{Named, Standing, StandingList, standing};
pub use test::{Comparator, Test, texts};
