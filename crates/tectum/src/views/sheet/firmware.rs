//! The platform's firmware.

use crate::page::Page;
use std::collections::BTreeSet;

use tectum_report::{
    fact::Fact,
    model::{Firmware, FirmwareKind},
};

use super::{View, cell, joined, known, text};
use crate::views::quantity::{count, size};

pub(super) fn print(firmware: &Firmware, view: &View<'_>, page: &mut Page) {
    let kind = match firmware.kind.value() {
        Some(FirmwareKind::Uefi) => "UEFI".to_owned(),
        Some(FirmwareKind::Bios) => "BIOS".to_owned(),
        Some(FirmwareKind::OpenFirmware) => "Open Firmware".to_owned(),
        Some(FirmwareKind::DeviceTree) => "started with a device tree".to_owned(),
        None => format!("BIOS or UEFI: {}", text(&firmware.kind)),
    };
    let mut said = page.entry("firmware").strong(kind);
    if let Some(version) = known(&firmware.version) {
        let vendor = known(&firmware.vendor).map(|vendor| format!("{vendor} ")).unwrap_or_default();
        said = said.plain(format!(", {vendor}{version}"));
    }
    if let Some(date) = known(&firmware.release_date) {
        said = said.plain(format!(" of {date}"));
    }
    let _ = said;
    if view.drawn {
        let rest = joined(
            [
                known(&firmware.release).map(|release| format!("release {release}")),
                known(&firmware.controller_release)
                    .map(|release| format!("embedded controller {release}")),
                firmware
                    .rom_size_bytes
                    .value()
                    .map(|bytes| format!("ROM of {}", size(*bytes, view.units))),
                known(&firmware.language).map(|language| format!("language {language}")),
            ],
            ", ",
        );
        if !rest.is_empty() {
            page.beside().plain(rest);
        }
        // One language is the current one, and stands in the line above.
        if let Some(all) = firmware.languages.value().filter(|all| all.len() > 1) {
            let names: Vec<&str> = all.iter().map(|it| it.0.as_str()).collect();
            page.beside().quiet("languages ").plain(names.join(", "));
        }
        firmware_details(firmware, page);
    }
}

fn firmware_details(firmware: &Firmware, page: &mut Page) {
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
    for chip in firmware.tpms.iter() {
        page.beside()
            .quiet("TPM ")
            .plain(cell(&chip.major_version))
            .plain(known(&chip.description).map(|name| format!(", {name}")).unwrap_or_default())
            .quiet(format!(", the kernel's {}", cell(&chip.name)));
    }
    if let Some(line) = known(&firmware.kernel_command_line) {
        page.beside().quiet("kernel started with ").plain(line);
    }
    let mut table = |heads: &[&str], rows: Vec<Vec<String>>| {
        if !rows.is_empty() {
            page.gap();
            page.table(heads, rows);
        }
    };
    table(
        &["firmware", "version", "date", "manufacturer", "state"],
        firmware
            .inventory
            .iter()
            .map(|item| {
                vec![
                    cell(&item.name),
                    cell(&item.version),
                    cell(&item.release_date),
                    cell(&item.manufacturer),
                    cell(&item.state),
                ]
            })
            .collect(),
    );
    table(
        &["updatable", ">type", ">version", ">lowest", ">last update"],
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
    if !firmware.acpi_tables.is_empty() {
        let tables = count(firmware.acpi_tables.len(), "ACPI table", "ACPI tables");
        let makers: BTreeSet<String> =
            firmware.acpi_tables.iter().filter_map(|table| known(&table.oem_id)).collect();
        let makers = makers.into_iter().collect::<Vec<_>>().join(", ");
        let by = if makers.is_empty() { String::new() } else { format!(" made by {makers}") };
        page.beside().quiet(format!("{tables}{by}"));
    }
}
