//! Memory: the slots as they sit, the modules in a table.

use tectum_report::{
    fact::Fact,
    leaf::Bytes,
    model::{Memory, MemoryModule, MemoryReadings, MemorySlot, SlotState, Unmanaged, ZramDevice},
};

use super::{View, cell, joined, known, name_in_drawing, size_cell, why};
use crate::views::{
    page::{Sheet, Tone},
    quantity::{count, size},
};

pub(super) fn print(memory: &Memory, view: &View<'_>, page: &mut Sheet) {
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
fn in_use(used: &MemoryReadings, view: &View<'_>, page: &mut Sheet) {
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
fn use_in_parts(used: &MemoryReadings, view: &View<'_>, page: &mut Sheet) {
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
fn kernel(memory: &Memory, view: &View<'_>, page: &mut Sheet) {
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
        page.beside().plain(format!("{offline} memory blocks are offline"));
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

/// One sign for each slot, banks apart, as many as fit.
fn strip(memory: &Memory, page: &mut Sheet) {
    let most = page.room() / 2;
    let mut said = page.beside();
    for group in memory.slots.chunk_by(|a, b| a.bank.value() == b.bank.value()) {
        for slot in group {
            let filled = slot.state.value() == Some(&SlotState::Filled);
            let (tone, sign) = if filled { (Tone::Label, "▮") } else { (Tone::Quiet, "▯") };
            said = said.tone(tone, sign);
        }
        said = said.plain(" ");
    }
    if memory.slots.len() <= most {
        said.quiet("slots by bank");
    }
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

/// Slots that share a bank's label stand in one row, in the order of the tables.
fn slots(memory: &Memory, view: &View<'_>, page: &mut Sheet) {
    let bank = |slot: &MemorySlot| {
        let channel = || known(&slot.channel).map(|number| format!("channel {number}"));
        name_in_drawing(&known(&slot.bank).or_else(channel).unwrap_or_default())
    };
    let boxes: Vec<(String, String, bool)> = memory
        .slots
        .iter()
        .map(|slot| {
            let name = name_in_drawing(&cell(&slot.locator));
            let filled = slot.state.value() == Some(&SlotState::Filled);
            let module = memory.modules.iter().find(|module| sits_in(module, slot));
            let holds = match (filled, module) {
                (true, Some(module)) => {
                    size_cell(&module.size_bytes, |bytes| size(bytes, view.units))
                }
                (true, None) => "filled".to_owned(),
                (false, _) if slot.state.value() == Some(&SlotState::Disabled) => {
                    "disabled".to_owned()
                }
                (false, _) => "empty".to_owned(),
            };
            (name, holds, filled)
        })
        .collect();
    let widest = |pick: fn(&(String, String, bool)) -> &String| {
        boxes.iter().map(|one| pick(one).chars().count()).max().unwrap_or(0)
    };
    let (name_width, size_width) = (widest(|one| &one.0), widest(|one| &one.1));
    let label_width =
        memory.slots.iter().map(|slot| bank(slot).chars().count()).max().unwrap_or(0).min(20);
    let box_width = name_width + size_width + 5;
    let columns = (page.room().saturating_sub(label_width + 2) / box_width.max(1)).max(1);
    let all: Vec<(String, &(String, String, bool))> =
        memory.slots.iter().map(bank).zip(&boxes).collect();
    for group in all.chunk_by(|a, b| a.0 == b.0) {
        let (label, _) = group.first().map(|(label, one)| (label.clone(), *one)).unzip();
        let label: String = label.unwrap_or_default().chars().take(label_width).collect();
        for (row, part) in group.chunks(columns).enumerate() {
            let shown = if row == 0 { label.as_str() } else { "" };
            let mut line = vec![(Tone::Quiet, format!("{shown:<label_width$}  "))];
            for (_, (name, holds, filled)) in part {
                let (open, close, tone) =
                    if *filled { ("▐", "▌", Tone::Label) } else { ("┆", "┆", Tone::Quiet) };
                line.push((tone, open.to_owned()));
                line.push((Tone::Quiet, format!("{name:<name_width$} ")));
                let holds_tone = if *filled { Tone::Strong } else { Tone::Quiet };
                line.push((holds_tone, format!("{holds:>size_width$}")));
                line.push((tone, format!("{close}  ")));
            }
            page.drawn(line);
        }
    }
}

fn sits_in(module: &MemoryModule, slot: &MemorySlot) -> bool {
    module.slot.value() == slot.locator.value() && module.bank.value() == slot.bank.value()
}

fn modules(memory: &Memory, view: &View<'_>, page: &mut Sheet) {
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
            &["slot", ">size", "kind", ">MT/s", ">rated", "maker", "part", "serial", "error"],
            &rows,
        );
    }
}
