//! PCI functions that no driver is bound to.

use crate::finding::rules::words::joined;
use crate::finding::{
    judge::{Judge, see, text},
    rule::{Rule, Severity},
};
use crate::model::DriverState;

pub(super) static RULE: Rule = Rule {
    id: "pci-function-without-driver",
    severity: Severity::Notice,
    title: "device that nothing drives",
    reads: &["pci.functions.*.driver_state", "pci.functions.*.class_id"],
    matters: "The device is there and cannot be used.",
    action: "Load the module that the finding names, or find a kernel that has one; where the device is not wanted, note that.",
    reference: "Documentation/PCI/pci.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(pci) = it.section(&it.report().inventory.pci, "/inventory/pci") else { return };
    for (at, function) in it.parts(&pci.functions, "/inventory/pci/functions") {
        let Some(state) = see!(it, &at, function.driver_state) else { continue };
        let modules = || text(&function.modules);
        let says = match state {
            DriverState::Bound => continue,
            DriverState::ModuleNotLoaded => format!("module {} is not loaded", modules()),
            DriverState::ModuleNotBound => {
                format!("module {} is loaded and does not drive it", modules())
            }
            DriverState::NoModule => {
                let Some(class) = see!(it, &at, function.class_id) else { continue };
                // Memory, bridges and the system's own parts need none.
                if ["05", "06", "08"].iter().any(|plain| class.starts_with(plain)) {
                    continue;
                }
                "no module of this kernel drives it".to_owned()
            }
        };
        let name = joined([&function.vendor, &function.device]);
        let says = if name.is_empty() { says } else { format!("{name}: {says}") };
        it.finds(function, &at, &["driver_state", "modules"], says);
    }
}
