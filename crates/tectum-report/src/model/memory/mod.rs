//! Memory: what is installed, how the kernel sees it, how much of it is in use.

mod errors;
mod kernel;
mod modules;
mod readings;

pub use errors::{EccController, EccCount};
pub use kernel::{
    AddedMemory, CompressedSwap, CxlMemory, Hugepages, MemoryBlocks, NumaNode, PersistentMemory,
    ZramDevice,
};
pub use modules::{MemoryArray, MemoryChannel, MemoryModule, MemorySlot, SlotState};
pub use readings::{HugepagesInUse, MemoryReadings, NumaNodeReadings, Unmanaged};

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::Bytes,
};

record! {
    /// Memory: what is installed, and how the kernel sees it.
    Memory "memory" {
        source "DSP0134 clauses 7.17 and 7.18";
        derived [installed_bytes, free_slots, device_tree_bytes];

        /// What the modules give to be used as memory, in bytes: the sum of their sizes, without what keeps its content
        /// without power and what is a cache for another.
        installed_bytes: Fact<Bytes>,
        /// Memory as the device tree gives it to the kernel, in bytes.
        #[source = "Devicetree Specification clause 3.4"]
        device_tree_bytes: Fact<Bytes>,
        /// The most that the arrays for system memory take together, in bytes.
        #[source = "DSP0134 clause 7.17"]
        max_capacity_bytes: Fact<Bytes>,
        /// Slots without a module.
        free_slots: Fact<u64>,
        /// Sets of slots that work together (SMBIOS type 16).
        #[source = "DSP0134 clause 7.17"]
        arrays: Parts<MemoryArray>,
        /// Channels (SMBIOS type 37).
        #[source = "DSP0134 clause 7.38"]
        channels: Parts<MemoryChannel>,
        /// Every slot, filled and empty (SMBIOS type 17, or 6 in old tables).
        #[source = "DSP0134 clause 7.18"]
        slots: Parts<MemorySlot>,
        /// Every module, with the slot it sits in.
        #[source = "DSP0134 clause 7.18"]
        modules: Parts<MemoryModule>,
        /// Nodes of memory that lie nearer to some CPUs than to others.
        #[source = "Documentation/ABI/stable/sysfs-devices-node"]
        numa_nodes: Parts<NumaNode>,
        /// Blocks in which the kernel takes memory in and out of use.
        blocks: MemoryBlocks,
        /// Pools of huge pages.
        #[source = "Documentation/admin-guide/mm/hugetlbpage.rst"]
        hugepages: Parts<Hugepages>,
        /// Regions and namespaces of persistent memory.
        #[source = "Documentation/ABI/testing/sysfs-bus-nvdimm"]
        persistent: Parts<PersistentMemory>,
        /// Memory devices on a CXL bus.
        #[source = "Documentation/ABI/testing/sysfs-bus-cxl"]
        cxl: Parts<CxlMemory>,
        /// Memory that drivers added to what the firmware gave.
        #[source = "Documentation/admin-guide/mm/memory-hotplug.rst"]
        added: Parts<AddedMemory>,
        /// Swap that is held compressed in memory.
        compressed_swap: CompressedSwap,
        /// Memory controllers whose errors the kernel counts.
        #[source = "Documentation/driver-api/edac.rst"]
        ecc_controllers: Parts<EccController>,
    }
}
