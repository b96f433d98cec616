//! Paths into a report, with wildcards.

mod amount;
mod condition;
mod field;
mod find;
mod i_regexp;
mod json_path;
mod naming;
mod nearest;
mod part_of;
mod path;
mod rows;
mod search;
mod selection;
mod standing;
mod test;
mod way;

pub use field::{DescribedField, described_fields, every_path};
pub use find::{Found, Hit, HitValue, find, find_all};
pub use json_path::{JsonQuery, plain};
pub use nearest::nearest_name;
pub(crate) use path::Elements;
pub use path::{NoSuchField, Path, PathError};
pub use rows::{Cell, Row, Rows, paths, rows, spoken};
pub use search::{Found as SearchHit, In, Search, SearchError, search};
pub use selection::Selection;
pub use standing::{Named, Standing, StandingList, standing};
pub use test::{Comparator, Test, texts};
pub(crate) use way::Along;
