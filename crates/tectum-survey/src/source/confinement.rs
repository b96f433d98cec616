//! Giving up the right to do anything but read: Landlock (`Documentation/userspace-api/landlock`).
//!
//! The threads that read sections confine themselves before the first access, so that not even a
//! defect could write, or read what no section declares. The thread that saves the report is not
//! confined. Kernels without Landlock go on without it.

use landlock::{
    ABI, Access as _, AccessFs, CompatLevel, Compatible, PathBeneath, PathFd, Ruleset, RulesetAttr,
    RulesetCreated, RulesetCreatedAttr, RulesetStatus,
};

use super::{Door, backend::Backend};

/// The right to read what was declared, and nothing else.
#[derive(Debug)]
pub(crate) struct Confinement {
    rules: RulesetCreated,
}

impl Confinement {
    /// Confinement to what a survey that reads these patterns needs; `None` where the kernel knows
    /// no such thing or there is nothing to open.
    pub(crate) fn to(door: &Door, patterns: &[&str]) -> Option<Self> {
        let version = ABI::V3;
        let mut rules = Ruleset::default()
            .set_compatibility(CompatLevel::BestEffort)
            .handle_access(AccessFs::from_all(version))
            .ok()?
            .create()
            .ok()?;
        let reading = AccessFs::ReadFile | AccessFs::ReadDir;
        match door.backend() {
            Backend::Archive(_) => {}
            #[cfg(test)]
            Backend::Hanging(..) => return None,
            Backend::Tree(tree) if tree.is_live() => {
                for place in places(patterns) {
                    // What is not there cannot be read either.
                    let Ok(opened) = PathFd::new(&place) else { continue };
                    let folder = std::path::Path::new(&place).is_dir();
                    let allowed = if folder { reading } else { AccessFs::ReadFile.into() };
                    rules = rules.add_rule(PathBeneath::new(opened, allowed)).ok()?;
                }
            }
            Backend::Tree(tree) => {
                rules = rules.add_rule(PathBeneath::new(tree.root(), reading)).ok()?;
            }
        }
        Some(Self { rules })
    }

    /// Confines the thread that calls it, for good. Whether the kernel did so.
    pub(crate) fn enter(&self) -> bool {
        let Ok(rules) = self.rules.try_clone() else { return false };
        rules.restrict_self().is_ok_and(|status| status.ruleset != RulesetStatus::NotEnforced)
    }
}

/// The places that patterns begin at. The kernel's own filesystems are taken whole: their links
/// lead from one corner into another.
fn places(patterns: &[&str]) -> Vec<String> {
    let mut places: Vec<String> = patterns
        .iter()
        .map(|pattern| {
            for whole in ["/proc", "/sys"] {
                if pattern.starts_with(whole) {
                    return whole.to_owned();
                }
            }
            match pattern.find(['*', '?', '[', '{']) {
                None => (*pattern).to_owned(),
                Some(wild) => {
                    let literal = pattern.get(..wild).unwrap_or_default();
                    literal.rsplit_once('/').map_or("/", |(folder, _)| folder).to_owned()
                }
            }
        })
        .collect();
    places.sort_unstable();
    places.dedup();
    places
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_begin_at_places() {
        let patterns = ["/sys/block/**", "/proc/stat", "/run/udev/data/b*", "/etc/hostname"];
        assert_eq!(places(&patterns), ["/etc/hostname", "/proc", "/run/udev/data", "/sys"]);
    }
}
