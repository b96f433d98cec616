//! How much memory is in use.

use super::errors::EccCount;
use crate::report::{
    fact::Fact,
    kinds::terms,
    record::{Parts, record},
};

record! {
    /// Memory use (`/proc/meminfo`, proc(5)).
    MemoryReadings "memory readings" {
        /// What the kernel manages, in bytes.
        total_bytes: Fact<u64>,
        /// What nothing uses, in bytes.
        free_bytes: Fact<u64>,
        /// What programs can get without swapping, in bytes. It holds what can be reclaimed of the
        /// cache already and is not to be added to what is free.
        available_bytes: Fact<u64>,
        /// Buffers of block devices, in bytes.
        buffers_bytes: Fact<u64>,
        /// Page cache, in bytes.
        cached_bytes: Fact<u64>,
        /// Swap space, in bytes.
        swap_total_bytes: Fact<u64>,
        /// Unused swap space, in bytes.
        swap_free_bytes: Fact<u64>,
        /// The kernel's own objects, in bytes.
        slab_bytes: Fact<u64>,
        /// The part of them that can be reclaimed, in bytes.
        slab_reclaimable_bytes: Fact<u64>,
        /// Memory that programs share, with memory filesystems, in bytes.
        shared_bytes: Fact<u64>,
        /// What programs were promised, in bytes.
        committed_bytes: Fact<u64>,
        /// The most that they are promised where promises are kept to, in bytes.
        commit_limit_bytes: Fact<u64>,
        /// What is installed and not managed by the kernel, in bytes.
        unmanaged_bytes: Fact<u64>,
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
        place [page_bytes];

        /// Size of a page in bytes.
        page_bytes: Fact<u64>,
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
        place [number];

        /// The kernel's number for it.
        number: Fact<u64>,
        /// What the kernel manages there, in bytes.
        total_bytes: Fact<u64>,
        /// What nothing uses, in bytes.
        free_bytes: Fact<u64>,
    }
}

terms! {
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
