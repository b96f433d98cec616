//! PCI functions: how many, which of them want a driver, then each.

use std::collections::HashMap;

use tectum_core::report::model::{DriverState, Pci, PciFunction, PciFunctionReadings};

use super::{View, cell, joined, known, why};
use crate::views::{
    page::{Sheet, Tone},
    sizes::count,
};

/// Columns below which only some of the table fits.
const NARROW: usize = 85;

pub(super) fn print(pci: &Pci, view: &View<'_>, page: &mut Sheet) {
    let said = page.entry("pci");
    if let Some(gap) = pci.functions.gap() {
        said.plain(why(gap));
        return;
    }
    let all = lookup(view);
    let bound = pci.functions.iter().filter(|it| it.driver.is_known()).count();
    match pci.functions.len() {
        0 => said.plain("no function on PCI"),
        number => said
            .strong(count(number, "function", "functions"))
            .plain(format!(", {bound} with a driver")),
    };
    for function in pci.functions.iter() {
        wants_a_driver(function, page);
    }
    for function in pci.functions.iter() {
        let now = reading(function, &all);
        if let Some((now, best)) = now.and_then(|now| slower(function, now)) {
            page.beside()
                .plain(format!("{} ", short_name(function)))
                .quiet(format!("at {}: link {now} of {best}", cell(&function.address)));
        }
        let errors = now.and_then(|now| now.errors.value()).filter(|errors| !errors.is_empty());
        if let Some(errors) = errors.filter(|_| view.drawn) {
            let words: Vec<&str> = errors.iter().map(|error| error.0.as_str()).collect();
            page.beside()
                .plain(format!("{} ", name(function)))
                .quiet(format!("told of errors since its reset: {}", words.join(", ")));
        }
    }
    if !view.drawn || pci.functions.is_empty() {
        return;
    }
    page.gap();
    let rows: Vec<Vec<String>> = pci.functions.iter().map(|it| row(it, &all)).collect();
    let heads = ["address", "what", "who", "driver", "link", "slot"];
    // Narrow pages keep what matters most; the rest is told at full detail.
    let columns: &[usize] = if page.room() < NARROW { &[0, 2, 3] } else { &[0, 1, 2, 3, 4, 5] };
    let pick = |row: &[String]| columns.iter().filter_map(|at| row.get(*at).cloned()).collect();
    let heads: Vec<&str> = columns.iter().filter_map(|at| heads.get(*at).copied()).collect();
    let rows: Vec<Vec<String>> = rows.iter().map(|row| pick(row)).collect();
    page.table(&heads, &rows);
    if let Some(list) = known(&pci.names_by) {
        page.gap();
        page.beside().quiet(format!("names by {list}"));
    }
}

/// Readings by address.
type Lookup<'a> = HashMap<&'a str, &'a PciFunctionReadings>;

fn lookup<'a>(view: &View<'a>) -> Lookup<'a> {
    let all = view.report.readings.pci.as_ref();
    let all = all.into_iter().flat_map(|all| all.functions.iter());
    all.filter_map(|one| Some((&**one.address.value()?, one))).collect()
}

fn reading<'a>(function: &PciFunction, all: &Lookup<'a>) -> Option<&'a PciFunctionReadings> {
    all.get(&**function.address.value()?).copied()
}

/// The maker and the device, by name or by number.
fn name(function: &PciFunction) -> String {
    let vendor = known(&function.vendor)
        .or_else(|| known(&function.vendor_id).map(|id| format!("vendor {id}")));
    let device = known(&function.device)
        .or_else(|| known(&function.device_id).map(|id| format!("device {id}")));
    joined([vendor, device], " ")
}

/// The device alone where it has a name.
fn short_name(function: &PciFunction) -> String {
    known(&function.device).unwrap_or_else(|| name(function))
}

fn kind(function: &PciFunction) -> String {
    known(&function.subclass)
        .or_else(|| known(&function.class))
        .unwrap_or_else(|| format!("class {}", cell(&function.class_id)))
}

/// Bridges to the processor's buses, memory and the like need no driver.
fn needs_one(function: &PciFunction) -> bool {
    let class = known(&function.class_id).unwrap_or_default();
    !["05", "06", "08"].iter().any(|plain| class.starts_with(plain))
}

fn wants_a_driver(function: &PciFunction, page: &mut Sheet) {
    let modules = || known(&function.modules).unwrap_or_default();
    let what = match function.driver_state.value() {
        Some(DriverState::ModuleNotLoaded) => {
            format!("module {} is not loaded", modules())
        }
        Some(DriverState::ModuleNotBound) => {
            format!("module {} is loaded and does not drive it", modules())
        }
        Some(DriverState::NoModule) if needs_one(function) => {
            "no module of this kernel drives it".to_owned()
        }
        _ => return,
    };
    page.beside().tone(
        Tone::Alarm,
        format!("{} at {} without a driver: {what}", short_name(function), cell(&function.address)),
    );
}

/// The link as it is and as it could be, where it is slower or narrower.
fn slower(function: &PciFunction, now: &PciFunctionReadings) -> Option<(String, String)> {
    let link = |speed: &str, width: u64| format!("{} x{width}", speed.replace(" PCIe", ""));
    let (speed, width) = (known(&now.link_speed)?, *now.link_width.value()?);
    let (best, widest) =
        (known(&function.link_speed_at_best)?, *function.link_width_at_best.value()?);
    // A bridge that leads to a smaller device is as wide as that one.
    let bridge = known(&function.class_id).is_some_and(|class| class.starts_with("0604"));
    (!bridge && (speed != best || width < widest))
        .then(|| (link(&speed, width), link(&best, widest)))
}

fn row(function: &PciFunction, all: &Lookup<'_>) -> Vec<String> {
    let link = reading(function, all)
        .and_then(|now| Some(format!("{} x{}", known(&now.link_speed)?, now.link_width.value()?)));
    let place = known(&function.firmware_label).or_else(|| known(&function.slot));
    vec![
        cell(&function.address),
        kind(function),
        name(function),
        cell(&function.driver),
        link.map_or_else(|| "·".to_owned(), |link| link.replace(" PCIe", "")),
        place.unwrap_or_else(|| "·".to_owned()),
    ]
}
