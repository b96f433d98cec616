//! Views: data turned into text. They decide nothing; whatever comes from a machine is made safe
//! for the terminal in one place, where a page is written.

pub(crate) mod alike;
pub(crate) mod archive;
pub(crate) mod changes;
pub(crate) mod fields;
pub(crate) mod findings;
pub(crate) mod fleet;
pub(crate) mod found;
pub(crate) mod gaps;
pub(crate) mod history;
pub(crate) mod notes;
mod pager;
pub(crate) mod process;
pub(crate) mod progress;
pub(crate) mod quantity;
pub(crate) mod sheet;
pub(crate) mod sources;
pub(crate) mod space;
mod terminal;
pub(crate) mod timing;
pub(crate) mod why;

pub(crate) use gaps::{gap_words, not_surveyed};
pub(crate) use progress::{Progress, Waiting};
pub(crate) use terminal::Terminal;
