//! Tectum's core: what a Linux machine is made of, where each value came from, what is missing and
//! why, and what changed.
//!
//! The layers, each of which knows only those before it:
//!
//! * [`source`]: the one door to a machine;
//! * [`formats`]: kernel text formats, pure functions;
//! * [`report`]: the model, facts and gaps, the saved form;
//! * [`sections`]: from the door to the model, driven by [`survey`];
//! * [`compare`]: from two models to what changed.
//!
//! The core prints nothing and reads no arguments or environment.

pub mod compare;
pub mod extra;
pub mod formats;
pub mod query;
pub mod redact;
pub mod report;
pub mod sections;
pub mod source;
pub mod survey;
