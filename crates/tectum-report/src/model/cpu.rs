use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{AssetTag, Bits, Bytes, Megahertz, Millivolts, Serial, Series, Term, codes},
};

record! {
    /// Processors: what the kernel runs on, and what the firmware says of the sockets.
    Cpu "cpu" {
        source "Documentation/admin-guide/cputopology.rst; /proc/cpuinfo";
        derived [online, cores, packages, dies, clusters];
        follows [microcode] from firmware.version;

        /// Architecture as the kernel names it (`x86_64`, `aarch64`).
        #[source = "uname(2)"]
        architecture: Fact<Term>,
        /// Whether a hypervisor lies beneath.
        runs_on: Fact<RunsOn>,
        /// Maker of the processors.
        #[source = "/proc/cpuinfo"]
        vendor: Fact<Term>,
        /// Model name as the processor gives it.
        #[source = "/proc/cpuinfo"]
        model_name: Fact<Term>,
        /// Family number.
        #[source = "/proc/cpuinfo"]
        family: Fact<u64>,
        /// The maker's number of the model within its family, as the CPUID instruction or the kernel's table has it.
        #[source = "/proc/cpuinfo"]
        model: Fact<u64>,
        /// Stepping or revision number.
        #[source = "/proc/cpuinfo"]
        stepping: Fact<u64>,
        /// Variant, as the processor gives it.
        #[source = "/proc/cpuinfo"]
        variant: Fact<Term>,
        /// Revision, as the processor gives it.
        #[source = "/proc/cpuinfo"]
        revision: Fact<Term>,
        /// Implementer's number (Arm) or vendor's number (RISC-V), as the processor gives it.
        #[source = "/proc/cpuinfo"]
        implementer_id: Fact<Term>,
        /// Part number (Arm), as the processor gives it.
        #[source = "/proc/cpuinfo"]
        part_id: Fact<Term>,
        /// Instruction set, as the kernel names it (RISC-V, LoongArch, MIPS).
        instruction_set: Fact<Term>,
        /// Memory management, as the kernel names it (RISC-V, Power).
        memory_management: Fact<Term>,
        /// Versions of the microcode, each once.
        #[source = "/proc/cpuinfo; Documentation/ABI/testing/sysfs-devices-system-cpu"]
        microcode: Fact<Vec<Term>>,
        /// Whether model name, stepping, microcode and features are the same on all CPUs.
        all_alike: Fact<bool>,
        /// Order of the bytes of a number: little or big endian.
        #[source = "Documentation/ABI/testing/sysfs-kernel-cpu_byteorder"]
        byte_order: Fact<ByteOrder>,
        /// Widths in bits of the programs it runs.
        operating_widths_bits: Fact<Vec<Bits>>,
        /// Width of a physical address in bits.
        #[source = "/proc/cpuinfo"]
        physical_address_bits: Fact<Bits>,
        /// Width of a virtual address in bits.
        #[source = "/proc/cpuinfo"]
        virtual_address_bits: Fact<Bits>,
        /// By what the processor can run virtual machines.
        virtualization: Fact<Term>,
        /// Features, grouped by what they are for.
        #[source = "/proc/cpuinfo"]
        features: Parts<FeatureGroup>,
        /// Defects of the processor that the kernel knows of.
        #[source = "/proc/cpuinfo"]
        defects: Fact<Vec<Term>>,
        /// What is known to be vulnerable, and what is done about it.
        #[source = "Documentation/admin-guide/hw-vuln/index.rst"]
        vulnerabilities: Parts<Vulnerability>,
        /// The board's name, as the kernel's processor file gives it.
        #[source = "/proc/cpuinfo"]
        board: Fact<Term>,
        /// The kind of system that the kernel was built to run on, as MIPS and LoongArch say it.
        system_type: Fact<Term>,
        /// The board's revision, likewise.
        #[source = "/proc/cpuinfo"]
        board_revision: Fact<Term>,
        /// The board's serial number, likewise.
        #[source = "/proc/cpuinfo"]
        board_serial: Fact<Serial>,
        /// Physical packages (sockets in use) that hold online CPUs.
        packages: Fact<u64>,
        /// Dies that hold online CPUs, in all packages together.
        dies: Fact<u64>,
        /// Clusters of cores that share something short of a die's cache.
        clusters: Fact<u64>,
        /// Physical cores of the online CPUs, in all packages together.
        cores: Fact<u64>,
        /// Hardware threads (logical CPUs) that are present.
        threads: Fact<u64>,
        /// Numbers of the CPUs that are online.
        #[source = "Documentation/admin-guide/cputopology.rst"]
        online: Fact<Vec<u64>>,
        /// Numbers of the CPUs that are present and offline.
        #[source = "Documentation/admin-guide/cputopology.rst"]
        offline: Fact<Vec<u64>>,
        /// Numbers of the CPUs that could ever be present.
        #[source = "Documentation/admin-guide/cputopology.rst"]
        possible: Fact<Vec<u64>>,
        /// Numbers of the CPUs that the scheduler leaves alone.
        #[source = "Documentation/admin-guide/kernel-parameters.rst (isolcpus)"]
        isolated: Fact<Vec<u64>>,
        /// Whether cores run more than one thread now.
        #[source = "Documentation/ABI/testing/sysfs-devices-system-cpu"]
        smt_active: Fact<bool>,
        /// Whether that can be changed: on, off, forceoff, notsupported, notimplemented.
        #[source = "Documentation/ABI/testing/sysfs-devices-system-cpu"]
        smt_control: Fact<Term>,
        /// Kinds of core, where there are several.
        core_kinds: Parts<CoreKind>,
        /// Sources that say something else of the number of processors.
        disagreements: Parts<CpuDisagreement>,
        /// Frequency in MHz that the processor is sold by.
        #[source = "Documentation/admin-guide/pm/intel_pstate.rst"]
        base_frequency_mhz: Fact<Megahertz>,
        /// Lowest frequency in MHz.
        #[source = "Documentation/admin-guide/pm/cpufreq.rst"]
        min_frequency_mhz: Fact<Megahertz>,
        /// Highest frequency in MHz.
        #[source = "Documentation/admin-guide/pm/cpufreq.rst"]
        max_frequency_mhz: Fact<Megahertz>,
        /// Whether frequencies above the one it is sold by are allowed.
        #[source = "Documentation/admin-guide/pm/cpufreq.rst"]
        boost: Fact<bool>,
        /// How frequencies are chosen, CPUs alike together.
        frequency_policies: Parts<FrequencyPolicy>,
        /// Each package with its cores and threads.
        per_package: Parts<CpuPackage>,
        /// Caches, those alike together.
        #[source = "Documentation/ABI/testing/sysfs-devices-system-cpu"]
        caches: Parts<CpuCache>,
        /// Sockets as the firmware describes them (SMBIOS type 4).
        #[source = "DSP0134 clause 7.5"]
        sockets: Parts<CpuSocket>,
    }
}

