//! Packages, dies, clusters and cores, from what CPUs share.

use crate::readers::sayings;
use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    sync::Arc,
};

use super::{Info, ROOT, arm};
use crate::{
    formats::{number, number_list},
    readers::file::{File, list, numbered, watched},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Term,
    model::{CoreKind, CpuPackage},
};

/// What CPUs share, from the kernel's topology of each online CPU.
pub(super) struct Topology {
    /// For each CPU with a topology: its package's number, the list of its package's CPUs, and the
    /// list of its core's CPUs.
    cpus: Vec<Placed>,
    missing: Option<Gap>,
    /// Why a part of it may not have been seen: then nothing can be counted.
    hidden: Option<Gap>,
}

struct Placed {
    number: u64,
    package: Fact<u64>,
    package_cpus: String,
    die_cpus: Option<String>,
    cluster_cpus: Option<String>,
    core_cpus: String,
    source: Arc<str>,
}

#[derive(Clone, Copy)]
pub(super) enum Level {
    Package,
    Die,
    Cluster,
    Core,
}

impl Topology {
    pub(super) fn read(lease: &Lease, online: &[u64]) -> Self {
        let (all, hidden) = watched(lease, |lease| Self::of_each(lease, online));
        Self { hidden, ..all }
    }

    fn of_each(lease: &Lease, online: &[u64]) -> Self {
        let mut cpus = Vec::with_capacity(online.len());
        let mut missing = None;
        for cpu in online {
            let folder = format!("{ROOT}/cpu{cpu}/topology");
            // The second name of each is the one before Linux 5.3.
            let shared = |names: [&str; 2]| {
                let [new, old] = names.map(|name| format!("{folder}/{name}"));
                let file = File::read(lease, new);
                if file.bytes().is_ok() { file } else { File::read(lease, old) }
            };
            let core = shared(["core_cpus_list", "thread_siblings_list"]);
            let package = shared(["package_cpus_list", "core_siblings_list"]);
            match (core.bytes(), package.bytes()) {
                (Ok(_), Ok(_)) => cpus.push(Placed {
                    number: *cpu,
                    die_cpus: known_list(lease, &folder, "die"),
                    cluster_cpus: known_list(lease, &folder, "cluster"),
                    package: File::read(lease, format!("{folder}/physical_package_id"))
                        .fact(saying!("package-number", "the package's number"), number::decimal),
                    package_cpus: package.text().trim().to_owned(),
                    core_cpus: core.text().trim().to_owned(),
                    source: folder.into(),
                }),
                (Err(gap), _) | (_, Err(gap)) => missing = missing.or_else(|| Some(gap.clone())),
            }
        }
        Self { cpus, missing, hidden: None }
    }

    /// How many distinct packages or cores the CPUs lie in.
    pub(super) fn count(&self, level: Level) -> Fact<u64> {
        if let Some(gap) = self.gap() {
            return Fact::gap(gap);
        }
        let (file, pick): (_, fn(&Placed) -> Option<&str>) = match level {
            Level::Package => ("package_cpus_list", |cpu| Some(&cpu.package_cpus)),
            Level::Die => ("die_cpus_list", |cpu| cpu.die_cpus.as_deref()),
            Level::Cluster => ("cluster_cpus_list", |cpu| cpu.cluster_cpus.as_deref()),
            Level::Core => ("core_cpus_list", |cpu| Some(&cpu.core_cpus)),
        };
        let groups: BTreeSet<&str> = self.cpus.iter().filter_map(pick).collect();
        if groups.is_empty() {
            return Fact::gap(
                Gap::new(Why::NotProvided)
                    .tried(
                        format!("{ROOT}/cpu*/topology/{file}").into(),
                        saying!("gives-no-cpu-group", "gives no CPU a group"),
                    )
                    .hint(saying!(
                        "processor-architecture-no-such-level",
                        "this processor or architecture has no such level, or the kernel is old",
                    )),
            );
        }
        let raw = groups.iter().copied().collect::<Vec<_>>().join(" | ");
        let rule = saying!(
            "counted-distinct-groups-cpus-file",
            "counted: the distinct groups of CPUs in this file of every online CPU",
        );
        let source = format!("{ROOT}/cpu*/topology/{file}").into();
        Fact::known(groups.len() as u64, Evidence::new(source, rule).raw(&raw))
    }

    fn gap(&self) -> Option<Gap> {
        if let Some(gap) = &self.hidden {
            return Some(gap.clone());
        }
        if !self.cpus.is_empty() {
            return None;
        }
        Some(self.missing.clone().unwrap_or_else(|| {
            Gap::new(Why::NotProvided).tried(ROOT.into(), sayings::NO_CPU_KNOWN_ONLINE)
        }))
    }

