//! For which machines something is meant.

use std::collections::BTreeMap;

use globset::GlobMatcher;

use super::expected::{Check, Judged};
use crate::{
    document::{File, FileError, Value},
    query::{Path, nearest_name},
    report::Report,
};

/// Machines, by their names or by what is known of them. Everything that is said must hold.
#[derive(Debug, Clone, Default)]
pub struct Hosts {
    /// Patterns of host names, of which one must fit; all machines where there is none.
    pub(super) names: Vec<GlobMatcher>,
    /// What must be so of the machine.
    pub(super) facts: Vec<(Path, Vec<Check>)>,
    /// Groups, of which the machine must be in one; whatever it is in where there is none.
    pub(super) groups: Vec<Hosts>,
}

impl Hosts {
    /// Whether a machine is meant. Where that is not known, it is if it `may` be: what is expected of a machine
    /// is passed over only where it is surely not meant, and a finding accepted only where it surely is.
    pub(super) fn are_meant(&self, report: &Report, may: bool) -> bool {
        let named = match report.machine.hostname.value() {
            _ if self.names.is_empty() => true,
            Some(host) => self.names.iter().any(|glob| glob.is_match(&host.0)),
            None => may,
        };
        let facts = self.facts_hold(report, may);
        let grouped =
            self.groups.is_empty() || self.groups.iter().any(|group| group.are_meant(report, may));
        named && facts && grouped
    }

    fn facts_hold(&self, report: &Report, may: bool) -> bool {
        self.facts.iter().all(|(path, checks)| {
            let judged = Judged::of(path, checks, report);
            let known = judged.not_known.is_empty();
            judged.wrong.is_empty() && ((known && judged.hits > 0) || (!known && may))
        })
    }

    /// Whether a machine of this name can be one of them.
    pub fn fit(&self, host: &str) -> bool {
        self.names.is_empty() || self.names.iter().any(|glob| glob.is_match(host))
    }

    /// Whether it takes more than a name to know.
    pub fn ask_for_facts(&self) -> bool {
        !self.facts.is_empty()
    }

    /// Whether what must be so of them is surely so of this one.
    pub fn are_of(&self, report: &Report) -> bool {
        self.facts_hold(report, false)
    }
}

/// Groups of machines, by their names.
#[derive(Debug, Clone, Default)]
pub struct Groups(BTreeMap<String, Hosts>);

impl Groups {
    /// The group of this name.
    ///
    /// # Errors
    /// [`NoSuchGroup`] with the nearest name.
    pub fn named(&self, name: &str) -> Result<&Hosts, NoSuchGroup> {
        self.0.get(name).ok_or_else(|| NoSuchGroup {
            name: name.to_owned(),
            nearest: nearest_name(name, self.0.keys().map(String::as_str)).map(str::to_owned),
        })
    }

    /// The names of all.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.0.keys().map(String::as_str)
    }

    /// Takes over the groups of a file: tables of `hosts` and `where`.
    pub(crate) fn read(&mut self, file: &File<'_>, value: &Value<'_>) -> Result<(), FileError> {
        for (name, value) in file.table(value)? {
            let about = file.keys(file.table(value)?, &["hosts", "where"])?;
            let hosts = file.hosts(&about, self)?;
            self.0.insert(name.get_ref().to_string(), hosts);
        }
        Ok(())
    }
}

/// A group that is none.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("there is no group {name:?}{}", nearest.as_ref().map(|near| format!("; did you mean {near:?}?")).unwrap_or_default())]
pub struct NoSuchGroup {
    /// The name.
    pub name: String,
    /// The nearest name.
    pub nearest: Option<String>,
}
