//! Processors: what the kernel's topology says, what the processor says of itself, what the
//! firmware says of the sockets.

mod arm;
mod cache;
mod disagreement;
mod feature;
mod frequency;
mod identity;
mod microcode;
mod socket;
mod topology;
mod vulnerability;

use crate::readers::sayings;
use std::{collections::BTreeSet, sync::Arc};

use self::topology::{Level, Topology};
use super::{Found, Section, os};
use crate::readers::{dmi::Tables, file::File};
use crate::{
    formats::{
        cpuinfo::{self, CpuInfo},
        number, number_list,
    },
    source::Lease,
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{Bits, Megahertz, Term},
    model::Cpu,
};

pub(super) const SECTION: Section = Section {
    name: "cpu",
    summary: "processors: sockets, cores, threads, model, features, caches, frequencies",
    reads: &[
        "/proc/cpuinfo",
        "/proc/sys/kernel/arch",
        "/sys/devices/cpu_atom/cpus",
        "/sys/devices/cpu_core/cpus",
        "/sys/devices/system/cpu/**",
        "/sys/devices/system/node",
        "/sys/devices/system/node/node*/cpulist",
        "/sys/firmware/dmi/entries",
        "/sys/firmware/dmi/entries/*/position",
        "/sys/firmware/dmi/entries/*/raw",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
        "/sys/kernel/address_bits",
        "/sys/kernel/cpu_byteorder",
    ],
    survey,
};

/// `Documentation/ABI/testing/sysfs-devices-system-cpu`.
const ROOT: &str = "/sys/devices/system/cpu";

/// `/proc/cpuinfo`, taken apart.
struct Info<'a> {
    file: &'a File,
    entries: CpuInfo<'a>,
}

impl Info<'_> {
    /// The fact that the first line with one of some keys gives.
    fn fact<T>(
        &self,
        keys: &[&str],
        rule: Saying,
        parse: impl FnOnce(&str) -> Option<T>,
    ) -> Fact<T> {
        let name = keys.first().copied().unwrap_or_default();
        self.file.entry_fact(self.entries.first(keys), name, rule, parse)
    }

    fn text<T: From<String>>(&self, keys: &[&str], rule: Saying) -> Fact<T> {
        self.fact(keys, rule, |value| Some(T::from(value.to_owned())))
    }

    /// Likewise, for what only some architectures say.
    fn where_said<T: From<String>>(&self, keys: &[&str], rule: Saying) -> Fact<T> {
        if self.file.bytes().is_ok() && self.entries.first(keys).is_none() {
            let name = keys.first().copied().unwrap_or_default();
            return Fact::gap(
                Gap::new(Why::NotApplicable).tried(
                    Arc::clone(self.file.path()),
                    saying!(
                        "no-line-only-some-architectures",
                        "has no line {}: only some architectures write it",
                    )
                    .with(name.to_string()),
                ),
            );
        }
        self.text(keys, rule)
    }

    fn count(&self, keys: &[&str]) -> Fact<u64> {
        self.fact(keys, sayings::DECIMAL_NUMBER, number::decimal)
    }
}

