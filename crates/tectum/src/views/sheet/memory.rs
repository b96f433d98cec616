//! Memory: the slots as they sit, the modules in a table.

use crate::page::{Page, Slot, SlotGroup, SlotHolds};
use tectum_report::{
    fact::Fact,
    leaf::Bytes,
    model::{Memory, MemoryModule, MemoryReadings, MemorySlot, SlotState, Unmanaged, ZramDevice},
};

use super::{View, cell, joined, known, size_cell, why};
use crate::views::quantity::{count, size};

pub(super) fn print(memory: &Memory, view: &View<'_>, page: &mut Page) {
    let units = view.units;
    let said = page.entry("memory");
    match memory.installed_bytes.value() {
        Some(installed) => {
            let filled = count(memory.modules.len(), "module", "modules");
            let slots = count(memory.slots.len(), "slot", "slots");
            let kinds = kinds(memory);
            said.strong(size(*installed, units))
                .plain(format!(" installed: {filled} in {slots}{kinds}"));
        }
        None => {
            let gap = memory.installed_bytes.missing().map(why).unwrap_or_default();
            match memory.device_tree_bytes.value() {
                Some(given) => said
                    .strong(size(*given, units))
                    .plain(format!(" by its device tree; modules: {gap}")),
                // Without firmware tables the kernel's blocks say how much there is.
                None => match memory.blocks.online_bytes.value() {
                    Some(online) => said
                        .strong(size(*online, units))
                        .plain(format!(" by the kernel's blocks; modules: {gap}")),
                    None => said.plain(format!("installed modules: {gap}")),
                },
            };
        }
    }
    if !view.drawn && memory.slots.len() > 1 {
        strip(memory, page);
    }
    if let Some(used) = &view.report.readings.memory {
        in_use(used, view, page);
    }
    view.odd("memory", page);
    if !view.drawn {
        return;
    }
    for array in memory.arrays.iter() {
        if let Some(held) = known(&array.holds) {
            // Chips that firmware or pictures stand in: nothing that one could add to.
            page.beside().quiet(format!("{}: {held}", cell(&array.usage)));
            continue;
        }
        let bytes = |fact: &Fact<Bytes>| fact.value().map(|bytes| size(*bytes, units));
        let parts = [
            bytes(&array.max_capacity_bytes).map(|most| format!("takes up to {most}")),
            array.free_slots.value().map(|free| match free {
                0 => "no slot free".to_owned(),
                free => {
                    count(usize::try_from(*free).unwrap_or(usize::MAX), "slot free", "slots free")
                }
            }),
            bytes(&array.largest_module_bytes)
                .map(|largest| format!("modules of up to {largest} if all alike")),
            known(&array.error_correction).map(|ecc| format!("error correction: {ecc}")),
        ];
        page.beside().quiet(joined(parts, ", "));
    }
    if memory.slots.gap().is_none() && !memory.slots.is_empty() {
        page.gap();
        slots(memory, view, page);
        page.gap();
        modules(memory, view, page);
        page.gap();
    }
    if let Some(used) = &view.report.readings.memory {
        use_in_parts(used, view, page);
    }
    kernel(memory, view, page);
}

/// How much is in use, and what that means.
fn in_use(used: &MemoryReadings, view: &View<'_>, page: &mut Page) {
    let bytes = |fact: &Fact<Bytes>| fact.value().map(|bytes| size(*bytes, view.units));
    if let Some(total) = bytes(&used.total_bytes) {
        let available =
            bytes(&used.available_bytes).map(|free| format!(", {free} of it available"));
        page.beside().quiet(format!("the kernel manages {total}{}", available.unwrap_or_default()));
    }
    let unmanaged = bytes(&used.unmanaged_bytes);
    match (used.unmanaged_is.value(), unmanaged) {
        (Some(Unmanaged::Expected), Some(bytes)) if view.drawn => {
            page.beside().quiet(format!("{bytes} are kept by kernel and firmware, as is usual"));
        }
        _ => {}
    }
}

