//! The machine as it is sold and built.

use crate::page::{Page, UNKNOWN};
use tectum_report::{
    fact::Fact,
    leaf::Serial,
    model::{Platform, RunsIn, Virtualization},
};

use super::{View, cell, joined, known, text, why};
use crate::views::quantity::count;

pub(super) fn print(platform: &Platform, view: &View<'_>, page: &mut Page) {
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
    let partition = joined(
        [
            system.partition_number.value().map(|number| format!("number {number}")),
            known(&system.partition_name),
        ],
        ", ",
    );
    if !partition.is_empty() {
        page.beside().quiet("partition ").plain(partition);
    }
    virtualization(&platform.virtualization, view, page);
    view.odd("platform", page);
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
            joined(
                [
                    known(&chassis.manufacturer),
                    known(&chassis.kind),
                    chassis.height_rack_units.value().map(|units| format!("of {units} U")),
                ],
                " ",
            ),
            cell(&chassis.serial),
            cell(&chassis.asset_tag),
            String::new(),
        ]);
    }
    if !rows.is_empty() {
        page.gap();
        page.table(&["part", "model", "=serial", "asset tag", "location"], rows);
    }
    firmware_parts(platform, page);
    if let Some(tree) = tree {
        let (label, told) = match tree.compatible.missing() {
            Some(gap) => ("device tree: ", why(gap)),
            None => ("compatible with ", text(&tree.compatible)),
        };
        page.beside().quiet(label).plain(told);
    }
}

/// What only the firmware's tables tell of.
fn firmware_parts(platform: &Platform, page: &mut Page) {
    let mut table = |heads: &[&str], rows: Vec<Vec<String>>| {
        if !rows.is_empty() {
            page.gap();
            page.table(heads, rows);
        }
    };
    table(
        &["slot", "type", "usage", "address", "driver"],
        platform
            .slots
            .iter()
            .map(|slot| {
                vec![
                    cell(&slot.designation),
                    cell(&slot.kind),
                    known(&slot.device).unwrap_or_else(|| cell(&slot.usage).to_lowercase()),
                    cell(&slot.pci_address),
                    cell(&slot.driver),
                ]
            })
            .collect(),
    );
    table(
        &["power supply", "model", ">watts", "part number", "=serial", "status"],
        platform
            .power_supplies
            .iter()
            .map(|supply| {
                let state = match supply.present.value() {
                    Some(false) => "not there".to_owned(),
                    // What is not plugged in is not well, whatever its state.
                    _ if supply.plugged_in.value() == Some(&false) => {
                        format!("not plugged in, {}", cell(&supply.status))
                    }
                    _ => cell(&supply.status),
                };
                vec![
                    cell(&supply.location),
                    joined([known(&supply.manufacturer), known(&supply.name)], " "),
                    cell(&supply.max_watts),
                    cell(&supply.part_number),
                    cell(&supply.serial),
                    state,
                ]
            })
            .collect(),
    );
    table(
        &["fan", "type", ">nominal", "temperature probe"],
        platform
            .cooling_devices
            .iter()
            .map(|fan| {
                vec![
                    cell(&fan.description),
                    cell(&fan.kind),
                    fan.nominal_rpm.value().map_or(UNKNOWN.into(), |rpm| format!("{rpm} rpm")),
                    cell(&fan.watched_by),
                ]
            })
            .collect(),
    );
    page.gap();
    let there = [
        (platform.onboard_devices.len(), "device on the board", "devices on the board"),
        (platform.ports.len(), "connector", "connectors"),
        (platform.probes.voltage.len(), "voltage probe", "voltage probes"),
        (platform.probes.temperature.len(), "temperature probe", "temperature probes"),
        (platform.batteries.len(), "battery", "batteries"),
    ];
    let there: Vec<String> = there
        .into_iter()
        .filter(|(number, ..)| *number > 0)
        .map(|(number, one, many)| count(number, one, many))
        .collect();
    if !there.is_empty() {
        page.beside().quiet(format!("also {}; all of it at full detail", there.join(", ")));
    }
    for controller in platform.management.controllers.iter() {
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
    let strings: Vec<String> =
        platform.oem_strings.iter().filter_map(|string| known(&string.text)).collect();
    for string in strings {
        page.beside().quiet("OEM string ").plain(string);
    }
}

fn serial_line(serial: &Fact<Serial>, label: &str, page: &mut Page) {
    match serial.value() {
        Some(serial) => {
            page.beside().quiet(format!("{label} ")).identity(&**serial);
        }
        None => {
            if let Some(gap) = serial.missing() {
                page.beside().quiet(format!("{label} number: {}", why(gap)));
            }
        }
    }
}

/// Whether the machine is virtual, and by which signs that is known.
fn virtualization(virtualization: &Virtualization, view: &View<'_>, page: &mut Page) {
    let what = match virtualization.runs_in.value() {
        Some(RunsIn::VirtualMachine) => "a virtual machine",
        Some(RunsIn::Container) => "a container",
        Some(RunsIn::ContainerInVirtualMachine) => "a container on a virtual machine",
        Some(RunsIn::ControlDomain) => "the domain that controls a hypervisor",
        Some(RunsIn::Unclear) => "perhaps virtual or a container, perhaps neither",
        // The processor's line says that there is no sign.
        Some(RunsIn::NoSign) | None => return,
    };
    let mut said = page.beside().strong(what);
    if let Some(names) = known(&virtualization.technologies) {
        said = said.plain(format!(": {names}"));
    }
    let told = |decisive: bool| -> Option<String> {
        let own = virtualization.signs.iter().filter(|it| it.decisive.value() == Some(&decisive));
        let own: Vec<String> =
            own.map(|sign| format!("{} ({})", cell(&sign.sign), cell(&sign.says))).collect();
        (!own.is_empty()).then(|| own.join(", "))
    };
    let unclear = virtualization.runs_in.value() == Some(&RunsIn::Unclear);
    if let Some(signs) = told(true).filter(|_| view.drawn) {
        said = said.quiet(format!(", known by {signs}"));
    }
    if let Some(signs) = told(false).filter(|_| view.drawn || unclear) {
        said = said.quiet(format!("; no proof by themselves: {signs}"));
    }
    let _ = said;
}
