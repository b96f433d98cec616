use crate::report::{
    fact::Fact,
    kinds::{AssetTag, Serial, Text, terms},
    record::{Parts, record},
};

record! {
    /// Processors: what the kernel runs on, and what the firmware says of the sockets.
    Cpu "cpu" {
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
        /// Physical packages (sockets in use) that hold online CPUs.
        packages: Fact<u64>,
        /// Physical cores of the online CPUs, in all packages together.
        cores: Fact<u64>,
        /// Hardware threads (logical CPUs) that are present.
        threads: Fact<u64>,
        /// Numbers of the CPUs that are online.
        online: Fact<Vec<u64>>,
        /// Numbers of the CPUs that are present and offline.
        offline: Fact<Vec<u64>>,
        /// Lowest frequency in MHz.
        minimum_frequency_mhz: Fact<u64>,
        /// Highest frequency in MHz.
        maximum_frequency_mhz: Fact<u64>,
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
        derived [cores, threads];

        /// The number that the kernel gives it.
        number: Fact<u64>,
        /// Physical cores with an online thread.
        cores: Fact<u64>,
        /// Online threads.
        threads: Fact<u64>,
    }
}

record! {
    /// Caches of one level, kind and size.
    CpuCache "cache" {
        place [level, kind, size_bytes];

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
    /// Processors' readings.
    CpuReadings "cpu readings" {
        /// The slowest CPU's current frequency in MHz.
        slowest_mhz: Fact<u64>,
        /// The fastest CPU's current frequency in MHz.
        fastest_mhz: Fact<u64>,
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