/// What the memory in use is used for.
fn use_in_parts(used: &MemoryReadings, view: &View<'_>, page: &mut Page) {
    let bytes = |fact: &Fact<Bytes>| fact.value().map(|bytes| size(*bytes, view.units));
    let parts = [
        ("free", &used.free_bytes),
        ("cache", &used.cached_bytes),
        ("buffers", &used.buffers_bytes),
        ("kernel objects", &used.slab_bytes),
        ("shared", &used.shared_bytes),
        ("promised", &used.committed_bytes),
    ];
    let parts = parts.map(|(name, fact)| bytes(fact).map(|size| format!("{name} {size}")));
    let line = joined(parts, ", ");
    if !line.is_empty() {
        page.beside().quiet(line);
        page.beside().quiet(
            "available already holds what can be reclaimed of the cache: it is not added to free",
        );
    }
    if let (Some(total), Some(free)) = (used.swap_total_bytes.value(), bytes(&used.swap_free_bytes))
        && total.0 > 0
    {
        page.beside().quiet(format!("swap {}, {free} of it free", size(*total, view.units)));
    }
}

/// Nodes, blocks, huge pages, compressed swap.
fn kernel(memory: &Memory, view: &View<'_>, page: &mut Page) {
    let bytes = |fact: &Fact<Bytes>| fact.value().map(|bytes| size(*bytes, view.units));
    if memory.numa_nodes.len() > 1 {
        for node in memory.numa_nodes.iter() {
            let parts = [
                bytes(&node.online_bytes),
                known(&node.cpus)
                    .filter(|cpus| !cpus.is_empty())
                    .map(|cpus| format!("CPUs {cpus}")),
                known(&node.distances).map(|all| format!("distances {all}")),
                known(&node.read_bandwidth_mib_per_second)
                    .map(|rate| format!("reads {rate} MiB/s")),
                known(&node.read_latency_ns).map(|time| format!("after {time} ns")),
            ];
            page.beside().quiet(format!(
                "NUMA node {}: {}",
                cell(&node.number),
                joined(parts, ", ")
            ));
        }
    }
    for one in memory.persistent.iter() {
        let parts = [
            bytes(&one.size_bytes),
            known(&one.mode),
            known(&one.numa_node).map(|node| format!("NUMA node {node}")),
        ];
        page.beside().quiet(format!(
            "{}, persistent ({}): {}",
            cell(&one.name),
            cell(&one.kind),
            joined(parts, ", ")
        ));
    }
    for one in memory.cxl.iter() {
        let parts = [
            bytes(&one.volatile_bytes).map(|bytes| format!("{bytes} volatile")),
            bytes(&one.persistent_bytes).map(|bytes| format!("{bytes} persistent")),
            known(&one.serial).map(|serial| format!("serial {serial}")),
            known(&one.numa_node).map(|node| format!("NUMA node {node}")),
        ];
        page.beside().quiet(format!("{}, CXL: {}", cell(&one.name), joined(parts, ", ")));
    }
    for one in memory.added.iter() {
        let node = known(&one.numa_node).map(|node| format!("NUMA node {node}"));
        page.beside().quiet(format!(
            "added by {}: {}",
            cell(&one.driver),
            joined([bytes(&one.size_bytes), node], ", ")
        ));
    }
    if let Some(offline) = memory.blocks.offline.value().filter(|offline| **offline > 0) {
        let blocks = match offline {
            1 => "1 memory block is offline".to_owned(),
            many => format!("{many} memory blocks are offline"),
        };
        page.beside().plain(blocks);
    }
    for pool in memory.hugepages.iter().filter(|pool| pool.pages.value().is_some_and(|n| *n > 0)) {
        page.beside().quiet(format!(
            "huge pages: {} of {}",
            cell(&pool.pages),
            size_cell(&pool.page_bytes, |bytes| size(bytes, view.units))
        ));
    }
    let used = |disk: &&ZramDevice| disk.size_bytes.value().is_some_and(|bytes| bytes.0 > 0);
    for disk in memory.compressed_swap.zram.iter().filter(used) {
        let parts = [bytes(&disk.size_bytes), known(&disk.compressor)];
        page.beside().quiet(format!(
            "{}: compressed in memory, {}",
            cell(&disk.name),
            joined(parts, ", ")
        ));
    }
}

