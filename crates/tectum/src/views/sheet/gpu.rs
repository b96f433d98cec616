//! Display devices, and the displays that are plugged in.

use crate::page::Page;
use tectum_report::model::{Connector, Display, Gpu, GpuDevice};

use super::{
    View,
    alike::{alike, names},
    cell, joined, known, link_words, text, why,
};
use crate::views::quantity::{count, size};

pub(super) fn print(gpu: &Gpu, view: &View<'_>, page: &mut Page) {
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
                shown_on(device, view, page);
            }
        }
        number => {
            said.plain(count(number, "device", "devices"));
            for (number, group) in (1..).zip(alike(gpu.devices.iter(), likeness)) {
                let Some(first) = group.first() else { continue };
                let said = match group.len() {
                    1 => page.beside().quiet(format!("{number} ")),
                    several => page.beside().strong(format!("{several} × ")),
                };
                let said = said.strong(name(first)).plain(driven(first));
                if group.len() > 1 {
                    said.quiet(format!(": {}", names(&group, |it| cell(&it.address))));
                }
                shown_on(first, view, page);
            }
        }
    }
    if view.drawn {
        for device in gpu.devices.iter() {
            more(device, view, page);
        }
    }
}

/// What devices that are told together have in common; one with a display stands alone.
fn likeness(device: &GpuDevice) -> Option<String> {
    let shows = device.connectors.iter().any(|connector| !connector.display.is_empty());
    (!shows).then(|| format!("{}{}", name(device), driven(device)))
}

/// Numbers of vendor and device, and of the subsystem.
fn ids(device: &GpuDevice) -> Option<String> {
    let own = format!("{}:{}", known(&device.vendor_id)?, known(&device.device_id)?);
    Some(match known(&device.subsystem_id) {
        Some(subsystem) => format!("ids {own} of {subsystem}"),
        None => format!("ids {own}"),
    })
}

/// The displays that are plugged in.
fn shown_on(device: &GpuDevice, view: &View<'_>, page: &mut Page) {
    for connector in device.connectors.iter() {
        for display in connector.display.iter() {
            let told = match view.drawn {
                true => monitor(display),
                false => monitor_in_brief(display),
            };
            page.beside().quiet(format!("{}: {told}", cell(&connector.name)));
        }
    }
}

fn monitor_in_brief(display: &Display) -> String {
    let name = joined([known(&display.maker_id), known(&display.name)], " ");
    joined([Some(name), known(&display.serial).map(|serial| format!("serial {serial}"))], ", ")
}

fn monitor(display: &Display) -> String {
    let name = joined([known(&display.maker_id), known(&display.name)], " ");
    let size = display.width_cm.value().zip(display.height_cm.value());
    joined(
        [
            Some(name),
            known(&display.serial).map(|serial| format!("serial {serial}")),
            known(&display.preferred_mode),
            size.map(|(width, height)| format!("{width} × {height} cm")),
            known(&display.manufacture_date).map(|made| format!("made {made}")),
        ],
        ", ",
    )
}

/// What only some devices have: memory, video BIOS, link, ids, warmth, connectors.
fn more(device: &GpuDevice, view: &View<'_>, page: &mut Page) {
    let readings = view.readings.gpus.of(&[device]);
    let now = readings.and_then(|now| link_words(&now.link_speed_mts, &now.link_lanes));
    let best = link_words(&device.max_link_speed_mts, &device.max_link_lanes);
    let link = match (now, best) {
        (Some(now), Some(best)) if now != best => Some(format!("link {now} of {best}")),
        (Some(now), _) => Some(format!("link {now}")),
        (None, best) => best.map(|best| format!("link {best} at best")),
    };
    let told = joined(
        [
            ids(device),
            known(&device.revision).map(|revision| format!("revision {revision}")),
            (device.boot_display.value() == Some(&true)).then(|| "showed the boot".to_owned()),
            known(&device.model),
            device
                .memory_bytes
                .value()
                .map(|bytes| format!("{} of its own", size(*bytes, view.units))),
            known(&device.video_bios).map(|version| format!("video BIOS {version}")),
            known(&device.driver_version).map(|version| format!("driver version {version}")),
            link,
            known(&device.serial).map(|serial| format!("serial {serial}")),
            known(&device.unique_id).map(|id| format!("id {id}")),
            known(&device.uuid),
            known(&device.numa_node).map(|node| format!("NUMA node {node}")),
            (device.made_by_hypervisor.value() == Some(&true))
                .then(|| "made by a hypervisor".to_owned()),
            readings
                .and_then(|now| now.temperature_millicelsius.value().copied())
                .map(|milli| format!("{} °C", milli.0 / 1000)),
            readings
                .and_then(|now| now.power_microwatts.value().copied())
                .map(|micro| format!("{} W", micro.0 / 1_000_000)),
            readings.and_then(|now| known(&now.fan_rpm)).map(|rpm| format!("fan {rpm} rpm")),
            readings
                .and_then(|now| known(&now.retired_pages))
                .map(|pages| format!("pages of memory out of use: {pages}")),
        ],
        ", ",
    );
    let free: Vec<String> = device
        .connectors
        .iter()
        .filter(|connector: &&Connector| connector.display.is_empty())
        .map(|connector| format!("{} {}", cell(&connector.name), cell(&connector.status)))
        .collect();
    if told.is_empty() && free.is_empty() {
        return;
    }
    page.gap();
    page.beside().strong(cell(&device.address)).quiet(format!("  {told}"));
    if !free.is_empty() {
        page.beside().quiet(free.join(", "));
    }
    for block in readings.iter().flat_map(|now| now.error_counts.iter()) {
        page.beside().quiet(format!(
            "block {}: errors corrected: {}, not corrected: {}",
            cell(&block.block),
            cell(&block.corrected),
            cell(&block.uncorrected)
        ));
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

/// What it is, where that is not its name, and what drives it.
fn driven(device: &GpuDevice) -> String {
    let class = text(&device.class);
    let class = if class == name(device) { String::new() } else { format!(", {class}") };
    let driver = match known(&device.driver) {
        Some(driver) => format!("driver {driver}"),
        None => "without a driver".to_owned(),
    };
    format!("{class}, {driver}")
}
