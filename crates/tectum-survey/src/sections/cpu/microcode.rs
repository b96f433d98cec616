//! Versions of the processors' microcode.

use crate::readers::sayings;
use std::collections::BTreeMap;

use tectum_report::{
    fact::{Evidence, Fact, saying},
    leaf::Term,
};

use crate::{
    formats::colon,
    readers::{
        devices::is_numbered,
        file::{File, list},
    },
    source::Lease,
};

/// Versions of microcode, from `/proc/cpuinfo` or, where it does not say, from each CPU's own file
/// (`Documentation/ABI/testing/sysfs-devices-system-cpu`).
pub(super) fn microcode(lease: &Lease) -> Fact<Vec<Term>> {
    let file = File::read(lease, "/proc/cpuinfo");
    let text = file.text();
    let blocks = colon::blocks(&text);
    let mut seen: BTreeMap<&str, Evidence> = BTreeMap::new();
    for entry in blocks.iter().filter_map(|block| colon::find(block, "microcode")) {
        seen.entry(entry.value)
            .or_insert_with(|| file.at_line(entry.line, sayings::EACH_VERSION_ONCE_OVER_ALL));
    }
    if !seen.is_empty() {
        let (names, evidence) =
            seen.into_iter().map(|(name, evidence)| (Term::from(name), evidence)).unzip();
        return Fact::known_from(names, evidence);
    }
    let mut gap = file.lacks("microcode");
    const CPUS: &str = "/sys/devices/system/cpu";
    let mut seen: BTreeMap<Term, Evidence> = BTreeMap::new();
    for name in list(lease, CPUS).iter().flat_map(|names| names.iter()) {
        let Some(name) = name.to_str().filter(|name| is_numbered(name, "cpu")) else {
            continue;
        };
        let file = File::read(lease, format!("{CPUS}/{name}/microcode/version"));
        let fact = file.text_fact::<Term>().by_rule(sayings::EACH_VERSION_ONCE_OVER_ALL);
        match (fact.value(), fact.evidence().first()) {
            (Some(version), Some(evidence)) => {
                seen.entry(version.clone()).or_insert_with(|| evidence.clone());
            }
            // What could not be read may say it, whatever else does not.
            _ if gap.why.hides_a_value() => {}
            _ => gap = fact.missing().cloned().unwrap_or(gap),
        }
    }
    if seen.is_empty() {
        let hint = saying!(
            "processors-without-microcode-most-virtual",
            "processors without microcode, and most virtual ones, give no version",
        );
        return Fact::gap(gap.hint(hint));
    }
    let (names, evidence) = seen.into_iter().unzip();
    Fact::known_from(names, evidence)
}
