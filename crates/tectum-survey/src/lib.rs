//! Tectum's survey: how a machine is read, and a report of it made.
//!
//! The layers, each of which knows only those before it:
//!
//! * [`formats`]: kernel text formats, pure functions;
//! * [`source`]: the one door to a machine;
//! * `readers`: what several sections read;
//! * [`sections`]: from the door to the model of a report, driven by [`survey`].
//!
//! The crate prints nothing and reads no arguments or environment.

pub mod extra;
pub mod formats;
pub mod own_time;
pub mod process;
mod readers;
pub mod redact;
pub mod sections;
pub mod source;
pub mod space;
pub mod survey;
