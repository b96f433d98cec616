use crate::report::{
    fact::Fact,
    kinds::{AssetTag, Measures, Serial, Text, terms},
    record::{Parts, record},
};

record! {
    /// Processors: what the kernel runs on, and what the firmware says of the sockets.
    Cpu "cpu" {
        derived [microcode];

        /// Architecture as the kernel names it (`x86_64`, `aarch64`).
        architecture: Fact<Text>,
        /// Whether a hypervisor lies beneath.
        runs_on: Fact<RunsOn>,
        /// Maker of the processors.
        vendor: Fact<Text>,
        /// Model name as the processor gives it.
        model_name: Fact<Text>,
        /// Family number.
        family: Fact<u64>,
        /// Model number.
        model: Fact<u64>,
        /// Stepping or revision number.
        stepping: Fact<u64>,
        /// Variant, as the processor gives it.
        variant: Fact<Text>,
        /// Revision, as the processor gives it.
        revision: Fact<Text>,
        /// Implementer's number (Arm) or vendor's number (RISC-V), as the processor gives it.
        implementer_id: Fact<Text>,
        /// Part number (Arm), as the processor gives it.
        part_id: Fact<Text>,
        /// Instruction set, as the kernel names it (RISC-V, LoongArch, MIPS).
        instruction_set: Fact<Text>,
        /// Memory management, as the kernel names it (RISC-V, Power).
        memory_management: Fact<Text>,
        /// Versions of the microcode, each once.
        microcode: Fact<Vec<Text>>,
        /// Whether model name, stepping, microcode and features are the same on all CPUs.
        all_alike: Fact<bool>,
        /// Order of the bytes of a number: little or big endian.
        byte_order: Fact<ByteOrder>,
        /// Widths in bits of the programs it runs.
        operating_widths: Fact<Vec<u64>>,
        /// Width of a physical address in bits.
        physical_address_bits: Fact<u64>,
        /// Width of a virtual address in bits.
        virtual_address_bits: Fact<u64>,
        /// By what the processor can run virtual machines.
        virtualization: Fact<Text>,
        /// Features, grouped by what they are for.
        features: Parts<FeatureGroup>,
        /// Defects of the processor that the kernel knows of.
        defects: Fact<Vec<Text>>,
        /// What is known to be vulnerable, and what is done about it.
        vulnerabilities: Parts<Vulnerability>,
        /// The board's name, as the kernel's processor file gives it.
        board: Fact<Text>,
        /// The board's revision, likewise.
        board_revision: Fact<Text>,
        /// The board's serial number, likewise.
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
        online: Fact<Vec<u64>>,
        /// Numbers of the CPUs that are present and offline.
        offline: Fact<Vec<u64>>,
        /// Numbers of the CPUs that could ever be present.
        possible: Fact<Vec<u64>>,
        /// Numbers of the CPUs that the scheduler leaves alone.
        isolated: Fact<Vec<u64>>,
        /// Whether cores run more than one thread now.
        simultaneous_threads: Fact<bool>,
        /// Whether that can be changed: on, off, forceoff, notsupported, notimplemented.
        simultaneous_threads_control: Fact<Text>,
        /// Kinds of core, where there are several.
        core_kinds: Parts<CoreKind>,
        /// Sources that say something else of the number of processors.
        disagreements: Parts<CpuDisagreement>,
        /// Frequency in MHz that the processor is sold by.
        base_frequency_mhz: Fact<u64>,
        /// Lowest frequency in MHz.
        minimum_frequency_mhz: Fact<u64>,
        /// Highest frequency in MHz.
        maximum_frequency_mhz: Fact<u64>,
        /// Whether frequencies above the one it is sold by are allowed.
        boost: Fact<bool>,
        /// How frequencies are chosen, CPUs alike together.
        frequency_policies: Parts<FrequencyPolicy>,
        /// Each package with its cores and threads.
        per_package: Parts<CpuPackage>,
        /// Caches, those alike together.
        caches: Parts<CpuCache>,
        /// Sockets as the firmware describes them (SMBIOS type 4).
        sockets: Parts<CpuSocket>,
    }
}

record! {
    /// One physical package.
    CpuPackage "processor package" {
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
        core_cpus: Fact<Vec<Text>>,
        /// The NUMA nodes of its CPUs.
        numa_nodes: Fact<Vec<u64>>,
    }
}

record! {
    /// Caches of one level, kind and size.
    CpuCache "cache" {
        place [level, kind, size_bytes];
        derived [total_bytes];

        /// Level, from 1.
        level: Fact<u64>,
        /// What it holds: Data, Instruction or Unified.
        kind: Fact<Text>,
        /// Size of one instance in bytes.
        size_bytes: Fact<u64>,
        /// Ways of associativity.
        ways: Fact<u64>,
        /// Line size in bytes.
        line_bytes: Fact<u64>,
        /// How many such caches there are.
        instances: Fact<u64>,
        /// Size of all of them in bytes.
        total_bytes: Fact<u64>,
        /// The CPUs that share each, as lists of numbers.
        shared_by: Fact<Vec<Text>>,
    }
}

