//! For which machines something is meant.

use globset::GlobMatcher;

use super::expected::{Check, Judged};
use crate::{query::Path, report::Report};

/// Machines, by their names or by what is known of them. Everything that is said must hold.
#[derive(Debug, Clone, Default)]
pub(super) struct Hosts {
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
        let facts = self.facts.iter().all(|(path, checks)| {
            let judged = Judged::of(path, checks, report);
            let known = judged.not_known.is_empty();
            judged.wrong.is_empty() && ((known && judged.hits > 0) || (!known && may))
        });
        let grouped =
            self.groups.is_empty() || self.groups.iter().any(|group| group.are_meant(report, may));
        named && facts && grouped
    }
}
