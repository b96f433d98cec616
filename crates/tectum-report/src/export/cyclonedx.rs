//! CycloneDX 1.6 (ECMA-424) as JSON: what a machine is made of, for inventories of components.
//!
//! Hardware is a component of the type `device`, firmware `firmware`, the system and its kernels `operating-system`,
//! loaded kernel modules `device-driver`. A component's reference is the part's path; all that is known of it stands
//! in its properties, by the table's and the column's name. What depends on what follows from the references that
//! the model declares.

use std::{
    collections::{BTreeMap, HashMap},
    io::{self, Write},
};

use serde_json::{Map, Value, json};

use super::{
    Exported,
    part::{Part, parts},
    table_named,
};
use crate::{
    declare::{AnyFact, Shape, fact_named, link},
    fact::Why,
    model::Inventory,
    query::{HitValue, Path, find_all},
    report::Report,
};

/// Tables whose rows are components, the type of those, and the fields that hold a name and a version.
const COMPONENTS: &[(&str, &str, &[&str], &[&str])] = &[
    ("platform_boards", "device", &["product"], &["version"]),
    ("platform_chassis", "device", &["kind"], &["version"]),
    ("platform_power_supplies", "device", &["name", "part_number"], &["revision"]),
    ("platform_tpms", "device", &["description"], &["version"]),
    ("cpu_sockets", "device", &["version", "part_number"], &[]),
    ("memory_modules", "device", &["part_number", "kind"], &[]),
    ("memory_cxl", "device", &["name"], &[]),
    ("storage_disks", "device", &["model", "name"], &[]),
    ("storage_optical_drives", "device", &["model", "name"], &[]),
    ("storage_nvme_controllers", "device", &["model", "name"], &[]),
    ("gpu_devices", "device", &["device", "device_id"], &["revision"]),
    ("pci_functions", "device", &["device", "device_id"], &["revision"]),
    ("usb_devices", "device", &["product", "product_string", "product_id"], &["release"]),
    ("power_supplies", "device", &["model", "name"], &[]),
    ("firmware", "firmware", &["kind"], &["version"]),
    ("firmware_inventory", "firmware", &["name"], &["version"]),
    ("firmware_updatable", "firmware", &["class"], &["version"]),
    ("os", "operating-system", &["name", "pretty_name"], &["version_id", "version"]),
    ("os_installed_kernels", "operating-system", &[], &["release"]),
    ("drivers_modules", "device-driver", &["name"], &["version", "source_version"]),
];

/// What names who made a part.
const MAKERS: [&str; 3] = ["manufacturer", "vendor", "manufacturer_by_id"];

/// Parts that hold firmware of their own, by the field that tells its version.
const HOLD_FIRMWARE: [&str; 3] = ["firmware_revision", "firmware_version", "video_bios"];

/// Writes a report.
///
/// # Errors
/// What the writer says.
pub fn write(exported: Exported<'_>, tool: &str, to: &mut dyn Write) -> io::Result<()> {
    crate::json::print::to_writer(to, &document(exported, tool))
}

/// A report as CycloneDX.
pub fn document(exported: Exported<'_>, tool: &str) -> Value {
    let report = exported.report;
    let parts = parts(report);
    let mut components = Vec::new();
    let mut by_pointer: HashMap<&str, &str> = HashMap::new();
    for part in &parts {
        let table = part.table();
        let Some((_, kind, names, versions)) =
            COMPONENTS.iter().find(|(name, ..)| *name == table.name)
        else {
            continue;
        };
        if is_empty_socket(part) {
            continue;
        }
        by_pointer.insert(&part.at, &part.path);
        components.push(component(part, kind, names, versions));
    }
    let (name, version) = tool.split_once(' ').unwrap_or((tool, ""));
    let mut bill = json!({
        "$schema": "http://cyclonedx.org/schema/bom-1.6.schema.json",
        "bomFormat": "CycloneDX",
        "specVersion": "1.6",
        "serialNumber": format!("urn:uuid:{}", uuid_of(&report.inventory_digest())),
        "version": 1,
        "metadata": {
            "timestamp": report.taken.at.to_string(),
            "tools": { "components": [
                { "type": "application", "name": name, "version": version },
            ] },
            "component": machine(&exported, parts.first()),
        },
        "components": components,
        "dependencies": dependencies(&exported, &by_pointer),
    });
    if lacks_parts(report)
        && let Some(bill) = bill.as_object_mut()
    {
        let machine = json!({ "aggregate": "incomplete", "assemblies": [MACHINE] });
        bill.insert("compositions".into(), json!([machine]));
    }
    bill
}

/// Whether parts may be there that are no components, as nobody could see them: a list of them is not known, or not
/// whole, or its section is not there.
fn lacks_parts(report: &Report) -> bool {
    let tables = COMPONENTS.iter().filter_map(|(name, ..)| table_named(name));
    let paths = tables.filter(|table| table.listed).filter_map(|table| {
        let path: Path = table.path.parse().ok()?;
        Some(path)
    });
    let hidden = |path: Path| {
        let found = find_all(report, &path);
        let missing = found.hits.iter().any(|hit| match hit.value {
            HitValue::MissingList(gap) => gap.why != Why::NotApplicable,
            _ => false,
        });
        missing || !found.hidden.is_empty() || path.not_surveyed(report).is_some()
    };
    paths.into_iter().any(hidden)
}

