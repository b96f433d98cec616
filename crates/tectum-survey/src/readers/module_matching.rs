//! Which kernel module would drive a device, and whether it is loaded.

use std::{borrow::Cow, collections::BTreeSet};

use crate::readers::file::{File, list};
use crate::{formats::module_alias::Aliases, source::Lease};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Term,
    model::DriverState,
};

/// What the sections that match modules read.
pub(crate) const READS: [&str; 4] = [
    "/lib/modules/*/modules.alias",
    "/proc/sys/kernel/osrelease",
    "/sys/module",
    "/usr/lib/modules/*/modules.alias",
];

/// The running kernel's list of what its modules would drive; the file that tells which kernel runs, where that cannot
/// be read.
pub(crate) fn alias_file(lease: &Lease) -> File {
    let release = File::read(lease, "/proc/sys/kernel/osrelease");
    if release.bytes().is_err() {
        return release;
    }
    let text = release.text();
    let release = text.trim();
    let release = if release.contains('/') { "" } else { release };
    let file = File::read(lease, format!("/lib/modules/{release}/modules.alias"));
    match file.bytes() {
        Ok(_) => file,
        Err(_) => {
            let other = File::read(lease, format!("/usr/lib/modules/{release}/modules.alias"));
            // What may hold patterns and could not be read says more than what is not there.
            if other.bytes().is_ok() || file.hidden().is_none() { other } else { file }
        }
    }
}

/// The list, read, with the modules that are loaded.
pub(crate) struct Matcher<'a> {
    file: &'a File,
    aliases: Aliases<'a>,
    loaded: Result<BTreeSet<String>, Gap>,
}

impl<'a> Matcher<'a> {
    pub(crate) fn new(lease: &Lease, file: &'a File, text: &'a str) -> Self {
        let loaded = list(lease, "/sys/module").map(|names| {
            names.iter().filter_map(|name| name.to_str()).map(str::to_owned).collect()
        });
        Self { file, aliases: Aliases::parse(text), loaded }
    }

    /// Modules that would drive the device of a `modalias`.
    pub(crate) fn modules(&self, modalias: &File) -> Fact<Vec<Term>> {
        if let Err(gap) = modalias.bytes() {
            return Fact::gap(gap.clone());
        }
        if let Err(gap) = self.file.bytes() {
            return Fact::gap(gap.clone().hint(saying!(
                "running-kernel-modules-not-seen",
                "the running kernel's modules are not to be seen",
            )));
        }
        let text = modalias.text();
        let found = self.aliases.matching(text.trim());
        let mut names: Vec<Term> = Vec::new();
        let mut evidence = vec![modalias.evidence(saying!(
            "matched-patterns-modules-alias",
            "matched by the patterns of modules.alias",
        ))];
        for alias in found {
            let name = plain(alias.module);
            if names.iter().any(|known| known.0 == name) {
                continue;
            }
            names.push(Term(name.into_owned()));
            evidence.push(
                Evidence::new(
                    self.file.path().clone(),
                    saying!("pattern-device-matches", "a pattern that the device matches"),
                )
                .line(alias.line)
                .raw(&format!("{} {}", alias.pattern, alias.module)),
            );
        }
        Fact::known_from(names, evidence)
    }

    /// Whether a device has its driver, and why it has none.
    pub(crate) fn state(
        &self,
        driver: &Fact<Term>,
        modules: &Fact<Vec<Term>>,
    ) -> Fact<DriverState> {
        if driver.is_known() {
            return driver
                .clone()
                .map(|_| DriverState::Bound)
                .by_rule(saying!("driver-bound", "a driver is bound to it"));
        }
        // A driver link that may not be followed says nothing.
        if let Some(gap) = driver.unseen() {
            return Fact::gap(gap.clone());
        }
        let loaded = match &self.loaded {
            Ok(loaded) => loaded,
            Err(gap) => return Fact::gap(gap.clone()),
        };
        modules
            .clone()
            .and_then(|modules| {
                Ok::<_, Gap>(if modules.is_empty() {
                    DriverState::NoModule
                } else if modules.iter().any(|module| loaded.contains(&module.0)) {
                    DriverState::ModuleNotBound
                } else {
                    DriverState::ModuleNotLoaded
                })
            })
            .by_rule(saying!(
                "no-driver-bound-modules-match",
                "no driver is bound; modules that match, beside those in /sys/module",
            ))
    }
}

/// A module's name as `/sys/module` has it: a hyphen stands there as a low line.
pub(crate) fn plain(module: &str) -> Cow<'_, str> {
    match module.contains('-') {
        true => Cow::Owned(module.replace('-', "_")),
        false => Cow::Borrowed(module),
    }
}

/// Why a device's driver link leads nowhere: no driver is bound.
pub(crate) fn unbound(driver: Fact<Term>) -> Fact<Term> {
    match driver.missing() {
        Some(gap) if gap.why == Why::NotProvided => {
            Fact::gap(gap.clone().hint(saying!("no-driver-bound", "no driver is bound to it")))
        }
        _ => driver,
    }
}
