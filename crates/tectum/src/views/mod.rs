//! Views: data turned into text. They decide nothing; whatever comes from a machine is made safe
//! for the terminal in one place, where a page is written.

pub(crate) mod changes;
pub(crate) mod draw;
pub(crate) mod gaps;
pub(crate) mod notes;
mod page;
pub(crate) mod quantity;
pub(crate) mod sheet;
mod table;
mod terminal;
pub(crate) mod timing;
pub(crate) mod why;

pub(crate) use page::Sheet;
pub(crate) use terminal::Terminal;
