//! Platform, firmware and operating system: who the machine is.

use tectum_core::report::{
    fact::Fact,
    kinds::{Leaf, Serial, Text},
    model::{Firmware, FirmwareKind, Os, Platform},
};

use super::{View, cell, joined, known, text, why};
use crate::views::{page::Sheet, sizes::size};

pub(super) fn platform(platform: &Platform, view: &View<'_>, page: &mut Sheet) {
    let system = &platform.system;
    let tree = platform.device_tree.as_ref();
    let mut said = page.entry("machine");
    match (known(&system.product), tree.and_then(|tree| known(&tree.model))) {
        (Some(product), _) => {
            said = said.strong(product);
            if let Some(maker) = known(&system.manufacturer) {
                said = said.plain(format!(" by {maker}"));
            }
            if let Some(version) = known(&system.version) {
                said = said.plain(format!(", {version}"));
            }
        }
        (None, Some(model)) => said = said.strong(model).plain(" by its device tree"),
        (None, None) => {
            let gap = system.product.missing().map(why).unwrap_or_default();
            said = said.plain(format!("maker and product {gap}"));
        }
    }
    let _ = said;
    serial_line(&system.serial, "serial", page);
    if !view.drawn {
        return;
    }
    if let Some(uuid) = known(&system.uuid) {
        page.beside().quiet("UUID ").plain(uuid);
    }
    let extra = joined(
        [
            known(&system.family).map(|family| format!("family {family}")),
            known(&system.sku).map(|sku| format!("SKU {sku}")),
        ],
        ", ",
    );
    if !extra.is_empty() {
        page.beside().plain(extra);
    }
    let mut rows = Vec::new();
    for board in platform.boards.iter() {
        rows.push(vec![
            "board".to_owned(),
            joined([known(&board.manufacturer), known(&board.product)], " "),
            cell(&board.serial),
            cell(&board.asset_tag),
            cell(&board.location),
        ]);
    }
    for chassis in platform.chassis.iter() {
        rows.push(vec![
            "chassis".to_owned(),
            joined([known(&chassis.manufacturer), known(&chassis.kind)], " "),
            cell(&chassis.serial),
            cell(&chassis.asset_tag),
            joined([chassis.height_units.value().map(|units| format!("{units} U"))], ""),
        ]);
    }
    if !rows.is_empty() {
        page.gap();
        page.table(&["part", "what", "serial", "asset tag", "where"], &rows);
    }
    firmware_parts(platform, page);
    if let Some(tree) = tree {
        page.beside().quiet("compatible with ").plain(text(&tree.compatible));
    }
}

/// What only the firmware's tables tell of.
fn firmware_parts(platform: &Platform, page: &mut Sheet) {
    let mut table = |heads: &[&str], rows: Vec<Vec<String>>| {
        if !rows.is_empty() {
            page.gap();
            page.table(heads, &rows);
        }
    };
    table(
        &["slot", "kind", "use", "address", "driver"],
        platform
            .slots
            .iter()
            .map(|slot| {
                vec![
                    cell(&slot.designation),
                    cell(&slot.kind),
                    cell(&slot.usage),
                    cell(&slot.pci_address),
                    cell(&slot.driver),
                ]
            })
            .collect(),
    );
    table(
        &["power supply", "name", ">watts", "part", "serial", "state"],
        platform
            .power_supplies
            .iter()
            .map(|supply| {
                let state = match supply.present.value() {
                    Some(false) => "not there".to_owned(),
                    _ => cell(&supply.status),
                };
                vec![
                    cell(&supply.location),
                    joined([known(&supply.manufacturer), known(&supply.name)], " "),
                    cell(&supply.maximum_watts),
                    cell(&supply.part_number),
                    cell(&supply.serial),
                    state,
                ]
            })
            .collect(),
    );
    table(
        &["on the board", "kind", "enabled", "address"],
        platform
            .onboard_devices
            .iter()
            .map(|device| {
                vec![
                    cell(&device.designation),
                    cell(&device.kind),
                    cell(&device.enabled),
                    cell(&device.pci_address),
                ]
            })
            .collect(),
    );
    table(
        &["port", "outside", "connector", "for"],
        platform
            .ports
            .iter()
            .map(|port| {
                vec![
                    cell(&port.internal),
                    cell(&port.external),
                    cell(&port.connector),
                    cell(&port.kind),
                ]
            })
            .collect(),
    );
    for controller in platform.management.controllers.iter() {
        page.gap();
        page.beside()
            .quiet("management controller ")
            .plain(cell(&controller.interface))
            .quiet(", IPMI ")
            .plain(cell(&controller.ipmi_version))
            .quiet(" at ")
            .plain(cell(&controller.address));
    }
    for tpm in platform.tpms.iter() {
        page.beside()
            .quiet("TPM ")
            .plain(cell(&tpm.version))
            .quiet(" by ")
            .plain(cell(&tpm.vendor));
    }
    if let Some(status) = known(&platform.boot_status) {
        page.beside().quiet("last boot ").plain(status);
    }
    for string in platform.oem_strings.iter() {
        page.beside().quiet("the maker says ").plain(cell(&string.text));
    }
}

fn serial_line(serial: &Fact<Serial>, label: &str, page: &mut Sheet) {
    match serial.value() {
        Some(serial) => {
            page.beside().quiet(format!("{label} ")).plain(&**serial);
        }
        None => {
            if let Some(gap) = serial.missing() {
                page.beside().quiet(format!("{label} number: {}", why(gap)));
            }
        }
    }
}

