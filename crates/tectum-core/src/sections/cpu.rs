//! Processors: what the kernel's topology says, what the processor says of itself, what the
//! firmware says of the sockets.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use tectum_smbios::types::ProcessorInformation;

use super::{Found, Section, arm, dmi::Tables, file::File, os};
use crate::{
    formats::{colon, number, number_list},
    report::{
        fact::{Evidence, Fact, Gap, Why},
        kinds::Text,
        model::{Cpu, CpuCache, CpuPackage, CpuReadings, CpuSocket, RunsOn, SocketState},
        record::Parts,
    },
    source::Lease,
};

pub(super) const SECTION: Section = Section {
    name: "cpu",
    summary: "processors: sockets, cores, threads, model, caches, frequencies",
    reads: &[
        "/proc/cpuinfo",
        "/proc/sys/kernel/arch",
        "/sys/devices/system/cpu/**",
        "/sys/firmware/dmi/entries",
        "/sys/firmware/dmi/entries/*/position",
        "/sys/firmware/dmi/entries/*/raw",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
    ],
    survey,
};

/// `Documentation/ABI/testing/sysfs-devices-system-cpu`.
const ROOT: &str = "/sys/devices/system/cpu";

fn survey(lease: &Lease) -> Found {
    let info = File::read_up_to(lease, "/proc/cpuinfo", 16 << 20);
    let text = info.text();
    let blocks = colon::blocks(&text);
    let present = list(lease, "present");
    let online = online(lease, &info, &blocks);
    let cpus: &[u64] = online.value().map_or(&[], Vec::as_slice);
    let topology = Topology::read(lease, cpus);
    let tables = Tables::read(lease);
    let entry = |key: &str, rule: &'static str| {
        info.entry_fact(colon::find_first(&blocks, key), key, rule, |value| {
            Some(Text(value.to_owned()))
        })
    };
    let count = |key: &str| {
        info.entry_fact(colon::find_first(&blocks, key), key, "a decimal number", number::decimal)
    };
    let architecture = os::architecture(lease);
    let implementer = info.entry_fact(
        colon::find_first(&blocks, "CPU implementer"),
        "CPU implementer",
        "the implementer's name in Arm's list of MIDR codes",
        |code| arm::implementer(number::hexadecimal(code)?).map(Text::from),
    );
    let limits = |name: &'static str, pick: fn(u64, u64) -> u64| frequency_limit(lease, name, pick);
    let cpu = Cpu {
        runs_on: runs_on(&architecture, &info, &blocks),
        architecture,
        vendor: entry("vendor_id", "as the processor names itself").or_from(|| implementer),
        model_name: entry("model name", "as the processor or the kernel names it")
            .or_known(|| arm_model(&info, &blocks)),
        family: count("cpu family"),
        model: count("model"),
        stepping: count("stepping").or_from(|| count("CPU revision")),
        packages: topology.count(Level::Package),
        cores: topology.count(Level::Core),
        threads: present
            .clone()
            .map(|cpus| cpus.len() as u64)
            .or_from(|| online.clone().map(|cpus| cpus.len() as u64)),
        offline: offline(&present, &online),
        minimum_frequency_mhz: limits("cpuinfo_min_freq", u64::min),
        maximum_frequency_mhz: limits("cpuinfo_max_freq", u64::max),
        per_package: topology.packages(),
        caches: caches(lease, cpus),
        sockets: sockets(&tables),
        online,
    };
    let frequencies = frequencies(lease, &info, &blocks);
    Box::new(|findings| {
        findings.inventory.cpu = Some(cpu);
        findings.readings.cpu = Some(frequencies);
    })
}

/// A list of CPU numbers.
fn list(lease: &Lease, name: &str) -> Fact<Vec<u64>> {
    File::read(lease, format!("{ROOT}/{name}")).fact("a list of CPU numbers", number_list::parse)
}

