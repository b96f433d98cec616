//! What is asked of the values of a state.

use serde::Deserialize;
use serde_json::value::RawValue;
use tectum_report::{Report, json::chosen::Chosen, query::Path, version::FormatVersion};

use super::{StoreError, known_form, parsed, taken_of};
use crate::written::STATE;

/// Which values of a state are wanted. What else it holds is not looked at.
#[derive(Debug)]
pub struct Asked<'a> {
    /// Those in these sections; in all, if nothing is said.
    sections: Option<Vec<&'a str>>,
    /// These fields; all, if nothing is said.
    fields: Option<Chosen>,
}

impl<'a> Asked<'a> {
    /// All of them.
    pub fn all() -> Self {
        Self { sections: None, fields: None }
    }

    /// Those of some sections.
    pub fn sections(sections: &[&'a str]) -> Self {
        Self { sections: Some(sections.to_vec()), fields: Some(Chosen::sections(sections)) }
    }

    /// Those that paths may name.
    pub fn paths(paths: &'a [Path]) -> Self {
        Self {
            sections: paths.iter().map(Path::section).collect(),
            fields: Some(Chosen::by(paths)),
        }
    }

    /// The names of the sections, if not all may hold any.
    pub fn names(&self) -> Option<&[&'a str]> {
        self.sections.as_deref()
    }

    /// The fields, if not all of those in these sections are asked for.
    #[cfg(feature = "postgres")]
    pub(super) fn fields(&self) -> Option<&Chosen> {
        self.fields.as_ref()
    }

    /// The values that are wanted of the state in a text.
    pub(super) fn of_state(
        &self,
        what: &dyn Fn() -> String,
        digest: &str,
        text: &[u8],
    ) -> Result<Report, StoreError> {
        let state: Text<'_> = parsed(what, text)?;
        known_form(what, &STATE, (&state.format, state.format_version))?;
        if state.inventory_digest != digest {
            return Err(another_state(what));
        }
        self.of_inventory(what, digest, state.inventory.get())
    }

    /// The values that are wanted of an inventory.
    pub(super) fn of_inventory(
        &self,
        what: &dyn Fn() -> String,
        digest: &str,
        text: &str,
    ) -> Result<Report, StoreError> {
        Report::of_inventory(text.as_bytes(), taken_of(digest), self.fields.as_ref())
            .map_err(|cause| StoreError::Report { machine: what(), cause })
    }
}

/// A state whose inventory is not read yet.
#[derive(Deserialize)]
struct Text<'a> {
    format: String,
    format_version: FormatVersion,
    inventory_digest: String,
    #[serde(borrow)]
    inventory: &'a RawValue,
}

/// That a text holds another state than the one that it should.
pub(super) fn another_state(what: &dyn Fn() -> String) -> StoreError {
    let said = "it holds another state than its name says".to_owned();
    StoreError::Damaged { what: what(), said }
}
