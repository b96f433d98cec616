//! Memory as the kernel sees it.

use crate::report::{
    fact::Fact,
    kinds::{Measures, Serial, Text, Uuid},
    record::{Parts, record},
};

record! {
    /// A node of memory (`Documentation/ABI/stable/sysfs-devices-node`).
    NumaNode "NUMA node" {
        place [number];
        derived [online_bytes];

        /// The kernel's number for it.
        number: Fact<u64>,
        /// The CPUs that are near to it.
        cpus: Fact<Vec<u64>>,
        /// Memory of its online blocks in bytes.
        online_bytes: Fact<u64>,
        /// Distance to each node, in the order of their numbers: 10 is here, 20 twice as far.
        distances: Fact<Measures>,
    }
}

record! {
    /// Blocks of memory (`Documentation/ABI/testing/sysfs-devices-memory`).
    MemoryBlocks "memory blocks" {
        derived [online, online_bytes];

        /// Size of one in bytes.
        block_bytes: Fact<u64>,
        /// How many are online.
        online: Fact<u64>,
        /// How many are offline.
        offline: Fact<u64>,
        /// Memory of the online ones in bytes.
        online_bytes: Fact<u64>,
    }
}

record! {
    /// Huge pages of one size (`Documentation/ABI/testing/sysfs-kernel-mm-hugepages`).
    Hugepages "huge pages" {
        place [page_bytes];

        /// Size of a page in bytes.
        page_bytes: Fact<u64>,
        /// Pages that are set aside.
        pages: Fact<u64>,
        /// Pages that may be taken beyond them.
        overcommit_pages: Fact<u64>,
    }
}

record! {
    /// A region or namespace of persistent memory (`Documentation/ABI/testing/sysfs-bus-nvdimm`).
    PersistentMemory "persistent memory" {
        identity [uuid];
        names [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// What it is, as the kernel names its type.
        kind: Fact<Text>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// How a namespace is used: raw, sector, fsdax, devdax.
        mode: Fact<Text>,
        /// The namespace's UUID.
        uuid: Fact<Uuid>,
        /// The NUMA node.
        numa_node: Fact<i64>,
    }
}

record! {
    /// A memory device on a CXL bus (`Documentation/ABI/testing/sysfs-bus-cxl`).
    CxlMemory "CXL memory device" {
        identity [serial];
        names [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// Version of its firmware.
        firmware_version: Fact<Text>,
        /// Volatile capacity in bytes.
        volatile_bytes: Fact<u64>,
        /// Persistent capacity in bytes.
        persistent_bytes: Fact<u64>,
        /// The NUMA node.
        numa_node: Fact<i64>,
    }
}

record! {
    /// Swap that is held compressed in memory.
    CompressedSwap "compressed swap" {
        /// Whether pages are compressed before they go to swap
        /// (`Documentation/admin-guide/mm/zswap`).
        zswap_enabled: Fact<bool>,
        /// By which method.
        zswap_compressor: Fact<Text>,
        /// The most memory that it takes, in percent.
        zswap_maximum_percent: Fact<u64>,
        /// Compressed disks in memory (`Documentation/admin-guide/blockdev/zram`).
        zram: Parts<ZramDevice>,
    }
}

record! {
    /// A compressed disk in memory.
    ZramDevice "zram disk" {
        names [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// Size of the disk, uncompressed, in bytes.
        size_bytes: Fact<u64>,
        /// By which method it compresses.
        compressor: Fact<Text>,
        /// The most memory that it takes, in bytes; 0 is no limit.
        limit_bytes: Fact<u64>,
    }
}