/// A sign for each slot, banks apart.
fn strip(memory: &Memory, page: &mut Page) {
    let filled = |slot: &MemorySlot| slot.state.value() == Some(&SlotState::Filled);
    let banks = memory.slots.chunk_by(|a, b| a.bank.value() == b.bank.value());
    let banks = banks.map(|bank| bank.iter().map(filled).collect()).collect();
    page.beside().strip(banks).quiet("slots by bank");
}

/// Kind and speed where all modules have one.
fn kinds(memory: &Memory) -> String {
    let mut kinds: Vec<String> =
        memory.modules.iter().filter_map(|module| known(&module.kind)).collect();
    kinds.sort_unstable();
    kinds.dedup();
    // A module that does not say its speed makes no mixture.
    let mut speeds: Vec<u64> = memory
        .modules
        .iter()
        .filter_map(|module| {
            let speed = module.configured_speed_mts.value().or(module.speed_mts.value());
            speed.map(|speed| speed.0)
        })
        .collect();
    speeds.sort_unstable();
    speeds.dedup();
    match (kinds.as_slice(), speeds.as_slice()) {
        ([], _) => String::new(),
        ([one], []) => format!(", {one}"),
        ([one], [mts]) => format!(", {one} at {mts} MT/s"),
        ([one], _) => format!(", {one}, of different speeds"),
        _ => format!(", {} mixed", kinds.join(" and ")),
    }
}

/// Slots by their banks, in the order of the tables.
fn slots(memory: &Memory, view: &View<'_>, page: &mut Page) {
    let bank = |slot: &MemorySlot| {
        let channel = || known(&slot.channel).map(|number| format!("channel {number}"));
        known(&slot.bank).or_else(channel).unwrap_or_default()
    };
    let drawn = |slot: &MemorySlot| {
        let module = memory.modules.iter().find(|module| sits_in(module, slot));
        let holds = match (slot.state.value(), module) {
            (Some(SlotState::Filled), Some(module)) => {
                SlotHolds::Module(size_cell(&module.size_bytes, |bytes| size(bytes, view.units)))
            }
            (Some(SlotState::Filled), None) => SlotHolds::Module("filled".to_owned()),
            (Some(SlotState::Disabled), _) => SlotHolds::Disabled,
            _ => SlotHolds::Empty,
        };
        Slot { name: cell(&slot.locator), holds }
    };
    let groups = memory.slots.chunk_by(|a, b| bank(a) == bank(b)).map(|group| SlotGroup {
        label: group.first().map(bank).unwrap_or_default(),
        slots: group.iter().map(drawn).collect(),
    });
    page.slots(groups.collect());
}

fn sits_in(module: &MemoryModule, slot: &MemorySlot) -> bool {
    module.slot.value() == slot.locator.value() && module.bank.value() == slot.bank.value()
}

fn modules(memory: &Memory, view: &View<'_>, page: &mut Page) {
    let rows: Vec<Vec<String>> = memory
        .modules
        .iter()
        .map(|module| {
            vec![
                cell(&module.slot),
                size_cell(&module.size_bytes, |bytes| size(bytes, view.units)),
                cell(&module.kind),
                cell(&module.configured_speed_mts),
                cell(&module.speed_mts),
                cell(&module.manufacturer),
                cell(&module.part_number),
                cell(&module.serial),
                module.recorded_error().map(|error| error.0.clone()).unwrap_or_default(),
            ]
        })
        .collect();
    if !rows.is_empty() {
        page.table(
            &[
                "slot",
                ">size",
                "type",
                ">MT/s",
                ">rated",
                "manufacturer",
                "part number",
                "=serial",
                "error",
            ],
            rows,
        );
    }
}
