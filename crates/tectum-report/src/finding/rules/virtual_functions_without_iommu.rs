//! Functions that have virtual functions and no IOMMU to hold those apart.

use crate::fact::Why;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "virtual-functions-without-iommu",
    severity: Severity::Warning,
    title: "virtual functions without an IOMMU",
    reads: &["pci.functions.*.virtual_functions", "pci.functions.*.iommu_group"],
    matters: "A virtual machine that is given such a function can reach all memory of its host.",
    action: "Turn the IOMMU on in the firmware and on the kernel command line (intel_iommu=on or amd_iommu=on).",
    reference: "Documentation/PCI/pci-iov-howto.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(pci) = it.section(&it.report().inventory.pci, "/inventory/pci") else { return };
    for (at, function) in it.parts(&pci.functions, "/inventory/pci/functions") {
        // Most functions cannot have any: that file is not there.
        let Some(count) = function.virtual_functions.value().filter(|count| **count > 0) else {
            let hidden = function.virtual_functions.missing();
            if let Some(gap) = hidden.filter(|gap| gap.why != Why::NotProvided) {
                it.gap(&at, "virtual_functions", gap);
            }
            continue;
        };
        if function.iommu_group.missing().is_some_and(|gap| gap.why == Why::NotProvided) {
            let says = format!("{count} virtual functions, and no IOMMU group");
            it.finds(function, &at, &["virtual_functions"], says);
        } else {
            see!(it, &at, function.iommu_group);
        }
    }
}