    pub(super) fn packages(&self, lease: &Lease) -> Parts<CpuPackage> {
        if let Some(gap) = self.gap() {
            return Parts::missing(gap);
        }
        let mut packages: BTreeMap<(Option<u64>, &str), Vec<&Placed>> = BTreeMap::new();
        for cpu in &self.cpus {
            let key = (cpu.package.value().copied(), cpu.package_cpus.as_str());
            packages.entry(key).or_default().push(cpu);
        }
        let nodes = nodes(lease);
        let index = index_of(&nodes);
        let items = packages
            .values()
            .filter_map(|cpus| {
                let first = cpus.first()?;
                let cores: BTreeSet<&str> = cpus.iter().map(|cpu| cpu.core_cpus.as_str()).collect();
                let evidence = |rule: Saying, raw: &str| {
                    Evidence::new(Arc::clone(&first.source), rule).place("topology").raw(raw)
                };
                let listed = cores.iter().copied().collect::<Vec<_>>().join(" | ");
                let numbers: Vec<u64> = cpus.iter().map(|cpu| cpu.number).collect();
                let dies: BTreeSet<&str> =
                    cpus.iter().filter_map(|cpu| cpu.die_cpus.as_deref()).collect();
                Some(CpuPackage {
                    dies: match dies.len() {
                        0 => Fact::gap(Gap::new(Why::NotProvided).tried(
                            Arc::clone(&first.source),
                            saying!("gives-no-die", "gives no die"),
                        )),
                        count => {
                            let listed = dies.iter().copied().collect::<Vec<_>>().join(" | ");
                            let rule = saying!(
                                "distinct-die-cpus-list-online",
                                "the distinct die_cpus_list of its online CPUs",
                            );
                            Fact::known(count as u64, evidence(rule, &listed))
                        }
                    },
                    core_cpus: Fact::known(
                        by_first_cpu(cores.iter().copied()),
                        evidence(sayings::DISTINCT_CORE_CPUS_LIST_ONLINE, &listed),
                    ),
                    numa_nodes: numa_nodes(&nodes, &index, &numbers),
                    cpus: Fact::known(
                        numbers,
                        evidence(sayings::ONLINE_CPUS_PACKAGE_CPUS_LIST, &first.package_cpus),
                    ),
                    number: first.package.clone(),
                    cores: Fact::known(
                        cores.len() as u64,
                        evidence(sayings::DISTINCT_CORE_CPUS_LIST_ONLINE, &listed),
                    ),
                    threads: Fact::known(
                        cpus.len() as u64,
                        evidence(sayings::ONLINE_CPUS_PACKAGE_CPUS_LIST, &first.package_cpus),
                    ),
                })
            })
            .collect();
        let rule = saying!(
            "one-each-distinct-package-online",
            "one for each distinct package of the online CPUs",
        );
        let source = format!("{ROOT}/cpu*/topology/package_cpus_list").into();
        Parts::known(items, Evidence::new(source, rule))
    }
}

/// The CPUs of a die or cluster, where the kernel gives it a number: 65535 and -1 are none.
fn known_list(lease: &Lease, folder: &str, level: &str) -> Option<String> {
    let id = File::read(lease, format!("{folder}/{level}_id"));
    if matches!(id.text().trim(), "" | "65535" | "-1") {
        return None;
    }
    let file = File::read(lease, format!("{folder}/{level}_cpus_list"));
    Some(file.text().trim().to_owned()).filter(|list| !list.is_empty())
}

/// A NUMA node's number, its list as it was read, and the CPUs in it.
type Node = (u64, File, Vec<u64>);

/// The CPUs of each NUMA node, from the lowest number up.
fn nodes(lease: &Lease) -> Result<Vec<Node>, Gap> {
    const NODES: &str = "/sys/devices/system/node";
    let names = list(lease, NODES)?;
    let mut left = number_list::MOST;
    let (nodes, hidden) = watched(lease, |lease| {
        let nodes = numbered(&names, "node").into_iter().filter_map(|number| {
            let file = File::read(lease, format!("{NODES}/node{number}/cpulist"));
            let cpus = number_list::parse_within(&file.text(), &mut left)?;
            Some((number, file, cpus))
        });
        nodes.collect()
    });
    hidden.map_or(Ok(nodes), Err)
}