/// The CPUs that are online: the kernel's list, or those that `/proc/cpuinfo` tells of.
fn online(lease: &Lease, info: &File, blocks: &[colon::Block<'_>]) -> Fact<Vec<u64>> {
    list(lease, "online").or_known(|| {
        let numbers: BTreeSet<u64> = blocks
            .iter()
            .filter_map(|block| number::decimal(colon::find(block, "processor")?.value))
            .collect();
        if numbers.is_empty() {
            return Fact::gap(info.lacks("processor"));
        }
        let raw = format!(
            "processor: {}",
            number_list::write(&numbers.iter().copied().collect::<Vec<_>>())
        );
        let rule = "the numbers of its `processor` lines";
        let evidence = Evidence::new(Arc::clone(info.path()), rule).raw(&raw);
        Fact::known(numbers.into_iter().collect(), evidence)
    })
}

fn offline(present: &Fact<Vec<u64>>, online: &Fact<Vec<u64>>) -> Fact<Vec<u64>> {
    let Some(running) = online.value() else {
        return online.clone();
    };
    match present.value() {
        None => present.clone(),
        Some(all) => {
            let rest = all.iter().copied().filter(|cpu| !running.contains(cpu)).collect();
            let evidence = [present, online]
                .into_iter()
                .flat_map(|fact| fact.evidence().iter().take(1).cloned())
                .map(|piece| Evidence { rule: "present CPUs that are not online".into(), ..piece })
                .collect();
            Fact::known_from(rest, evidence)
        }
    }
}

/// What CPUs share, from the kernel's topology of each online CPU.
struct Topology {
    /// For each CPU with a topology: its package's number, the list of its package's CPUs, and the
    /// list of its core's CPUs.
    cpus: Vec<Placed>,
    missing: Option<Gap>,
}

struct Placed {
    package: Fact<u64>,
    package_cpus: String,
    core_cpus: String,
    source: Arc<str>,
}

#[derive(Clone, Copy)]
enum Level {
    Package,
    Core,
}

impl Topology {
    fn read(lease: &Lease, online: &[u64]) -> Self {
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
                    package: File::read(lease, format!("{folder}/physical_package_id"))
                        .fact("the package's number", number::decimal),
                    package_cpus: package.text().trim().to_owned(),
                    core_cpus: core.text().trim().to_owned(),
                    source: folder.into(),
                }),
                (Err(gap), _) | (_, Err(gap)) => missing = missing.or_else(|| Some(gap.clone())),
            }
        }
        Self { cpus, missing }
    }

    /// How many distinct packages or cores the CPUs lie in.
    fn count(&self, level: Level) -> Fact<u64> {
        if let Some(gap) = self.gap() {
            return Fact::gap(gap);
        }
        let (file, groups): (_, BTreeSet<&str>) = match level {
            Level::Package => (
                "package_cpus_list",
                self.cpus.iter().map(|cpu| cpu.package_cpus.as_str()).collect(),
            ),
            Level::Core => {
                ("core_cpus_list", self.cpus.iter().map(|cpu| cpu.core_cpus.as_str()).collect())
            }
        };
        let raw = groups.iter().copied().collect::<Vec<_>>().join(" | ");
        let rule = "counted: the distinct groups of CPUs in this file of every online CPU";
        let source = format!("{ROOT}/cpu*/topology/{file}").into();
        Fact::known(groups.len() as u64, Evidence::new(source, rule).raw(&raw))
    }

    fn gap(&self) -> Option<Gap> {
        if !self.cpus.is_empty() {
            return None;
        }
        Some(self.missing.clone().unwrap_or_else(|| {
            Gap::new(Why::NotProvided).tried(ROOT.into(), "no CPU is known to be online")
        }))
    }

    fn packages(&self) -> Parts<CpuPackage> {
        if let Some(gap) = self.gap() {
            return Parts::missing(gap);
        }
        let mut packages: BTreeMap<(Option<u64>, &str), Vec<&Placed>> = BTreeMap::new();
        for cpu in &self.cpus {
            let key = (cpu.package.value().copied(), cpu.package_cpus.as_str());
            packages.entry(key).or_default().push(cpu);
        }
        let items = packages
            .values()
            .filter_map(|cpus| {
                let first = cpus.first()?;
                let cores: BTreeSet<&str> = cpus.iter().map(|cpu| cpu.core_cpus.as_str()).collect();
                let evidence = |rule: &'static str, raw: &str| {
                    Evidence::new(Arc::clone(&first.source), rule).place("topology").raw(raw)
                };
                let listed = cores.iter().copied().collect::<Vec<_>>().join(" | ");
                Some(CpuPackage {
                    number: first.package.clone(),
                    cores: Fact::known(
                        cores.len() as u64,
                        evidence("the distinct core_cpus_list of its online CPUs", &listed),
                    ),
                    threads: Fact::known(
                        cpus.len() as u64,
                        evidence("the online CPUs in its package_cpus_list", &first.package_cpus),
                    ),
                })
            })
            .collect();
        let rule = "one for each distinct package of the online CPUs";
        let source = format!("{ROOT}/cpu*/topology/package_cpus_list").into();
        Parts::known(items, Evidence::new(source, rule))
    }
}

