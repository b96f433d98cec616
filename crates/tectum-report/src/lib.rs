//! Tectum's report: what is known of a machine, where each value is from, what is missing and why.
//!
//! Nothing here knows how a machine is read. A part's fields are declared once ([`declare`],
//! [`model`]), and everything that treats all fields alike is written once against that: the JSON
//! form ([`json`]), comparison ([`compare`]), paths ([`query`]), redaction ([`redact`]).
//!
//! The crate prints nothing and reads no arguments or environment.

pub mod compare;
pub mod declare;
pub mod document;
pub mod expectation;
pub mod export;
pub mod fact;
pub mod finding;
pub mod json;
pub mod keyed;
pub mod leaf;
pub mod model;
pub mod process;
pub mod query;
pub mod redact;
pub mod report;
pub mod save;
pub mod settings;
pub mod space;
pub mod version;
pub mod walk;

pub use report::{Note, Observed, Report, SourceAccess, Taken};
