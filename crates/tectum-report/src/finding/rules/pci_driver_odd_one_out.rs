//! PCI functions of one kind of which one is driven by another driver.

use std::collections::BTreeMap;

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::model::PciFunction;

pub(super) static RULE: Rule = Rule {
    id: "pci-driver-odd-one-out",
    severity: Severity::Notice,
    title: "device with another driver than its like",
    reads: &["pci.functions.*.driver", "pci.functions.*.vendor_id", "pci.functions.*.device_id"],
    matters: "Devices of one kind that are driven differently behave differently: one may be given to a virtual machine, or bound by mistake.",
    action: "Compare with what this machine is for; bind the device as its like, or note why not.",
    reference: "Documentation/driver-api/driver-model/binding.rst",
    judge,
};

/// A function and what drives it.
struct Bound<'a> {
    at: String,
    function: &'a PciFunction,
    driver: &'a str,
}

fn judge(it: &mut Judge<'_>) {
    let Some(pci) = it.section(&it.report().inventory.pci, "/inventory/pci") else { return };
    let mut alike: BTreeMap<(&str, &str), Vec<Bound<'_>>> = BTreeMap::new();
    for (at, function) in it.parts(&pci.functions, "/inventory/pci/functions") {
        let vendor = see!(it, &at, function.vendor_id);
        let device = see!(it, &at, function.device_id);
        let driver = see!(it, &at, function.driver);
        if let (Some(vendor), Some(device), Some(driver)) = (vendor, device, driver) {
            alike.entry((vendor, device)).or_default().push(Bound { at, function, driver });
        }
    }
    for all in alike.into_values() {
        let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
        for one in &all {
            *counts.entry(one.driver).or_default() += 1;
        }
        let Some((usual, most)) = counts.iter().max_by_key(|(_, count)| **count) else { continue };
        for one in all.iter().filter(|one| counts.get(one.driver) < Some(most)) {
            let says = format!("driven by {}, {most} of its kind by {usual}", one.driver);
            it.finds(one.function, &one.at, &["driver"], says);
        }
    }
}
