//! PCI functions: how many, which of them want a driver, then each.

use crate::page::{Page, Tree, UNKNOWN};
use tectum_report::model::{Pci, PciFunction};

use super::{
    View, cell,
    hang::{Thing, trees},
    joined, known, link_words, why,
};
use crate::views::quantity::count;

pub(super) fn print(pci: &Pci, view: &View<'_>, page: &mut Page) {
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
    let things = pci.functions.iter().map(|function| Thing {
        name: cell(&function.address),
        on: known(&function.bridge),
        text: format!("{}  {}, {}", cell(&function.address), name(function), kind(function)),
    });
    let things: Vec<Thing> = things.collect();
    page.tree(Tree { title: "functions behind their bridges", roots: trees(&things) });
    let rows: Vec<Vec<String>> = pci.functions.iter().map(|it| row(it, view)).collect();
    // Narrow pages keep what matters most; the rest is told at full detail.
    let heads = ["address", "?class", "device", "driver", "?link", "?slot"];
    page.table(&heads, rows);
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
        link.unwrap_or_else(|| UNKNOWN.to_owned()),
        place.unwrap_or_else(|| UNKNOWN.to_owned()),
    ]
}
