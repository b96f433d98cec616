//! Memory as the kernel sees it: nodes, blocks, huge pages, counted errors.

use crate::{Machine, Tree, procfs::Place, procfs::installed_kib};

/// Size of a block in bytes, as large machines have it.
const BLOCK: u64 = 2 << 30;

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    let packages = machine.cpu.packages.max(1);
    let blocks = installed_kib(machine) * 1024 / BLOCK;
    tree.line("sys/devices/system/memory/block_size_bytes", format!("{BLOCK:x}"));
    for block in 0..blocks {
        tree.line(format!("sys/devices/system/memory/memory{block}/state"), "online");
    }
    let count = packages * machine.cpu.cores * machine.cpu.threads;
    for node in 0..packages {
        let folder = format!("sys/devices/system/node/node{node}");
        let cpus: Vec<String> = (0..count)
            .filter(|number| Place::of(machine, *number).package == node)
            .map(|number| number.to_string())
            .collect();
        tree.line(format!("{folder}/cpulist"), cpus.join(","));
        let distances: Vec<&str> =
            (0..packages).map(|other| if other == node { "10" } else { "21" }).collect();
        tree.line(format!("{folder}/distance"), distances.join(" "));
        let here = (0..blocks).filter(|block| block % u64::from(packages) == u64::from(node));
        let mut kib = 0;
        for block in here {
            let target = format!("/sys/devices/system/memory/memory{block}");
            tree.link(format!("{folder}/memory{block}"), &target);
            kib += BLOCK / 1024;
        }
        let (total, free) = (kib - kib / 64, kib / 4);
        tree.file(
            format!("{folder}/meminfo"),
            format!("Node {node} MemTotal:       {total} kB\nNode {node} MemFree: {free} kB\n"),
        );
    }
    let pool = "sys/kernel/mm/hugepages/hugepages-2048kB";
    let counts = ["nr", "nr_overcommit", "free", "resv", "surplus"];
    for name in counts {
        tree.line(format!("{pool}/{name}_hugepages"), 0);
    }
    errors(machine, tree);
}

/// A memory controller for each package; the first module has had errors that were corrected.
fn errors(machine: &Machine, tree: &mut Tree) {
    let packages = machine.cpu.packages.max(1) as usize;
    let each = machine.slots.len().div_ceil(packages).max(1);
    for (number, slots) in machine.slots.chunks(each).enumerate() {
        let folder = format!("sys/devices/system/edac/mc/mc{number}");
        let mut controller = 0;
        for (module, slot) in slots.iter().enumerate() {
            let Some(sits) = &slot.module else { continue };
            let first = number == 0 && module == 0;
            let place = format!("{folder}/dimm{module}");
            tree.line(format!("{place}/dimm_label"), &slot.locator);
            tree.line(format!("{place}/dimm_location"), format!("channel {module} slot 0"));
            tree.line(format!("{place}/dimm_mem_type"), "Registered-DDR5");
            tree.line(format!("{place}/dimm_edac_mode"), "S4ECD4ED");
            tree.line(format!("{place}/size"), sits.mib);
            tree.line(format!("{place}/dimm_ce_count"), if first { 3 } else { 0 });
            tree.line(format!("{place}/dimm_ue_count"), 0);
            controller += sits.mib;
        }
        tree.line(format!("{folder}/mc_name"), format!("tarn_edac MC#{number}"));
        tree.line(format!("{folder}/size_mb"), controller);
        tree.line(format!("{folder}/ce_noinfo_count"), 0);
        tree.line(format!("{folder}/ue_noinfo_count"), 0);
    }
}