pub(super) fn firmware(firmware: &Firmware, view: &View<'_>, page: &mut Sheet) {
    let kind = match firmware.kind.value() {
        Some(FirmwareKind::Uefi) => "UEFI".to_owned(),
        Some(FirmwareKind::Bios) => "BIOS".to_owned(),
        Some(FirmwareKind::DeviceTree) => "started with a device tree".to_owned(),
        None => format!("BIOS or UEFI: {}", text(&firmware.kind)),
    };
    let mut said = page.entry("firmware").strong(kind);
    if let Some(version) = known(&firmware.version) {
        let vendor = known(&firmware.vendor).map(|vendor| format!("{vendor} ")).unwrap_or_default();
        said = said.plain(format!(", {vendor}{version}"));
    }
    if let Some(date) = known(&firmware.date) {
        said = said.plain(format!(" of {date}"));
    }
    let _ = said;
    if view.drawn {
        let rest = joined(
            [
                known(&firmware.release).map(|release| format!("release {release}")),
                firmware
                    .rom_size_bytes
                    .value()
                    .map(|bytes| format!("ROM of {}", size(*bytes, view.units))),
            ],
            ", ",
        );
        if !rest.is_empty() {
            page.beside().plain(rest);
        }
        firmware_details(firmware, view, page);
    }
}

fn firmware_details(firmware: &Firmware, view: &View<'_>, page: &mut Sheet) {
    let state = |fact: &Fact<bool>, on: &str, off: &str| match fact.value() {
        Some(true) => Some(on.to_owned()),
        Some(false) => Some(off.to_owned()),
        None => None,
    };
    let boot = joined(
        [
            state(&firmware.secure_boot, "Secure Boot is on", "Secure Boot is off"),
            state(&firmware.setup_mode, "in setup mode", "not in setup mode"),
        ],
        ", ",
    );
    if !boot.is_empty() {
        page.beside().plain(boot);
    }
    if let Some(line) = known(&firmware.kernel_command_line) {
        page.beside().quiet("kernel started with ").plain(line);
    }
    let mut table = |heads: &[&str], rows: Vec<Vec<String>>| {
        if !rows.is_empty() {
            page.gap();
            page.table(heads, &rows);
        }
    };
    table(
        &["firmware", "version", "date", "maker", "state"],
        firmware
            .inventory
            .iter()
            .map(|item| {
                vec![
                    cell(&item.name),
                    cell(&item.version),
                    cell(&item.date),
                    cell(&item.manufacturer),
                    cell(&item.state),
                ]
            })
            .collect(),
    );
    table(
        &["updatable", ">kind", ">version", ">lowest", ">last status"],
        firmware
            .updatable
            .iter()
            .map(|entry| {
                vec![
                    cell(&entry.class),
                    cell(&entry.kind),
                    cell(&entry.version),
                    cell(&entry.lowest_version),
                    cell(&entry.last_attempt_status),
                ]
            })
            .collect(),
    );
    table(
        &["ACPI table", ">length", ">revision", "made by", "called"],
        firmware
            .acpi_tables
            .iter()
            .map(|acpi| {
                vec![
                    cell(&acpi.name),
                    acpi.length_bytes.value().map_or("·".into(), |bytes| size(*bytes, view.units)),
                    cell(&acpi.revision),
                    cell(&acpi.oem_id),
                    cell(&acpi.oem_table_id),
                ]
            })
            .collect(),
    );
}

pub(super) fn os(os: &Os, view: &View<'_>, page: &mut Sheet) {
    let name = known(&os.pretty_name)
        .or_else(|| known(&os.name))
        .unwrap_or_else(|| format!("operating system {}", text(&os.pretty_name)));
    let kernel = joined([known(&os.kernel_name), known(&os.kernel_release)], " ");
    let kernel = if kernel.is_empty() { "kernel not known".to_owned() } else { kernel };
    let on = known(&os.architecture).map(|architecture| format!(" on {architecture}"));
    page.entry("system").strong(name).plain(format!(", {kernel}{}", on.unwrap_or_default()));
    let readings = view.report.readings.os.as_ref();
    if let Some(up) = readings.and_then(|times| times.uptime_seconds.value()) {
        let since = readings.and_then(|times| known(&times.booted_at));
        let since =
            since.map(|at| format!(", since {}", at.replace('T', " ").replace('Z', " UTC")));
        page.beside().quiet(format!("up {}{}", span(*up), since.unwrap_or_default()));
    }
    if !view.drawn {
        return;
    }
    page.beside().quiet("kernel build ").plain(text(&os.kernel_version));
    page.beside().quiet("machine id ").plain(text(&os.machine_id));
    let mut rows = Vec::new();
    let mut row = |label: &str, fact: &Fact<Text>| {
        if let Some(value) = known(fact) {
            rows.push(vec![label.to_owned(), value]);
        }
    };
    row("version", &os.version);
    row("code name", &os.codename);
    row("edition", &os.variant);
    row("build", &os.build_id);
    row("support ends", &os.support_end);
    row("home page", &os.home_url);
    row("help", &os.support_url);
    row("defects", &os.bug_report_url);
    if let Some(names) = os.compatible_with.value() {
        rows.push(vec!["compatible with".to_owned(), names.to_text()]);
    }
    for field in os.other_fields.iter() {
        rows.push(vec![cell(&field.key), cell(&field.value)]);
    }
    if !rows.is_empty() {
        page.gap();
        page.table(&["release", ""], &rows);
    }
}

/// A time span in its two largest units.
fn span(seconds: u64) -> String {
    let (days, hours, minutes) = (seconds / 86_400, seconds / 3600 % 24, seconds / 60 % 60);
    match (days, hours) {
        (0, 0) => format!("{minutes} min"),
        (0, _) => format!("{hours} h {minutes} min"),
        _ => format!("{days} d {hours} h"),
    }
}
