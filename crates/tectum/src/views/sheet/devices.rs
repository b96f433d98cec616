//! Display devices.

use tectum_core::report::model::{Gpu, GpuDevice};

use super::{View, cell, known, text, why};
use crate::views::{page::Sheet, sizes::count};

pub(super) fn gpu(gpu: &Gpu, view: &View<'_>, page: &mut Sheet) {
    let said = page.entry("gpu");
    if let Some(gap) = gpu.devices.gap() {
        said.plain(format!("display devices: {}", why(gap)));
        return;
    }
    match gpu.devices.len() {
        0 => {
            said.plain("no display device or accelerator");
        }
        1 => {
            if let Some(device) = gpu.devices.first() {
                said.strong(name(device)).plain(driven(device));
            }
        }
        number => {
            said.plain(count(number, "device", "devices"));
            for device in gpu.devices.iter() {
                page.beside().strong(name(device)).plain(driven(device));
            }
        }
    }
    if view.drawn && !gpu.devices.is_empty() {
        page.gap();
        let rows: Vec<Vec<String>> = gpu
            .devices
            .iter()
            .map(|device| {
                let ids = match (known(&device.vendor_id), known(&device.device_id)) {
                    (Some(vendor), Some(device)) => format!("{vendor}:{device}"),
                    _ => "·".to_owned(),
                };
                vec![
                    cell(&device.address),
                    cell(&device.class),
                    ids,
                    cell(&device.subsystem_id),
                    cell(&device.revision),
                    cell(&device.driver),
                    match device.boot_display.value() {
                        Some(true) => "yes".to_owned(),
                        Some(false) => "no".to_owned(),
                        None => "·".to_owned(),
                    },
                ]
            })
            .collect();
        page.table(
            &["address", "class", "ids", "subsystem", "rev", "driver", "boot display"],
            &rows,
        );
    }
}

/// The name in the id list, or the numbers.
fn name(device: &GpuDevice) -> String {
    let part = |name: Option<String>, number: Option<String>| name.or(number);
    let vendor =
        part(known(&device.vendor), known(&device.vendor_id).map(|id| format!("vendor {id}")));
    let product =
        part(known(&device.device), known(&device.device_id).map(|id| format!("device {id}")));
    match (vendor, product) {
        (Some(vendor), Some(product)) => format!("{vendor} {product}"),
        _ => text(&device.class),
    }
}

fn driven(device: &GpuDevice) -> String {
    let driver = match known(&device.driver) {
        Some(driver) => format!("driver {driver}"),
        None => "without a driver".to_owned(),
    };
    format!(", {}, {driver}", text(&device.class))
}