record! {
    /// One physical package.
    CpuPackage "processor package" {
        source "Documentation/admin-guide/cputopology.rst";
        place [number];
        derived [cores, threads, cpus, dies, core_cpus];

        /// The number that the kernel gives it.
        number: Fact<u64>,
        /// Dies with an online thread.
        dies: Fact<u64>,
        /// Physical cores with an online thread.
        cores: Fact<u64>,
        /// Online threads.
        threads: Fact<u64>,
        /// The online CPUs.
        cpus: Fact<Vec<u64>>,
        /// The online CPUs of each core, as lists of numbers.
        core_cpus: Fact<Vec<Term>>,
        /// The NUMA nodes of its CPUs.
        numa_nodes: Fact<Vec<u64>>,
    }
}

record! {
    /// Caches of one level, kind and size.
    CpuCache "cache" {
        source "Documentation/ABI/testing/sysfs-devices-system-cpu";
        place [level, kind, size_bytes];
        derived [total_bytes, shared_by, instances];

        /// Level, from 1.
        level: Fact<u64>,
        /// What it holds: Data, Instruction or Unified.
        kind: Fact<Term>,
        /// Size of one instance in bytes.
        size_bytes: Fact<Bytes>,
        /// Ways of associativity.
        ways: Fact<u64>,
        /// Line size in bytes.
        line_bytes: Fact<Bytes>,
        /// How many such caches there are.
        instances: Fact<u64>,
        /// Size of all of them in bytes.
        total_bytes: Fact<Bytes>,
        /// The CPUs that share each, as lists of numbers.
        shared_by: Fact<Vec<Term>>,
    }
}