/// Where each CPU stands in the nodes' lists.
fn index_of(nodes: &Result<Vec<Node>, Gap>) -> HashMap<u64, Vec<usize>> {
    let mut index: HashMap<u64, Vec<usize>> = HashMap::new();
    for (at, (_, _, cpus)) in nodes.iter().flatten().enumerate() {
        for cpu in cpus {
            index.entry(*cpu).or_default().push(at);
        }
    }
    index
}

fn numa_nodes(
    nodes: &Result<Vec<Node>, Gap>,
    index: &HashMap<u64, Vec<usize>>,
    cpus: &[u64],
) -> Fact<Vec<u64>> {
    let nodes = match nodes {
        Ok(nodes) => nodes,
        Err(gap) => return Fact::gap(gap.clone()),
    };
    let near: BTreeSet<usize> =
        cpus.iter().filter_map(|cpu| index.get(cpu)).flatten().copied().collect();
    let near: Vec<&Node> = near.into_iter().filter_map(|at| nodes.get(at)).collect();
    if near.is_empty() {
        return Fact::gap(
            Gap::new(Why::NotProvided)
                .hint(saying!("no-numa-node-lists-cpus", "no NUMA node lists these CPUs")),
        );
    }
    let rule = saying!("nodes-whose-list-holds-one", "the nodes whose list holds one of its CPUs");
    Fact::known_from(
        near.iter().map(|(number, ..)| *number).collect(),
        near.iter().map(|(_, file, _)| file.evidence(rule.clone())).collect(),
    )
}

/// Kinds of core: the kernel's own lists on x86, distinct part numbers on Arm.
pub(super) fn core_kinds(lease: &Lease, info: &Info<'_>) -> Parts<CoreKind> {
    const LISTS: [(&str, &str); 2] = [
        ("performance", "/sys/devices/cpu_core/cpus"),
        ("efficiency", "/sys/devices/cpu_atom/cpus"),
    ];
    let mut kinds: Vec<CoreKind> = Vec::new();
    for (name, path) in LISTS {
        let file = File::read(lease, path);
        if file.bytes().is_ok() {
            kinds.push(CoreKind {
                name: Fact::known(
                    Term::from(name),
                    file.evidence(saying!("kernel-list", "what the kernel's list is of")),
                ),
                cpus: file.fact(sayings::LIST_CPU_NUMBERS, number_list::parse),
            });
        }
    }
    if kinds.is_empty() {
        kinds = arm_kinds(info);
    }
    let source = if kinds.is_empty() { info.file.path().clone() } else { ROOT.into() };
    let rule = saying!(
        "kernel-lists-kinds-core-distinct",
        "the kernel's lists of kinds of core, or distinct part numbers; none where all alike",
    );
    Parts::known(kinds, Evidence::new(source, rule))
}

fn arm_kinds(info: &Info<'_>) -> Vec<CoreKind> {
    let mut parts: BTreeMap<(u64, u64), (Evidence, Vec<u64>)> = BTreeMap::new();
    for (cpu, block) in &info.entries.cpus {
        let Some(block) = info.entries.blocks.get(*block) else { continue };
        let entry = |key: &str| crate::formats::colon::find(block, key);
        let (Some(implementer), Some(part)) = (entry("CPU implementer"), entry("CPU part")) else {
            continue;
        };
        let code = |text: &str| number::hexadecimal(text).unwrap_or(u64::MAX);
        let evidence = || {
            info.file.at_line(
                part.line,
                saying!(
                    "cpus-implementer-part-number",
                    "the CPUs with this implementer and part number",
                ),
            )
        };
        let kind = parts
            .entry((code(implementer.value), code(part.value)))
            .or_insert_with(|| (evidence(), Vec::new()));
        kind.1.push(*cpu);
    }
    if parts.len() < 2 {
        return Vec::new();
    }
    let kinds = parts.into_iter().map(|((implementer, part), (evidence, cpus))| CoreKind {
        name: Fact::known(
            arm::part(implementer, part)
                .map_or_else(|| Term(format!("part {implementer:#x}:{part:#x}")), Term::from),
            evidence.clone(),
        ),
        cpus: Fact::known(cpus, evidence),
    });
    kinds.collect()
}

/// Lists of CPUs in the order of their first CPU: as text, 10 would stand before 2.
pub(super) fn by_first_cpu<'a>(lists: impl Iterator<Item = &'a str>) -> Vec<Term> {
    let mut lists: Vec<&str> = lists.collect();
    lists.sort_by_key(|list| number_list::parse(list).and_then(|cpus| cpus.first().copied()));
    lists.into_iter().map(Term::from).collect()
}
