//! Mains and batteries.

use crate::page::Page;
use tectum_report::model::{Power, PowerSource, PowerSourceReadings};

use super::{View, cell, joined, known, why};
use crate::views::quantity::count;

pub(super) fn print(power: &Power, view: &View<'_>, page: &mut Page) {
    if let Some(gap) = power.supplies.gap() {
        page.entry("power").plain(why(gap));
        return;
    }
    if power.supplies.is_empty() {
        // Most servers have none that the kernel knows: said where it is asked.
        if view.drawn {
            page.entry("power").plain("no mains and no battery that the kernel knows of");
        }
        return;
    }
    page.entry("power").strong(count(power.supplies.len(), "supply", "supplies"));
    for supply in power.supplies.iter() {
        line(supply, view, page);
    }
}

fn line(supply: &PowerSource, view: &View<'_>, page: &mut Page) {
    let now = view.readings.supplies.of(&[supply]);
    let told = joined(
        [
            known(&supply.kind),
            now.and_then(state),
            now.and_then(|now| known(&now.capacity_percent)).map(|part| format!("{part} % full")),
            now.and_then(|now| known(&now.cycles)).map(|cycles| format!("{cycles} cycles")),
        ],
        ", ",
    );
    let made = joined(
        [
            known(&supply.manufacturer),
            known(&supply.model).or_else(|| known(&supply.given_name)),
            known(&supply.serial).map(|serial| format!("serial {serial}")),
        ],
        " ",
    );
    page.beside().strong(cell(&supply.name)).plain(format!("  {told}")).quiet(if made.is_empty() {
        String::new()
    } else {
        format!(", {made}")
    });
}

fn state(now: &PowerSourceReadings) -> Option<String> {
    known(&now.state)
        .or_else(|| now.online.value().map(|online| if *online { "on" } else { "off" }.to_owned()))
}
