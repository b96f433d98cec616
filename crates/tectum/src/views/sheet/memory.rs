//! Memory: the slots as they sit, the modules in a table.

use tectum_core::report::model::{Memory, MemoryModule, MemorySlot, SlotState};

use super::{View, cell, known, size_cell, why};
use crate::views::{
    page::{Sheet, Tone},
    sizes::{count, size},
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
            said.plain(format!("installed modules: {gap}"));
        }
    }
    if !view.drawn && memory.slots.len() > 1 {
        strip(memory, page);
    }
    if let Some(used) = &view.report.readings.memory
        && let Some(total) = used.total_bytes.value()
    {
        let available = used.available_bytes.value();
        let available = available.map(|bytes| format!(", {} of it available", size(*bytes, units)));
        page.beside().quiet(format!(
            "the kernel manages {}{}",
            size(*total, units),
            available.unwrap_or_default()
        ));
    }
    if !view.drawn {
        return;
    }
    for array in memory.arrays.iter() {
        let most = array.maximum_capacity_bytes.value();
        let most = most.map(|bytes| format!("takes up to {}", size(*bytes, units)));
        let ecc = known(&array.error_correction).map(|ecc| format!("error correction: {ecc}"));
        let parts: Vec<String> = most.into_iter().chain(ecc).collect();
        page.beside().quiet(parts.join(", "));
    }
    if memory.slots.gap().is_some() {
        return;
    }
    page.gap();
    slots(memory, view, page);
    page.gap();
    modules(memory, view, page);
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
    let mut kinds: Vec<String> = memory
        .modules
        .iter()
        .filter_map(|module| {
            let kind = known(&module.kind)?;
            let speed = module.configured_speed_mts.value().or(module.speed_mts.value());
            Some(match speed {
                Some(mts) => format!("{kind} at {mts} MT/s"),
                None => kind,
            })
        })
        .collect();
    kinds.dedup();
    match kinds.as_slice() {
        [] => String::new(),
        [one] => format!(", {one}"),
        _ => ", mixed".to_owned(),
    }
}

/// Slots that share a bank's label stand in one row, in the order of the tables.
fn slots(memory: &Memory, view: &View<'_>, page: &mut Sheet) {
    let bank = |slot: &MemorySlot| known(&slot.bank).unwrap_or_default();
    let boxes: Vec<(String, String, bool)> = memory
        .slots
        .iter()
        .map(|slot| {
            let name = cell(&slot.locator);
            let filled = slot.state.value() == Some(&SlotState::Filled);
            let module = memory.modules.iter().find(|module| sits_in(module, slot));
            let holds = match (filled, module) {
                (true, Some(module)) => {
                    size_cell(&module.size_bytes, |bytes| size(bytes, view.units))
                }
                (true, None) => "filled".to_owned(),
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
            ]
        })
        .collect();
    if !rows.is_empty() {
        page.table(&["slot", ">size", "kind", ">MT/s", ">rated", "maker", "part", "serial"], &rows);
    }
}