/// Which machine it is.
fn machine(exported: &Exported<'_>, part: Option<&Part<'_>>) -> Value {
    let mut own = Map::new();
    own.insert("type".into(), "device".into());
    own.insert("bom-ref".into(), MACHINE.into());
    own.insert("name".into(), exported.host.into());
    if let Some(platform) = &exported.report.inventory.platform {
        let system = &platform.system;
        if let Some(maker) = system.manufacturer.value() {
            own.insert("manufacturer".into(), json!({ "name": maker.to_string() }));
        }
        if let Some(product) = system.product.value() {
            own.insert("description".into(), product.to_string().into());
        }
    }
    if let Some(part) = part {
        own.insert("properties".into(), properties(part));
    }
    Value::Object(own)
}

/// The reference to the machine.
const MACHINE: &str = "machine";

/// A socket that the firmware knows and nothing sits in is no component.
fn is_empty_socket(part: &Part<'_>) -> bool {
    fact_named(part.record, "state").and_then(AnyFact::text).as_deref() == Some("empty")
}

fn component(part: &Part<'_>, kind: &str, names: &[&str], versions: &[&str]) -> Value {
    let text = |name: &&str| fact_named(part.record, name)?.text().filter(|text| !text.is_empty());
    let mut own = Map::new();
    own.insert("type".into(), kind.into());
    own.insert("bom-ref".into(), part.path.clone().into());
    let maker = MAKERS.iter().find_map(text);
    if let Some(maker) = &maker {
        own.insert("manufacturer".into(), json!({ "name": maker }));
    }
    // A part that says no name of its own is called as its kind is.
    let name = names.iter().find_map(text);
    own.insert("name".into(), name.unwrap_or_else(|| part.table().shape.noun.to_owned()).into());
    if let Some(version) = versions.iter().find_map(text) {
        own.insert("version".into(), version.into());
    }
    own.insert("description".into(), crate::compare::label(part.record).into());
    own.insert("properties".into(), properties(part));
    let inner = HOLD_FIRMWARE.iter().find_map(|name| Some((*name, text(name)?)));
    if let Some((field, version)) = inner {
        let mut firmware = Map::new();
        firmware.insert("type".into(), "firmware".into());
        firmware.insert("bom-ref".into(), format!("{}.{field}", part.path).into());
        if let Some(maker) = maker {
            firmware.insert("manufacturer".into(), json!({ "name": maker }));
        }
        firmware.insert("name".into(), field.replace('_', " ").into());
        firmware.insert("version".into(), version.into());
        own.insert("components".into(), json!([firmware]));
    }
    Value::Object(own)
}

/// All that is known of a part.
fn properties(part: &Part<'_>) -> Value {
    let table = &part.table().name;
    let known = part.values().filter_map(|(column, fact)| {
        let text = fact?.text()?;
        Some(json!({ "name": format!("tectum:{table}:{}", column.name), "value": text }))
    });
    known.collect()
}

/// What refers to what.
fn dependencies(exported: &Exported<'_>, by_pointer: &HashMap<&str, &str>) -> Value {
    let inventory: &Inventory = &exported.report.inventory;
    let mut all = link::Parts::of(inventory, "/inventory");
    let shapes: Vec<&'static Shape> = all.lists.iter().map(|list| list.shape).collect();
    all.index(shapes.into_iter());
    let mut on: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
    let mut of_machine: Vec<&str> = by_pointer.values().copied().collect();
    of_machine.sort_unstable();
    for part in &all.parts {
        let Some(own) = by_pointer.get(part.at.as_str()) else { continue };
        let references = part.record.shape().references.iter();
        let named = references.filter_map(|one| all.references(part.record, one.field)).flatten();
        for id in named.filter_map(|(_, id)| id) {
            let Some(target) = all.parts.get(id).and_then(|it| by_pointer.get(it.at.as_str()))
            else {
                continue;
            };
            let targets = on.entry(own).or_default();
            if target != own && !targets.contains(target) {
                targets.push(target);
            }
        }
    }
    let mut list = vec![json!({ "ref": MACHINE, "dependsOn": of_machine })];
    for (own, targets) in on.into_iter().filter(|(_, targets)| !targets.is_empty()) {
        list.push(json!({ "ref": own, "dependsOn": targets }));
    }
    Value::Array(list)
}

/// A UUID that follows from a digest (RFC 9562, version 8): the same machine state has the same one.
fn uuid_of(digest: &str) -> String {
    let hex: Vec<char> = digest
        .chars()
        .rev()
        .filter(char::is_ascii_hexdigit)
        .take(32)
        .map(|it| it.to_ascii_lowercase())
        .collect();
    let mut text = String::with_capacity(36);
    for (at, digit) in hex.into_iter().enumerate() {
        if matches!(at, 8 | 12 | 16 | 20) {
            text.push('-');
        }
        text.push(match at {
            12 => '8',
            16 => '8',
            _ => digit,
        });
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::export::table_named;

    #[test]
    fn every_table_and_field_of_a_component_is_declared() {
        for (name, _, names, versions) in COMPONENTS {
            let table = table_named(name).unwrap_or_else(|| panic!("{name}"));
            for field in names.iter().chain(*versions) {
                assert!(table.shape.index_of(field).is_some(), "{name}.{field}");
            }
        }
    }

    #[test]
    fn an_id_follows_from_the_digest() {
        let digest = format!("sha256:{}", "0123456789abcdef".repeat(4));
        assert_eq!(uuid_of(&digest), "fedcba98-7654-8210-8edc-ba9876543210");
    }
}