fn survey(lease: &Lease) -> Found {
    let file = File::read(lease, "/proc/cpuinfo");
    let text = file.text();
    let info = Info { file: &file, entries: cpuinfo::parse(&text) };
    let present = list(lease, "present");
    let online = online(lease, &info);
    let cpus: &[u64] = &online.value().cloned().unwrap_or_default();
    let topology = Topology::read(lease, cpus);
    let tables = Tables::read(lease);
    let architecture = os::architecture(lease);
    let policies = frequency::Policies::read(lease);
    let features = feature::features(&info);
    let sockets = socket::sockets(&tables);
    let implementer = info.fact(
        &["CPU implementer"],
        saying!(
            "implementer-name-arm-list-midr",
            "the implementer's name in Arm's list of MIDR codes",
        ),
        |code| arm::implementer(number::hexadecimal(code)?).map(Term::from),
    );
    const ITSELF: Saying =
        saying!("processor-kernel-names", "as the processor or the kernel names it");
    let mut cpu = Cpu {
        runs_on: identity::runs_on(&architecture, &info),
        vendor: info.text(&["vendor_id"], ITSELF).or_from(|| implementer),
        model_name: info
            .text(&["model name", "Model Name", "cpu model", "uarch", "cpu"], ITSELF)
            .or_known(|| identity::arm_model(&info)),
        family: info.count(&["cpu family"]),
        model: info.count(&["model"]),
        stepping: info.count(&["stepping"]).or_from(|| info.count(&["CPU revision"])),
        variant: info.where_said(&["CPU variant"], ITSELF),
        revision: info.where_said(&["CPU revision", "CPU Revision", "revision", "mimpid"], ITSELF),
        implementer_id: info.where_said(&["CPU implementer", "mvendorid"], ITSELF),
        part_id: info.where_said(&["CPU part", "marchid"], ITSELF),
        instruction_set: info.where_said(&["isa", "ISA", "CPU architecture"], ITSELF),
        memory_management: info.where_said(&["mmu", "MMU"], ITSELF),
        microcode: microcode::microcode(lease),
        all_alike: identity::all_alike(&info),
        byte_order: identity::byte_order(lease, &architecture),
        operating_widths_bits: identity::operating_widths_bits(lease, &architecture, &info)
            .map(|all| all.into_iter().map(Bits).collect()),
        physical_address_bits: identity::address_bits(&info, "physical").map(Bits),
        virtual_address_bits: identity::address_bits(&info, "virtual").map(Bits),
        virtualization: feature::virtualization(&info, &features),
        features,
        defects: info.fact(&["bugs"], sayings::ITS_WORDS, |text| {
            Some(text.split_whitespace().map(Term::from).collect())
        }),
        vulnerabilities: vulnerability::vulnerabilities(lease),
        board: info.where_said(&["Hardware", "machine"], sayings::BOARD_LINE),
        system_type: info.where_said(&["system type"], sayings::BOARD_LINE),
        board_revision: info.where_said(&["Revision"], sayings::BOARD_LINE),
        board_serial: identity::board_serial(&info),
        packages: topology.count(Level::Package),
        dies: topology.count(Level::Die),
        clusters: topology.count(Level::Cluster),
        cores: topology.count(Level::Core),
        threads: present
            .clone()
            .map(|cpus| cpus.len() as u64)
            .or_known(|| online.clone().map(|cpus| cpus.len() as u64)),
        offline: offline(&present, &online),
        possible: list(lease, "possible"),
        isolated: list(lease, "isolated"),
        smt_active: File::read(lease, format!("{ROOT}/smt/active"))
            .fact(sayings::ONE_IS_YES, number::flag),
        smt_control: File::read(lease, format!("{ROOT}/smt/control")).text_fact(),
        core_kinds: topology::core_kinds(lease, &info),
        disagreements: Default::default(),
        base_frequency_mhz: policies.base().or_known(|| identity::sold_by(&info)).map(Megahertz),
        min_frequency_mhz: policies.limit(frequency::MINIMUM, u64::min).map(Megahertz),
        max_frequency_mhz: policies.limit(frequency::MAXIMUM, u64::max).map(Megahertz),
        boost: frequency::boost(lease),
        frequency_policies: policies.parts(),
        per_package: topology.packages(lease),
        caches: cache::caches(lease, cpus),
        sockets,
        architecture,
        online,
    };
    cpu.disagreements = disagreement::disagreements(&cpu, &info);
    let readings = frequency::readings(lease, &policies, &info, cpus);
    Box::new(|observed| {
        observed.inventory.cpu = Some(cpu);
        observed.readings.cpu = Some(readings);
    })
}

/// A list of CPU numbers. A kernel that keeps no such list writes an empty line, or `(null)`.
fn list(lease: &Lease, name: &str) -> Fact<Vec<u64>> {
    let file = File::read(lease, format!("{ROOT}/{name}"));
    match file.bytes() {
        Ok(_) if matches!(file.text().trim(), "" | "(null)") => {
            Fact::known(Vec::new(), file.evidence(saying!("no-number-none", "no number: none")))
        }
        _ => file.fact(sayings::LIST_CPU_NUMBERS, number_list::parse),
    }
}

/// The CPUs that are online: the kernel's list, or those that `/proc/cpuinfo` tells of.
fn online(lease: &Lease, info: &Info<'_>) -> Fact<Vec<u64>> {
    list(lease, "online").or_known(|| {
        let numbers: Vec<u64> = info.entries.cpus.iter().map(|(number, _)| *number).collect();
        if numbers.is_empty() {
            return Fact::gap(info.file.lacks("processor"));
        }
        let raw = format!("processor: {}", tectum_report::leaf::ranges(&numbers));
        let rule = saying!("numbers-processor-lines", "the numbers of its `processor` lines");
        Fact::known(numbers, Evidence::new(Arc::clone(info.file.path()), rule).raw(&raw))
    })
}

fn offline(present: &Fact<Vec<u64>>, online: &Fact<Vec<u64>>) -> Fact<Vec<u64>> {
    let Some(running) = online.value() else {
        return online.clone();
    };
    match present.value() {
        None => present.clone(),
        Some(all) => {
            let running: BTreeSet<u64> = running.iter().copied().collect();
            let rest = all.iter().copied().filter(|cpu| !running.contains(cpu)).collect();
            let evidence = [present, online]
                .into_iter()
                .flat_map(|fact| fact.evidence().iter().take(1).cloned())
                .map(|piece| Evidence {
                    rule: saying!("present-cpus-not-online", "present CPUs that are not online",),
                    ..piece
                })
                .collect();
            Fact::known_from(rest, evidence)
        }
    }
}
