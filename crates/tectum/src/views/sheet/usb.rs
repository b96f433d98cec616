//! USB: each device set in as deep as the hubs that it hangs on.

use crate::page::{Page, Tree, UNKNOWN};
use tectum_report::{
    leaf::in_large_units,
    model::{Usb, UsbDevice},
};

use super::{
    View, cell,
    hang::{Thing, trees},
    joined, known, why,
};
use crate::views::quantity::count;

pub(super) fn print(usb: &Usb, view: &View<'_>, page: &mut Page) {
    let said = page.entry("usb");
    if let Some(gap) = usb.devices.gap() {
        said.plain(why(gap));
        return;
    }
    let buses = usb.devices.iter().filter(|device| device.is_root()).count();
    let devices = usb.devices.len() - buses;
    let on = count(buses, "bus", "buses");
    if buses == 0 && devices == 0 {
        said.plain("no bus");
        return;
    }
    match devices {
        0 => said.plain(format!("no device on {on}")),
        number => said.strong(count(number, "device", "devices")).plain(format!(" on {on}")),
    };
    view.odd("usb", page);
    if !view.drawn || usb.devices.is_empty() {
        return;
    }
    page.gap();
    let things: Vec<Thing> = usb.devices.iter().map(thing).collect();
    page.tree(Tree { title: "devices on their hubs", roots: trees(&things) });
    let rows: Vec<Vec<String>> = usb.devices.iter().map(row).collect();
    page.table(&["path", "device", "=serial", ">Mb/s", "driver"], rows);
}

/// What the device says that it is; else the list's name, or numbers.
fn name(device: &UsbDevice) -> String {
    let maker = known(&device.manufacturer_string)
        .or_else(|| known(&device.vendor))
        .or_else(|| known(&device.vendor_id).map(|id| format!("vendor {id}")));
    let product = known(&device.product_string)
        .or_else(|| known(&device.product))
        .or_else(|| known(&device.product_id).map(|id| format!("product {id}")));
    // Some put the maker's name before the product's already.
    match (&maker, &product) {
        (Some(maker), Some(product)) if product.starts_with(maker.as_str()) => product.clone(),
        _ => joined([maker, product], " "),
    }
}

fn thing(device: &UsbDevice) -> Thing {
    let path = cell(&device.path);
    let text = match device.is_root() {
        true => format!("{path}  root hub of {}", cell(&device.controller)),
        false => format!("{path}  {}", name(device)),
    };
    Thing { name: path, on: known(&device.hub), text }
}

fn row(device: &UsbDevice) -> Vec<String> {
    let path = cell(&device.path);
    let depth = if device.is_root() { 0 } else { 1 + path.matches('.').count() };
    let what = match device.is_root() {
        true => format!("root hub of {}", cell(&device.controller)),
        false => name(device),
    };
    let mut drivers: Vec<String> =
        device.interfaces.iter().filter_map(|one| known(&one.driver)).collect();
    drivers.dedup();
    vec![
        path,
        format!("{}{what}", "  ".repeat(depth)),
        cell(&device.serial),
        device
            .speed_kbps
            .value()
            .map_or_else(|| UNKNOWN.to_owned(), |speed| in_large_units(i128::from(speed.0), 1000)),
        if drivers.is_empty() { UNKNOWN.to_owned() } else { drivers.join(", ") },
    ]
}
