//! Memory: what is installed, how the kernel sees it, how much of it is in use.

mod added;
mod arrays;
mod compressed_swap;
mod device_tree;
mod errors;
mod hugepages;
mod kernel;
mod modules;
mod numa;
mod persistent;
mod readings;

use super::{Found, Section};
use crate::{readers::dmi::Tables, source::Lease};
use tectum_report::{leaf::Bytes, model::Memory};

pub(super) const SECTION: Section = Section {
    name: "memory",
    summary: "memory modules with the slots they sit in, NUMA nodes, huge pages, memory in use",
    reads: &[
        "/proc/iomem",
        "/proc/meminfo",
        "/sys/block",
        "/sys/block/zram*/comp_algorithm",
        "/sys/block/zram*/disksize",
        "/sys/block/zram*/mm_stat",
        "/sys/bus/cxl/devices",
        "/sys/bus/cxl/devices/mem*/*",
        "/sys/bus/cxl/devices/mem*/*/size",
        "/sys/bus/nd/devices",
        "/sys/bus/nd/devices/*/*",
        "/sys/devices/system/edac/mc",
        "/sys/devices/system/edac/mc/mc*",
        "/sys/devices/system/edac/mc/mc*/*",
        "/sys/devices/system/edac/mc/mc*/*/*",
        "/sys/devices/system/memory",
        "/sys/devices/system/memory/block_size_bytes",
        "/sys/devices/system/memory/memory*/state",
        "/sys/devices/system/node",
        "/sys/devices/system/node/node*",
        "/sys/devices/system/node/node*/access0/initiators",
        "/sys/devices/system/node/node*/access0/initiators/*",
        "/sys/devices/system/node/node*/cpulist",
        "/sys/devices/system/node/node*/distance",
        "/sys/devices/system/node/node*/meminfo",
        "/sys/firmware/devicetree/base",
        "/sys/firmware/devicetree/base/#*-cells",
        "/sys/firmware/devicetree/base/memory*/*",
        "/sys/firmware/dmi/entries",
        "/sys/firmware/dmi/entries/*/position",
        "/sys/firmware/dmi/entries/*/raw",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
        "/sys/kernel/mm/hugepages",
        "/sys/kernel/mm/hugepages/*/*",
        "/sys/module/zswap/parameters/*",
    ],
    survey,
};

fn survey(lease: &Lease) -> Found {
    let tables = Tables::read(lease);
    let modules = modules::modules(&tables);
    let slots = modules::slots(&tables);
    let arrays = arrays::arrays(&tables, &modules);
    let (blocks, online) = kernel::blocks(lease);
    let memory = Memory {
        installed_bytes: modules::installed(&tables, &modules).map(Bytes),
        device_tree_bytes: device_tree::bytes(lease).map(Bytes),
        max_capacity_bytes: arrays::maximum_capacity(&tables, &arrays).map(Bytes),
        free_slots: modules::free_slots(&tables, &slots),
        arrays,
        channels: modules::channels(&tables),
        numa_nodes: numa::numa_nodes(lease, &blocks, &online),
        added: added::added(lease, &blocks),
        blocks,
        hugepages: hugepages::hugepages(lease),
        persistent: persistent::persistent(lease),
        cxl: persistent::cxl(lease),
        compressed_swap: compressed_swap::compressed_swap(lease),
        ecc_controllers: errors::controllers(lease),
        slots,
        modules,
    };
    let readings = readings::readings(lease, &memory);
    Box::new(|observed| {
        observed.inventory.memory = Some(memory);
        observed.readings.memory = Some(readings);
    })
}