record! {
    /// One processor socket (SMBIOS type 4, DSP0134 clause 7.5).
    CpuSocket "processor socket" {
        source "DSP0134 clause 7.5";
        identity unique [part_number, serial];
        place [designation];

        /// The socket's label.
        designation: Fact<Term>,
        /// Whether a processor sits in it.
        state: Fact<SocketState>,
        /// The processor's maker.
        manufacturer: Fact<Term>,
        /// The processor's version, in practice its model name.
        version: Fact<Term>,
        /// The processor's serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The processor's part number.
        part_number: Fact<Term>,
        /// The processor's family, in the standard's words.
        family: Fact<Term>,
        /// What kind of socket it is, in the standard's words.
        socket_kind: Fact<Term>,
        /// What the processor can do, in the standard's words.
        characteristics: Fact<Vec<Term>>,
        /// Voltage in millivolts.
        voltage_mv: Fact<Millivolts>,
        /// External clock in MHz.
        external_clock_mhz: Fact<Megahertz>,
        /// Cores that are enabled.
        enabled_cores: Fact<u64>,
        /// Cores that the firmware counts.
        cores: Fact<u64>,
        /// Threads that are enabled.
        enabled_threads: Fact<u64>,
        /// Threads that the firmware counts.
        threads: Fact<u64>,
        /// Highest speed the socket supports, in MHz.
        max_speed_mhz: Fact<Megahertz>,
        /// Speed at boot, in MHz.
        boot_speed_mhz: Fact<Megahertz>,
    }
}

record! {
    /// Features of a processor that belong together.
    FeatureGroup "features" {
        source "/proc/cpuinfo";
        place [group];
        follows [flags] from os.kernel_release;

        /// What they are for.
        group: Fact<Term>,
        /// The features as the kernel names them, in order.
        flags: Fact<Vec<Term>>,
    }
}

record! {
    /// A vulnerability (`Documentation/ABI/testing/sysfs-devices-system-cpu`, vulnerabilities).
    Vulnerability "vulnerability" {
        source "Documentation/ABI/testing/sysfs-devices-system-cpu";
        place [name];
        follows [state, affected] from os.kernel_release;

        /// The kernel's name for it.
        name: Fact<Term>,
        /// Whether the processor is affected.
        affected: Fact<bool>,
        /// What the kernel says of it.
        state: Fact<Term>,
    }
}

record! {
    /// A kind of core on a machine with several.
    CoreKind "kind of core" {
        source "Documentation/ABI/testing/sysfs-devices-system-cpu";
        place [name];
        derived [cpus];

        /// What the kernel calls it.
        name: Fact<Term>,
        /// Its online CPUs.
        cpus: Fact<Vec<u64>>,
    }
}

record! {
    /// Two sources that count differently.
    CpuDisagreement "disagreement" {
        source "Documentation/admin-guide/cputopology.rst; DSP0134 clause 7.5; /proc/cpuinfo";
        place [what, source];

        /// What is counted.
        what: Fact<Term>,
        /// What the kernel's topology says.
        topology: Fact<u64>,
        /// Who says something else.
        source: Fact<Term>,
        /// What this source says of it, in its own words.
        says: Fact<u64>,
    }
}

record! {
    /// How the frequency of some CPUs is chosen (`Documentation/admin-guide/pm/cpufreq`).
    FrequencyPolicy "frequency policy" {
        source "Documentation/admin-guide/pm/cpufreq.rst";
        place [driver, governor, min_mhz, max_mhz];
        derived [cpus];

        /// Numbers of the CPUs whose frequency is set together.
        cpus: Fact<Vec<u64>>,
        /// The scaling driver that sets the frequency.
        driver: Fact<Term>,
        /// The governor, which decides on the frequency.
        governor: Fact<Term>,
        /// Lowest frequency that the hardware can, in MHz.
        min_mhz: Fact<Megahertz>,
        /// Highest frequency that the hardware can, in MHz.
        max_mhz: Fact<Megahertz>,
        /// Lowest frequency that is allowed, in MHz.
        scaling_min_mhz: Fact<Megahertz>,
        /// Highest frequency that is allowed, in MHz.
        scaling_max_mhz: Fact<Megahertz>,
        /// What the processor is told to prefer, speed or thrift.
        energy_preference: Fact<Term>,
    }
}