/// Hypervisors for x86 set a processor flag; other architectures have no such sign here.
fn runs_on(architecture: &Fact<Text>, info: &File, blocks: &[colon::Block<'_>]) -> Fact<RunsOn> {
    let x86 = architecture
        .value()
        .is_some_and(|name| &**name == "x86_64" || (name.starts_with('i') && name.ends_with("86")));
    if !x86 {
        return Fact::gap(
            Gap::new(Why::NotProvided)
                .tried(Arc::clone(info.path()), "has no such sign on this architecture"),
        );
    }
    let rule = "the processor flag `hypervisor`, which hypervisors set for their guests";
    info.entry_fact(colon::find_first(blocks, "flags"), "flags", rule, |flags| {
        Some(if flags.split_whitespace().any(|flag| flag == "hypervisor") {
            RunsOn::Hypervisor
        } else {
            RunsOn::NoSign
        })
    })
    .with_raw(|on| match on {
        RunsOn::Hypervisor => "flags: … hypervisor …",
        RunsOn::NoSign => "flags, without hypervisor",
    })
}

/// The core design of an Arm processor, from its implementer and part numbers.
fn arm_model(info: &File, blocks: &[colon::Block<'_>]) -> Fact<Text> {
    let part = colon::find_first(blocks, "CPU part");
    let implementer = colon::find_first(blocks, "CPU implementer")
        .and_then(|entry| number::hexadecimal(entry.value));
    let rule = "the part's name in the implementer's list of MIDR part numbers";
    info.entry_fact(part, "CPU part", rule, |code| {
        arm::part(implementer?, number::hexadecimal(code)?).map(Text::from)
    })
}

/// The lowest or highest frequency that any policy allows the hardware.
fn frequency_limit(lease: &Lease, name: &'static str, pick: fn(u64, u64) -> u64) -> Fact<u64> {
    let mut found: Option<(u64, File)> = None;
    let folder = format!("{ROOT}/cpufreq");
    let policies = match super::file::list(lease, &folder) {
        Err(gap) => return Fact::gap(no_scaling(gap)),
        Ok(names) => names,
    };
    for policy in policies.iter().filter_map(|name| name.to_str()) {
        if !policy.starts_with("policy") {
            continue;
        }
        let file = File::read(lease, format!("{folder}/{policy}/{name}"));
        let Some(khz) = number::decimal(&file.text()) else { continue };
        let better = match &found {
            None => true,
            Some((best, _)) => pick(khz, *best) != *best,
        };
        if better {
            found = Some((khz, file));
        }
    }
    match found {
        Some((khz, file)) => {
            Fact::known(khz / 1000, file.evidence("kHz, over all policies, in whole MHz"))
        }
        None => Fact::gap(no_scaling(
            Gap::new(Why::NotProvided).tried(folder.into(), "holds no frequency policy"),
        )),
    }
}

fn no_scaling(gap: Gap) -> Gap {
    gap.hint("no driver scales this machine's CPU frequency, as usual under a hypervisor")
}

/// Caches, those of one level, kind and size together.
fn caches(lease: &Lease, cpus: &[u64]) -> Parts<CpuCache> {
    type Key = (u64, String, String);
    let mut instances: BTreeMap<Key, BTreeSet<String>> = BTreeMap::new();
    let mut examples: BTreeMap<Key, String> = BTreeMap::new();
    let mut missing = None;
    for cpu in cpus {
        let folder = format!("{ROOT}/cpu{cpu}/cache");
        let names = match super::file::list(lease, &folder) {
            Ok(names) => names,
            Err(gap) => {
                missing = missing.or(Some(gap));
                continue;
            }
        };
        for index in names.iter().filter_map(|name| name.to_str()) {
            if !index.starts_with("index") {
                continue;
            }
            let text = |name: &str| {
                let file = File::read(lease, format!("{folder}/{index}/{name}"));
                file.text().trim().to_owned()
            };
            let Some(level) = number::decimal(&text("level")) else { continue };
            let key = (level, text("type"), text("size"));
            instances.entry(key.clone()).or_default().insert(text("shared_cpu_list"));
            examples.entry(key).or_insert_with(|| format!("{folder}/{index}"));
        }
    }
    if instances.is_empty() {
        let gap = missing.unwrap_or_else(|| {
            Gap::new(Why::NotProvided)
                .tried(format!("{ROOT}/cpu*/cache").into(), "describes no cache")
        });
        return Parts::missing(gap);
    }
    let items = instances
        .iter()
        .filter_map(|(key, shared)| {
            let folder = examples.get(key)?;
            let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
            let groups = shared.iter().map(String::as_str).collect::<Vec<_>>().join(" | ");
            let rule = "counted: the distinct shared_cpu_list of such caches";
            Some(CpuCache {
                level: file("level").fact("a decimal number", number::decimal),
                kind: file("type").text_fact(),
                size_bytes: file("size").fact("K is 1024 bytes", number::size_with_unit),
                ways: file("ways_of_associativity")
                    .fact("a decimal number", number::decimal)
                    .and_then(|ways| match ways {
                        0 => Err(Gap::new(Why::Blank).hint("0 says that it is not known")),
                        known => Ok(known),
                    }),
                line_bytes: file("coherency_line_size").fact("bytes", number::decimal),
                instances: Fact::known(
                    shared.len() as u64,
                    Evidence::new(format!("{ROOT}/cpu*/cache/index*/shared_cpu_list").into(), rule)
                        .raw(&groups),
                ),
            })
        })
        .collect();
    let rule = "those of one level, kind and size together";
    Parts::known(items, Evidence::new(format!("{ROOT}/cpu*/cache").into(), rule))
}

fn sockets(tables: &Tables) -> Parts<CpuSocket> {
    tables.parts(
        ProcessorInformation::TYPE,
        ProcessorInformation::from_structure,
        |socket: &ProcessorInformation<'_>| {
            let mhz = |mhz: u16| (mhz != 0).then_some(u64::from(mhz));
            let count = |count: u16| Some(u64::from(count));
            Some(CpuSocket {
                designation: tables.text(socket.socket_designation()),
                state: tables.fact(
                    socket.status(),
                    "bit 6 says that the socket is populated, bits 2:0 the state",
                    |status| {
                        Some(match (status.is_populated(), status.0 & 0x07) {
                            (false, _) => SocketState::Empty,
                            (true, 1) => SocketState::Enabled,
                            (true, 2..=4) => SocketState::Disabled,
                            (true, _) => SocketState::Populated,
                        })
                    },
                ),
                manufacturer: tables.text(socket.manufacturer()),
                version: tables.text(socket.version()),
                serial: tables.text(socket.serial_number()),
                asset_tag: tables.text(socket.asset_tag()),
                part_number: tables.text(socket.part_number()),
                cores: tables.fact(socket.core_count(), "cores in this socket", count),
                threads: tables.fact(socket.thread_count(), "threads in this socket", count),
                maximum_speed_mhz: tables.fact(
                    socket.maximum_speed_mhz(),
                    "MHz that the socket supports",
                    mhz,
                ),
                boot_speed_mhz: tables.fact(socket.current_speed_mhz(), "MHz at boot", mhz),
            })
        },
    )
}

/// Current frequencies: each policy's, or what `/proc/cpuinfo` says of each CPU.
fn frequencies(lease: &Lease, info: &File, blocks: &[colon::Block<'_>]) -> CpuReadings {
    let scaled = |pick: fn(u64, u64) -> u64| frequency_limit(lease, "scaling_cur_freq", pick);
    let listed = |pick: fn(&colon::Entry<'_>, &colon::Entry<'_>) -> bool| {
        let entry = blocks
            .iter()
            .filter_map(|block| colon::find(block, "cpu MHz"))
            .reduce(|best, next| if pick(next, best) { next } else { best });
        let rule =
            "the processor's clock as /proc/cpuinfo gives it: no frequency scaling is exposed";
        info.entry_fact(entry, "cpu MHz", rule, number::whole_part)
    };
    CpuReadings {
        slowest_mhz: scaled(u64::min).or_from(|| {
            listed(|next, best| number::whole_part(next.value) < number::whole_part(best.value))
        }),
        fastest_mhz: scaled(u64::max).or_from(|| {
            listed(|next, best| number::whole_part(next.value) > number::whole_part(best.value))
        }),
    }
}
