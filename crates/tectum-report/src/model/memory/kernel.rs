//! Memory as the kernel sees it.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        Bytes, DeviceName, MebibytesPerSecond, Nanoseconds, Percent, Serial, Series, Term, Uuid,
    },
};

record! {
    /// A node of memory (`Documentation/ABI/stable/sysfs-devices-node`).
    NumaNode "NUMA node" {
        source "Documentation/ABI/stable/sysfs-devices-node";
        place [number];
        derived [online_bytes];
        follows [cpus] from cpu.offline;

        /// The kernel's number for it.
        number: Fact<u64>,
        /// The CPUs that are near to it.
        cpus: Fact<Vec<u64>>,
        /// Memory of its online blocks in bytes.
        online_bytes: Fact<Bytes>,
        /// Distance to each node, in the order of their numbers: 10 is here, 20 twice as far.
        distances: Fact<Series<u64>>,
        /// Nodes whose CPUs or devices reach it the fastest.
        #[source = "Documentation/admin-guide/mm/numaperf.rst"]
        best_initiators: Fact<Vec<u64>>,
        /// How much can be read from it from there, in MiB a second.
        #[source = "Documentation/admin-guide/mm/numaperf.rst"]
        read_bandwidth_mib_per_second: Fact<MebibytesPerSecond>,
        /// How much can be written to it from there, in MiB a second.
        #[source = "Documentation/admin-guide/mm/numaperf.rst"]
        write_bandwidth_mib_per_second: Fact<MebibytesPerSecond>,
        /// How long a read from there takes, in nanoseconds.
        #[source = "Documentation/admin-guide/mm/numaperf.rst"]
        read_latency_ns: Fact<Nanoseconds>,
        /// How long a write from there takes, in nanoseconds.
        #[source = "Documentation/admin-guide/mm/numaperf.rst"]
        write_latency_ns: Fact<Nanoseconds>,
    }
}

record! {
    /// Memory that a driver gave to the kernel beside what the firmware did: plugged in by a
    /// hypervisor, or a device used as memory.
    AddedMemory "added memory" {
        source "Documentation/admin-guide/mm/memory-hotplug.rst";
        place [driver, numa_node];

        /// The driver that added it.
        driver: Fact<Term>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// The NUMA node that its blocks belong to.
        numa_node: Fact<u64>,
    }
}

record! {
    /// Blocks of memory (`Documentation/ABI/testing/sysfs-devices-memory`).
    MemoryBlocks "memory blocks" {
        source "Documentation/ABI/testing/sysfs-devices-memory";
        derived [online, online_bytes];

        /// Size of one in bytes.
        block_bytes: Fact<Bytes>,
        /// How many are online.
        online: Fact<u64>,
        /// How many are offline.
        offline: Fact<u64>,
        /// Memory of the online ones in bytes.
        online_bytes: Fact<Bytes>,
    }
}

record! {
    /// Huge pages of one size (`Documentation/ABI/testing/sysfs-kernel-mm-hugepages`).
    Hugepages "huge pages" {
        source "Documentation/ABI/testing/sysfs-kernel-mm-hugepages";
        place [page_bytes];

        /// Size of a page in bytes.
        page_bytes: Fact<Bytes>,
        /// Pages that are set aside.
        pages: Fact<u64>,
        /// Pages that may be taken beyond them.
        overcommit_pages: Fact<u64>,
    }
}

record! {
    /// A region or namespace of persistent memory (`Documentation/ABI/testing/sysfs-bus-nvdimm`).
    PersistentMemory "persistent memory" {
        source "Documentation/ABI/testing/sysfs-bus-nvdimm";
        identity unique [uuid];
        names [name];

        /// The kernel's name for it.
        name: Fact<Term>,
        /// What it is, as the kernel names its type.
        kind: Fact<Term>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// How a namespace is used: raw, sector, fsdax, devdax.
        mode: Fact<Term>,
        /// The namespace's UUID.
        uuid: Fact<Uuid>,
        /// The NUMA node that it is nearest to.
        numa_node: Fact<i64>,
    }
}

record! {
    /// A memory device on a CXL bus (`Documentation/ABI/testing/sysfs-bus-cxl`).
    CxlMemory "CXL memory device" {
        source "Documentation/ABI/testing/sysfs-bus-cxl";
        identity unique [serial];
        names [name];

        /// The kernel's name for it.
        name: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// Version of the firmware that runs on the device.
        firmware_version: Fact<Term>,
        /// Volatile capacity in bytes.
        volatile_bytes: Fact<Bytes>,
        /// Persistent capacity in bytes.
        persistent_bytes: Fact<Bytes>,
        /// The NUMA node that it is nearest to.
        numa_node: Fact<i64>,
    }
}

record! {
    /// Swap that is held compressed in memory.
    CompressedSwap "compressed swap" {
        source "Documentation/admin-guide/mm/zswap.rst";

        /// Whether pages are compressed before they go to swap
        /// (`Documentation/admin-guide/mm/zswap`).
        zswap_enabled: Fact<bool>,
        /// By which method.
        zswap_compressor: Fact<Term>,
        /// The most memory that it takes, in percent.
        zswap_max_percent: Fact<Percent>,
        /// Compressed disks in memory (`Documentation/admin-guide/blockdev/zram`).
        zram: Parts<ZramDevice>,
    }
}

record! {
    /// A compressed disk in memory.
    ZramDevice "zram disk" {
        source "Documentation/admin-guide/blockdev/zram.rst";
        names [name];

        /// The kernel's name for it.
        name: Fact<DeviceName>,
        /// Size of the disk, uncompressed, in bytes.
        size_bytes: Fact<Bytes>,
        /// By which method it compresses.
        compressor: Fact<Term>,
        /// The most memory that it takes, in bytes; 0 is no limit.
        limit_bytes: Fact<Bytes>,
    }
}