record! {
    /// One processor socket (SMBIOS type 4, DSP0134 clause 7.5).
    CpuSocket "processor socket" {
        place [designation];

        /// The socket's label.
        designation: Fact<Text>,
        /// Whether a processor sits in it.
        state: Fact<SocketState>,
        /// The processor's maker.
        manufacturer: Fact<Text>,
        /// The processor's version, in practice its model name.
        version: Fact<Text>,
        /// The processor's serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The processor's part number.
        part_number: Fact<Text>,
        /// The processor's family, in the standard's words.
        family: Fact<Text>,
        /// What kind of socket it is, in the standard's words.
        socket_kind: Fact<Text>,
        /// What the processor can do, in the standard's words.
        characteristics: Fact<Vec<Text>>,
        /// Voltage in millivolts.
        voltage_mv: Fact<u64>,
        /// External clock in MHz.
        external_clock_mhz: Fact<u64>,
        /// Cores that are enabled.
        enabled_cores: Fact<u64>,
        /// Cores that the firmware counts.
        cores: Fact<u64>,
        /// Threads that the firmware counts.
        threads: Fact<u64>,
        /// Highest speed the socket supports, in MHz.
        maximum_speed_mhz: Fact<u64>,
        /// Speed at boot, in MHz.
        boot_speed_mhz: Fact<u64>,
    }
}

record! {
    /// Features of a processor that belong together.
    FeatureGroup "features" {
        place [group];

        /// What they are for.
        group: Fact<Text>,
        /// The features as the kernel names them, in order.
        flags: Fact<Vec<Text>>,
    }
}

record! {
    /// A vulnerability (`Documentation/ABI/testing/sysfs-devices-system-cpu`, vulnerabilities).
    Vulnerability "vulnerability" {
        place [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// Whether the processor is affected.
        affected: Fact<bool>,
        /// What the kernel says of it.
        state: Fact<Text>,
    }
}

record! {
    /// A kind of core on a machine with several.
    CoreKind "kind of core" {
        place [name];

        /// What the kernel calls it.
        name: Fact<Text>,
        /// Its online CPUs.
        cpus: Fact<Vec<u64>>,
    }
}

record! {
    /// Two sources that count differently.
    CpuDisagreement "disagreement" {
        place [what, source];

        /// What is counted.
        what: Fact<Text>,
        /// What the kernel's topology says.
        topology: Fact<u64>,
        /// Who says something else.
        source: Fact<Text>,
        /// What it says.
        says: Fact<u64>,
    }
}

record! {
    /// How the frequency of some CPUs is chosen (`Documentation/admin-guide/pm/cpufreq`).
    FrequencyPolicy "frequency policy" {
        place [cpus];

        /// The CPUs.
        cpus: Fact<Vec<u64>>,
        /// The driver.
        driver: Fact<Text>,
        /// The governor.
        governor: Fact<Text>,
        /// Lowest frequency that the hardware can, in MHz.
        minimum_mhz: Fact<u64>,
        /// Highest frequency that the hardware can, in MHz.
        maximum_mhz: Fact<u64>,
        /// Lowest frequency that is allowed, in MHz.
        lowest_allowed_mhz: Fact<u64>,
        /// Highest frequency that is allowed, in MHz.
        highest_allowed_mhz: Fact<u64>,
        /// What the processor is told to prefer, speed or thrift.
        energy_preference: Fact<Text>,
    }
}

record! {
    /// Processors' readings.
    CpuReadings "cpu readings" {
        /// The slowest CPU's current frequency in MHz.
        slowest_mhz: Fact<u64>,
        /// The fastest CPU's current frequency in MHz.
        fastest_mhz: Fact<u64>,
        /// Each CPU's current frequency in MHz, in the order of `clocked_cpus`.
        current_mhz: Fact<Measures>,
        /// The CPUs whose frequency is known.
        clocked_cpus: Fact<Vec<u64>>,
        /// Turns of an empty loop in a millionth of a second, by which the kernel waits for short
        /// times. It is no measure of what a processor achieves.
        bogomips: Fact<Text>,
        /// How often cores were slowed down because they were too hot, all cores together.
        core_throttles: Fact<u64>,
        /// How often packages were, all CPUs together.
        package_throttles: Fact<u64>,
    }
}

terms! {
    /// Order of the bytes of a number.
    ByteOrder {
        /// The lowest byte first.
        Little = "little-endian",
        /// The highest byte first.
        Big = "big-endian",
    }
}

terms! {
    /// What lies beneath the kernel.
    RunsOn {
        /// A hypervisor.
        Hypervisor = "hypervisor",
        /// Nothing that makes itself known.
        NoSign = "no-sign-of-a-hypervisor",
    }
}

terms! {
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
