//! How much memory is in use.

use super::errors::EccCount;
use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Bytes, codes},
};

record! {
    /// Memory use (`/proc/meminfo`, proc(5)).
    MemoryReadings "memory" {
        source "proc_meminfo(5)";

        /// What the kernel manages, in bytes.
        total_bytes: Fact<Bytes>,
        /// What nothing uses, in bytes.
        free_bytes: Fact<Bytes>,
        /// What programs can get without swapping, in bytes. It holds what can be reclaimed of the
        /// cache already and is not to be added to what is free.
        available_bytes: Fact<Bytes>,
        /// Buffers of block devices, in bytes.
        buffers_bytes: Fact<Bytes>,
        /// Page cache, in bytes.
        cached_bytes: Fact<Bytes>,
        /// Swap space, in bytes.
        swap_total_bytes: Fact<Bytes>,
        /// Unused swap space, in bytes.
        swap_free_bytes: Fact<Bytes>,
        /// The kernel's own objects, in bytes.
        slab_bytes: Fact<Bytes>,
        /// The part of them that can be reclaimed, in bytes.
        slab_reclaimable_bytes: Fact<Bytes>,
        /// Memory that programs share, with memory filesystems, in bytes.
        shared_bytes: Fact<Bytes>,
        /// What programs were promised, in bytes.
        committed_bytes: Fact<Bytes>,
        /// The most that they are promised where promises are kept to, in bytes.
        commit_limit_bytes: Fact<Bytes>,
        /// What is installed and not managed by the kernel, in bytes.
        unmanaged_bytes: Fact<Bytes>,
        /// Whether so much is to be expected.
        unmanaged_is: Fact<Unmanaged>,
        /// Huge pages of each size.
        hugepages: Parts<HugepagesInUse>,
        /// Each NUMA node.
        numa_nodes: Parts<NumaNodeReadings>,
        /// Memory errors that were counted.
        ecc_counts: Parts<EccCount>,
    }
}

record! {
    /// Huge pages of one size.
    HugepagesInUse "huge pages" {
        source "Documentation/ABI/testing/sysfs-kernel-mm-hugepages";
        place [page_bytes];
        reading of memory.hugepages by page_bytes = page_bytes;

        /// Size of a page in bytes.
        page_bytes: Fact<Bytes>,
        /// Pages that nothing uses.
        free: Fact<u64>,
        /// Pages that are promised and not yet used.
        reserved: Fact<u64>,
        /// Pages beyond those set aside.
        surplus: Fact<u64>,
    }
}

record! {
    /// A NUMA node's memory.
    NumaNodeReadings "NUMA node" {
        source "Documentation/ABI/stable/sysfs-devices-node";
        place [number];
        reading of memory.numa_nodes by number = number;

        /// The kernel's number for it.
        number: Fact<u64>,
        /// What the kernel manages there, in bytes.
        total_bytes: Fact<Bytes>,
        /// What nothing uses, in bytes.
        free_bytes: Fact<Bytes>,
    }
}

codes! {
    /// How what is installed and what the kernel manages go together.
    Unmanaged {
        /// As much as kernel and firmware usually keep to themselves.
        Expected = "expected",
        /// More is missing than kernel and firmware usually keep to themselves.
        Much = "more-than-expected",
        /// The kernel manages more than the modules hold.
        Negative = "less-than-nothing",
    }
}
