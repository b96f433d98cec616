//! Reports in open formats, for databases, spreadsheets, log pipelines and monitoring.
//!
//! Each is written once against the declarations: what a table is called, which columns it has and what they mean
//! follows from the model (`table`), and which rows a report gives (`part`). So a new field of the model is in all
//! of them.

pub mod csv;
pub mod cyclonedx;

pub mod json_lines;
pub mod json_patch;
pub mod open_metrics;
mod part;
#[cfg(feature = "sqlite")]
pub mod sqlite;
mod table;

pub use table::{Column, Table, table_named, tables};

use crate::{finding::Judgement, report::Report};

/// A report to be exported.
#[derive(Debug, Clone, Copy)]
pub struct Exported<'a> {
    /// What its machine is called: a name that no other machine of the same export has.
    pub host: &'a str,
    /// The report.
    pub report: &'a Report,
    /// What is odd about it.
    pub judgement: &'a Judgement,
}
