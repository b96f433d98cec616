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
    /// Whether a machine is meant. One of which that is not known is meant, so that nothing is passed over.
    pub(super) fn are_meant(&self, report: &Report) -> bool {
        let host = report.machine.hostname.value().map_or("", |name| name.0.as_str());
        let named = self.names.is_empty() || self.names.iter().any(|glob| glob.is_match(host));
        named
            && self.facts.iter().all(|(path, checks)| {
                let judged = Judged::of(path, checks, report);
                judged.wrong.is_empty() && (judged.hits > 0 || !judged.not_known.is_empty())
            })
            && (self.groups.is_empty() || self.groups.iter().any(|group| group.are_meant(report)))
    }
}
