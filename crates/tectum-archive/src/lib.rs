//! Tectum's archive: what a machine was, since when, and which of a fleet is the odd one.
//!
//! A machine is itself by its identity, not by its host name. A *state* is an inventory, kept once however
//! often it was seen; an *observation* is one look at the machine: when, in which state, with which readings;
//! a *mark* names an observation. Where they are kept is a [`store`]: a folder of plain files, whose
//! contract is the trait [`Store`](store::Store).
//!
//! The crate prints nothing and reads no arguments or environment.

pub mod alike;
pub mod copy;
pub mod exact;
pub mod fleet;
pub mod history;
pub mod keep;
pub mod named;
pub mod side_by_side;
pub mod store;
pub mod when;
pub mod who;
pub mod written;
