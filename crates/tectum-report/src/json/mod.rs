//! A report's JSON form.

pub mod canonical;
pub mod chosen;
mod compact;
mod cut;
mod differing;
mod envelope;
pub mod origins;
pub mod pointer;
pub mod print;
pub mod read;
pub mod schema;
mod tree;
pub mod wanted;
pub mod write;