record! {
    /// Processors' readings.
    CpuReadings "cpu" {
        source "/proc/cpuinfo; Documentation/admin-guide/pm/cpufreq.rst";
        counts [core_throttles, package_throttles];

        /// The slowest CPU's current frequency in MHz.
        slowest_mhz: Fact<Megahertz>,
        /// The fastest CPU's current frequency in MHz.
        fastest_mhz: Fact<Megahertz>,
        /// Each CPU's current frequency in MHz, in the order of `clocked_cpus`.
        current_mhz: Fact<Series<Megahertz>>,
        /// The CPUs whose frequency is known.
        clocked_cpus: Fact<Vec<u64>>,
        /// Turns of an empty loop in a millionth of a second, by which the kernel waits for short
        /// times. It is no measure of what a processor achieves.
        bogomips: Fact<Term>,
        /// How often cores were slowed down because they were too hot, all cores together.
        core_throttles: Fact<u64>,
        /// How often packages were, all CPUs together.
        package_throttles: Fact<u64>,
    }
}

codes! {
    /// Order of the bytes of a number.
    ByteOrder {
        /// The lowest byte first.
        Little = "little-endian",
        /// The highest byte first.
        Big = "big-endian",
    }
}

codes! {
    /// What lies beneath the kernel.
    RunsOn {
        /// A hypervisor.
        Hypervisor = "hypervisor",
        /// Nothing that makes itself known.
        NoSign = "no-sign-of-a-hypervisor",
    }
}

codes! {
    /// Whether a processor sits in a socket.
    SocketState {
        /// A processor, enabled.
        Enabled = "enabled",
        /// A processor, disabled or idle.
        Disabled = "disabled",
        /// A processor whose state the firmware does not say.
        Populated = "populated",
        /// No processor.
        Empty = "empty",
    }
}

impl Vulnerability {
    /// How this machine stands to it, by the kernel's words (`Documentation/admin-guide/hw-vuln`); nothing where
    /// they are missing or say none of these. Some begin with the part that they speak of: `KVM: Vulnerable`.
    pub fn standing(&self) -> Option<Standing> {
        let state = self.state.value()?;
        match &**state {
            whole if whole.starts_with("Not affected") => Some(Standing::NotAffected),
            // A mitigation beside which a part stays open is no protection.
            text if text.starts_with("Vulnerable") || text.contains(": Vulnerable") => {
                Some(Standing::Open)
            }
            text if text.contains("Mitigation") => Some(Standing::Mitigated),
            _ => None,
        }
    }
}

/// How a machine stands to a vulnerability of its processor.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Standing {
    /// It does not have it.
    NotAffected,
    /// The kernel or the firmware keeps it from being used.
    Mitigated,
    /// Nothing keeps it from being used.
    Open,
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::fact::{Evidence, saying};

    #[rstest]
    #[case("Not affected", Some(Standing::NotAffected))]
    #[case("Vulnerable", Some(Standing::Open))]
    #[case("Vulnerable: Clear CPU buffers attempted, no microcode", Some(Standing::Open))]
    #[case("KVM: Vulnerable", Some(Standing::Open))]
    #[case("Mitigation: PTI", Some(Standing::Mitigated))]
    #[case("KVM: Mitigation: Split huge pages", Some(Standing::Mitigated))]
    #[case("Mitigation: Enhanced IBRS; PBRSB-eIBRS: Not affected", Some(Standing::Mitigated))]
    #[case("Mitigation: Retpolines; BHI: Vulnerable", Some(Standing::Open))]
    #[case("Unknown: Dependent on hypervisor status", None)]
    fn how_a_machine_stands_is_what_the_kernel_says(
        #[case] state: &str,
        #[case] standing: Option<Standing>,
    ) {
        let evidence = Evidence::new("/x".into(), saying!("a-rule", "a rule"));
        let state = Fact::known(Term::from(state), evidence);
        assert_eq!(Vulnerability { state, ..Vulnerability::default() }.standing(), standing);
    }
}
