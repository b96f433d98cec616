//! Frequencies (`Documentation/admin-guide/pm/cpufreq.rst`).

use crate::readers::sayings;
use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use super::{Info, ROOT};
use crate::{
    formats::{colon, number},
    readers::{
        devices::is_numbered,
        file::{File, list, listing_evidence},
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{Megahertz, Series, Term},
    model::{CpuReadings, FrequencyPolicy},
};

pub(super) const MINIMUM: &str = "cpuinfo_min_freq";
pub(super) const MAXIMUM: &str = "cpuinfo_max_freq";
const LOWEST: &str = "scaling_min_freq";
const HIGHEST: &str = "scaling_max_freq";
const CURRENT: &str = "scaling_cur_freq";
const BASE: &str = "base_frequency";

/// Every frequency policy.
pub(super) struct Policies {
    policies: Result<Vec<Policy>, Gap>,
}

struct Policy {
    cpus: Vec<u64>,
    files: BTreeMap<&'static str, File>,
}

/// What is read of a policy.
const FILES: [&str; 10] = [
    "related_cpus",
    "scaling_driver",
    "scaling_governor",
    MINIMUM,
    MAXIMUM,
    LOWEST,
    HIGHEST,
    CURRENT,
    BASE,
    "energy_performance_preference",
];

impl Policy {
    fn mhz(&self, name: &str) -> Fact<u64> {
        match self.files.get(name) {
            Some(file) => {
                file.fact(sayings::KHZ_WHOLE_MHZ, |text| Some(number::kilohertz(text)? / 1000))
            }
            None => Fact::default(),
        }
    }

    fn text(&self, name: &str) -> Fact<Term> {
        self.files.get(name).map_or_else(Fact::default, File::text_fact)
    }
}

fn no_scaling(gap: Gap) -> Gap {
    gap.hint(saying!(
        "no-driver-scales-machine-cpu",
        "no driver scales this machine's CPU frequency, as usual under a hypervisor",
    ))
}

impl Policies {
    pub(super) fn read(lease: &Lease) -> Self {
        let folder = format!("{ROOT}/cpufreq");
        let policies = list(lease, &folder).map_err(no_scaling).and_then(|names| {
            let policies: Vec<Policy> = names
                .iter()
                .filter_map(|name| name.to_str())
                .filter(|name| is_numbered(name, "policy"))
                .map(|policy| {
                    let file = |name: &str| File::read(lease, format!("{folder}/{policy}/{name}"));
                    let files: BTreeMap<_, _> =
                        FILES.into_iter().map(|name| (name, file(name))).collect();
                    let cpus = files.get("related_cpus").map(File::text).unwrap_or_default();
                    let mut cpus: Vec<u64> =
                        cpus.split_whitespace().filter_map(number::decimal).collect();
                    if cpus.is_empty() {
                        // A policy is named by its first CPU.
                        let own = policy.strip_prefix("policy").and_then(number::decimal);
                        cpus.extend(own);
                    }
                    Policy { cpus, files }
                })
                .collect();
            match policies.is_empty() {
                true => Err(no_scaling(Gap::new(Why::NotProvided).tried(
                    folder.as_str().into(),
                    saying!("holds-no-frequency-policy", "holds no frequency policy"),
                ))),
                false => Ok(policies),
            }
        });
        Self { policies }
    }

    fn each(&self) -> &[Policy] {
        self.policies.as_ref().map_or(&[], Vec::as_slice)
    }

    fn gap(&self) -> Gap {
        match &self.policies {
            Err(gap) => gap.clone(),
            Ok(_) => no_scaling(
                Gap::new(Why::NotProvided)
                    .tried(format!("{ROOT}/cpufreq/policy*").into(), sayings::DOES_NOT_SAY_IT),
            ),
        }
    }

    /// The lowest or highest of a frequency over all policies.
    pub(super) fn limit(&self, name: &str, pick: fn(u64, u64) -> u64) -> Fact<u64> {
        let all: Vec<Fact<u64>> = self.each().iter().map(|policy| policy.mhz(name)).collect();
        let mut gaps = all.iter().filter_map(Fact::missing);
        if let Some(gap) = gaps.find(|gap| gap.why.hides_a_value()) {
            return Fact::gap(gap.clone());
        }
        let known = all.into_iter().filter(Fact::is_known);
        let best = known.reduce(|best, next| match (best.value(), next.value()) {
            (Some(a), Some(b)) if pick(*a, *b) != *a => next,
            _ => best,
        });
        best.map_or_else(
            || Fact::gap(self.gap()),
            |fact| {
                fact.by_rule(saying!(
                    "khz-over-all-policies-whole",
                    "kHz, over all policies, in whole MHz",
                ))
            },
        )
    }

    pub(super) fn base(&self) -> Fact<u64> {
        self.limit(BASE, u64::max)
    }

    /// Policies that are alike, together with their CPUs.
    pub(super) fn parts(&self) -> Parts<FrequencyPolicy> {
        if let Err(gap) = &self.policies {
            return Parts::missing(gap.clone());
        }
        const SAME: [&str; 7] = [
            "scaling_driver",
            "scaling_governor",
            MINIMUM,
            MAXIMUM,
            LOWEST,
            HIGHEST,
            "energy_performance_preference",
        ];
        let mut alike: BTreeMap<Vec<String>, Vec<&Policy>> = BTreeMap::new();
        // One of which something could not be read may be like any.
        let mut unseen: Option<&Gap> = None;
        for policy in self.each() {
            let files = SAME.iter().filter_map(|name| policy.files.get(*name));
            if let Some(gap) = files.into_iter().find_map(File::hidden) {
                unseen = unseen.or(Some(gap));
                continue;
            }
            let text = |name: &&str| policy.files.get(*name).map(|file| file.text().into_owned());
            let key = SAME.iter().map(|name| text(name).unwrap_or_default()).collect();
            alike.entry(key).or_default().push(policy);
        }
        let mut items: Vec<(u64, FrequencyPolicy)> = alike
            .values()
            .filter_map(|policies| {
                let first = policies.first()?;
                let cpus: BTreeSet<u64> =
                    policies.iter().flat_map(|policy| policy.cpus.iter().copied()).collect();
                let cpus: Vec<u64> = cpus.into_iter().collect();
                let evidence = Evidence::new(
                    format!("{ROOT}/cpufreq/policy*/related_cpus").into(),
                    saying!(
                        "cpus-policies-alike-all",
                        "the CPUs of the policies that are alike in all of this",
                    ),
                )
                .raw(&tectum_report::leaf::ranges(&cpus));
                let part = FrequencyPolicy {
                    driver: first.text("scaling_driver"),
                    governor: first.text("scaling_governor"),
                    min_mhz: first.mhz(MINIMUM).map(Megahertz),
                    max_mhz: first.mhz(MAXIMUM).map(Megahertz),
                    scaling_min_mhz: first.mhz(LOWEST).map(Megahertz),
                    scaling_max_mhz: first.mhz(HIGHEST).map(Megahertz),
                    energy_preference: first.text("energy_performance_preference"),
                    cpus: match unseen {
                        None => Fact::known(cpus.clone(), evidence),
                        Some(gap) => Fact::gap(gap.clone()),
                    },
                };
                Some((cpus.first().copied()?, part))
            })
            .collect();
        items.sort_by_key(|(first, _)| *first);
        let folder = format!("{ROOT}/cpufreq");
        let rule =
            saying!("every-policy-those-alike-together", "every policy, those alike together");
        Parts::known(
            items.into_iter().map(|(_, part)| part).collect(),
            listing_evidence(&folder, rule),
        )
        .in_part(unseen.cloned())
    }
}

/// Whether frequencies above the one a processor is sold by are allowed: the general switch, or
/// that of the driver for Intel processors, which says the opposite.
pub(super) fn boost(lease: &Lease) -> Fact<bool> {
    File::read(lease, format!("{ROOT}/cpufreq/boost"))
        .fact(sayings::ONE_IS_YES, number::flag)
        .or_known(|| {
            File::read(lease, format!("{ROOT}/intel_pstate/no_turbo"))
                .fact(saying!("1-turned-off", "1 says that it is turned off"), |text| {
                    number::flag(text).map(|off| !off)
                })
        })
}

pub(super) fn readings(
    lease: &Lease,
    policies: &Policies,
    info: &Info<'_>,
    online: &[u64],
) -> CpuReadings {
    let clocks = clocks(policies, info);
    const LISTED: Saying = saying!(
        "processor-clock-proc-cpuinfo-gives-no",
        "the processor's clock as /proc/cpuinfo gives it: no frequency scaling is exposed",
    );
    let listed = |pick: fn(u64, u64) -> u64| {
        let best = info.entries.each(&["cpu MHz", "CPU MHz", "clock", "cpu MHz dynamic"]).reduce(
            |best, next| match (number::whole_part(best.value), number::whole_part(next.value)) {
                (Some(a), Some(b)) if pick(a, b) != a => next,
                _ => best,
            },
        );
        info.file.entry_fact(best, "cpu MHz", LISTED, |text| {
            number::whole_part(text.trim_end_matches("MHz"))
        })
    };
    let none = || info.file.hidden().cloned().unwrap_or_else(|| policies.gap());
    let (cpus, clocked): (Vec<u64>, Vec<u64>) = clocks.iter().copied().unzip();
    let current = policies.each().iter().filter_map(|policy| policy.files.get(CURRENT));
    let unseen = current.into_iter().find_map(File::hidden).cloned();
    let evidence = || {
        let (source, rule) = match policies.each().is_empty() {
            true => (Arc::clone(info.file.path()), LISTED),
            false => (format!("{ROOT}/cpufreq/policy*/{CURRENT}").into(), sayings::KHZ_WHOLE_MHZ),
        };
        let text = Series(clocked.clone());
        Evidence::new(source, rule).raw(&tectum_report::leaf::Leaf::to_text(&text))
    };
    CpuReadings {
        slowest_mhz: policies.limit(CURRENT, u64::min).or_from(|| listed(u64::min)).map(Megahertz),
        fastest_mhz: policies.limit(CURRENT, u64::max).or_from(|| listed(u64::max)).map(Megahertz),
        current_mhz: match clocks.is_empty() {
            true => Fact::gap(none()),
            false => {
                let clocked = Series(clocked.iter().copied().map(Megahertz).collect());
                Fact::known(clocked, evidence()).in_part(unseen.clone())
            }
        },
        clocked_cpus: match clocks.is_empty() {
            true => Fact::gap(none()),
            false => Fact::known(cpus, evidence()).in_part(unseen),
        },
        bogomips: info.text(
            &["bogomips", "BogoMIPS", "bogomips per cpu"],
            saying!(
                "first-cpu-kernel-found-boot",
                "the first CPU's, as the kernel found it at boot",
            ),
        ),
        core_throttles: throttles(lease, online, "core_throttle_count"),
        package_throttles: throttles(lease, online, "package_throttle_count"),
    }
}

/// Each CPU's current frequency, by its policy or as `/proc/cpuinfo` has it.
fn clocks(policies: &Policies, info: &Info<'_>) -> Vec<(u64, u64)> {
    let mut clocks: Vec<(u64, u64)> = policies
        .each()
        .iter()
        .filter_map(|policy| Some((policy, policy.mhz(CURRENT).value().copied()?)))
        .flat_map(|(policy, mhz)| policy.cpus.iter().map(move |cpu| (*cpu, mhz)))
        .collect();
    if clocks.is_empty() {
        let listed = info.entries.cpus.iter().filter_map(|(cpu, block)| {
            let block = info.entries.blocks.get(*block)?;
            let keys = ["cpu MHz", "CPU MHz", "clock"];
            let entry = keys.iter().find_map(|key| colon::find(block, key))?;
            Some((*cpu, number::whole_part(entry.value.trim_end_matches("MHz"))?))
        });
        clocks = listed.collect();
    }
    clocks.sort_unstable();
    clocks
}

/// `Documentation/ABI/testing/sysfs-devices-system-cpu`, thermal_throttle.
fn throttles(lease: &Lease, online: &[u64], name: &str) -> Fact<u64> {
    let mut sum = 0u64;
    let mut counted = 0u64;
    let mut gap = None;
    for cpu in online {
        let file = File::read(lease, format!("{ROOT}/cpu{cpu}/thermal_throttle/{name}"));
        match number::decimal(&file.text()) {
            Some(count) => {
                sum = sum.saturating_add(count);
                counted += 1;
            }
            None => {
                gap = Some(file.lacks("a count"));
                // A machine whose first CPU has no counter has none.
                if counted == 0 {
                    break;
                }
            }
        }
    }
    if counted == 0 {
        return Fact::gap(gap.unwrap_or_else(|| {
            Gap::new(Why::NotProvided).tried(ROOT.into(), sayings::NO_CPU_KNOWN_ONLINE)
        }));
    }
    let source = format!("{ROOT}/cpu*/thermal_throttle/{name}").into();
    let evidence =
        Evidence::new(source, saying!("sum-over-online-cpus", "the sum over the online CPUs"));
    Fact::known(sum, evidence.raw(&format!("{sum} over {counted} CPUs")))
}
