//! An owner's own expectations: what some values of some machines should be, written in TOML.
//!
//! A file holds expectations (`[[expect]]`), findings that are accepted for a time (`[[accept]]`), groups of
//! hosts (`[groups.NAME]`) and the names of files that it includes. What a file says is held against the
//! model's declarations when it is read: a path that no report can have, a value that a field cannot be
//! compared with, a key that is none are errors with the place in the file.

mod acceptance;
mod draft;
mod expected;
mod file;
mod hosts;

pub use acceptance::Acceptance;
pub use draft::draft;
pub use expected::{Expectation, Selected};
pub use file::{Expectations, Reader};
pub use hosts::{Groups, Hosts, NoSuchGroup};
