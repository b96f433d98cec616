//! PCI functions: how many, which of them want a driver, then each.

use tectum_report::model::{Pci, PciFunction};

use super::{View, cell, joined, known, link_words, why};
use crate::views::{page::Sheet, quantity::count};

/// Columns below which only some of the table fits.
const NARROW: usize = 85;

pub(super) fn print(pci: &Pci, view: &View<'_>, page: &mut Sheet) {
    let said = page.entry("pci");
    if let Some(gap) = pci.functions.gap() {
        said.plain(why(gap));
        return;
    }
    let bound = pci.functions.iter().filter(|it| it.driver.is_known()).count();
    match pci.functions.len() {
        0 => said.plain("no function on PCI"),
        number => said
            .strong(count(number, "function", "functions"))
            .plain(format!(", {bound} with a driver")),
    };
    view.odd("pci", page);
    for function in pci.functions.iter() {
        let now = view.readings.functions.of(&[function]);
        let errors =
            now.and_then(|now| now.status_errors.value()).filter(|errors| !errors.is_empty());
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
    let rows: Vec<Vec<String>> = pci.functions.iter().map(|it| row(it, view)).collect();
    let heads = ["address", "what", "who", "driver", "link", "slot"];
    // Narrow pages keep what matters most; the rest is told at full detail.
    let columns: &[usize] = if page.room() < NARROW { &[0, 2, 3] } else { &[0, 1, 2, 3, 4, 5] };
    let pick = |row: &[String]| columns.iter().filter_map(|at| row.get(*at).cloned()).collect();
    let heads: Vec<&str> = columns.iter().filter_map(|at| heads.get(*at).copied()).collect();
    let rows: Vec<Vec<String>> = rows.iter().map(|row| pick(row)).collect();
    page.table(&heads, &rows);
    if let Some(list) = known(&pci.id_list_version) {
        page.gap();
        page.beside().quiet(format!("names by {list}"));
    }
}

/// The maker and the device, by name or by number.
fn name(function: &PciFunction) -> String {
    let vendor = known(&function.vendor)
        .or_else(|| known(&function.vendor_id).map(|id| format!("vendor {id}")));
    let device = known(&function.device)
        .or_else(|| known(&function.device_id).map(|id| format!("device {id}")));
    joined([vendor, device], " ")
}

fn kind(function: &PciFunction) -> String {
    known(&function.subclass)
        .or_else(|| known(&function.class))
        .unwrap_or_else(|| format!("class {}", cell(&function.class_id)))
}

fn row(function: &PciFunction, view: &View<'_>) -> Vec<String> {
    let link = view
        .readings
        .functions
        .of(&[function])
        .and_then(|now| link_words(&now.link_speed_mts, &now.link_lanes));
    let place = known(&function.firmware_label).or_else(|| known(&function.slot));
    vec![
        cell(&function.address),
        kind(function),
        name(function),
        cell(&function.driver),
        link.unwrap_or_else(|| "·".to_owned()),
        place.unwrap_or_else(|| "·".to_owned()),
    ]
}
