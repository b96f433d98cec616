//! What some paths name of one report, to pass or to leave out.

use std::collections::BTreeSet;

use super::{find::find, path::Path};
use crate::{report::Report, walk::Met};

/// The values of a report that some paths name, by their pointers.
#[derive(Debug, Clone, Default)]
pub struct Selection {
    named: BTreeSet<String>,
    others: BTreeSet<String>,
}

impl Selection {
    /// What the paths name of a report.
    pub fn of(report: &Report, paths: &[Path]) -> Self {
        if paths.is_empty() {
            return Self::default();
        }
        let named: BTreeSet<String> =
            paths.iter().flat_map(|path| find(report, path)).map(|hit| hit.at).collect();
        let mut others = BTreeSet::new();
        report.walk(&mut |at, _, met| {
            if matches!(met, Met::Leaf(_)) && !named.contains(at.as_str()) {
                others.insert(at.as_str().to_owned());
            }
        });
        Self { named, others }
    }

    /// Whether a value is named.
    pub fn holds(&self, pointer: &str) -> bool {
        self.named.contains(pointer) || self.holds_all_of(pointer)
    }

    /// Whether anything of a part is named.
    pub fn touches(&self, pointer: &str) -> bool {
        beneath(&self.named, pointer)
    }

    /// Whether all of a part is named.
    pub fn holds_all_of(&self, pointer: &str) -> bool {
        self.touches(pointer) && !beneath(&self.others, pointer)
    }
}

/// Whether a pointer or one beneath it is in a set.
fn beneath(all: &BTreeSet<String>, pointer: &str) -> bool {
    if all.contains(pointer) {
        return true;
    }
    let start = format!("{pointer}/");
    all.range(start.clone()..).next().is_some_and(|found| found.starts_with(&start))
}
