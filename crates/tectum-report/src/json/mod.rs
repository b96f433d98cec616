//! A report's JSON form.

mod compact;
mod envelope;
pub mod origins;
pub mod pointer;
pub mod print;
pub mod read;
pub mod schema;
mod unchanged;
pub mod write;
