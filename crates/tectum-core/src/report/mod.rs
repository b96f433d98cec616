//! The report: the model of a machine, facts and gaps, and their JSON form.
//!
//! * [`fact`], [`kinds`], [`record`]: what a model is made of;
//! * [`model`]: the model itself, the one place where fields are declared;
//! * [`document`]: a report with all that stands around the model;
//! * [`mod@write`], [`read`], [`save`], [`schema`]: its JSON form.

pub mod document;
pub mod fact;
pub mod kinds;
pub mod model;
pub mod pointer;
pub mod read;
pub mod record;
pub mod save;
pub mod schema;
pub mod version;
pub mod walk;
pub mod write;

pub use document::{Report, SourceAccess, Taken};
