//! Where a function sits: the kernel's slots, the firmware's slots and devices on the board (SMBIOS
//! types 9 and 41), the bridge above it.

use std::{collections::BTreeMap, sync::Arc};

use tectum_smbios::types::{OnboardDeviceExtended, SystemSlot};

use super::pci_function::FUNCTIONS;
use crate::{
    readers::{
        devices::{DevicePath, is_pci_address},
        dmi::Tables,
        file::{File, list, watched},
    },
    source::Lease,
};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::Term,
};

const SLOTS: &str = "/sys/bus/pci/slots";

/// What is known of slots, by address.
pub(crate) struct Places {
    /// The kernel's slots by the address without a function.
    slots: Result<BTreeMap<String, Fact<Term>>, Gap>,
    /// The firmware's labels by address.
    labels: Result<BTreeMap<String, Fact<Term>>, Gap>,
    /// Where the firmware's tables are.
    tables: Arc<str>,
}

impl Places {
    pub(crate) fn read(lease: &Lease) -> Self {
        let (slots, hidden) = watched(lease, |lease| {
            list(lease, SLOTS).map(|names| {
                let names = names.iter().filter_map(|name| name.to_str());
                names
                    .map(|name| {
                        let file = File::read(lease, format!("{SLOTS}/{name}/address"));
                        let fact = file.fact(
                            saying!("slot-whose-address", "the slot whose address it is"),
                            |_| Some(Term::from(name)),
                        );
                        (file.text().trim().to_owned(), fact)
                    })
                    .collect()
            })
        });
        let slots = hidden.map_or(slots, Err);
        let tables = Tables::read(lease);
        let labels = match tables.gap() {
            Some(gap) => Err(gap),
            None => {
                let mut labels = BTreeMap::new();
                for slot in tables.all(SystemSlot::from_structure) {
                    if let Some(address) = slot.pci_address() {
                        labels.insert(address.value, tables.text(slot.designation()));
                    }
                }
                for device in tables.all(OnboardDeviceExtended::from_structure) {
                    if let Some(address) = device.pci_address() {
                        labels.insert(address.value, tables.text(device.reference_designation()));
                    }
                }
                Ok(labels)
            }
        };
        Self { slots, labels, tables: tables.path() }
    }

    pub(crate) fn slot(&self, address: &str) -> Fact<Term> {
        let slots = match &self.slots {
            Ok(slots) => slots,
            Err(gap) => return Fact::gap(gap.clone()),
        };
        let device = address.rsplit_once('.').map_or(address, |(device, _)| device);
        slots.get(device).cloned().unwrap_or_else(|| {
            Fact::gap(
                Gap::new(Why::NotProvided)
                    .tried(SLOTS.into(), saying!("no-slot-address", "no slot has its address")),
            )
        })
    }

    /// What the kernel took over from the firmware for the function, or what the tables say.
    pub(crate) fn label(&self, address: &str, kernels: &File) -> Fact<Term> {
        kernels.text_fact::<Term>().or_known(|| match &self.labels {
            Err(gap) => Fact::gap(gap.clone()),
            Ok(labels) => labels.get(address).cloned().unwrap_or_else(|| {
                Fact::gap(Gap::new(Why::NotProvided).tried(
                    Arc::clone(&self.tables),
                    saying!(
                        "no-slot-no-device-board",
                        "no slot and no device on the board has its address",
                    ),
                ))
            }),
        })
    }
}

/// The address of the bridge above a function.
pub(crate) fn bridge(lease: &Lease, folder: &str, address: &str) -> Fact<Term> {
    let path = match DevicePath::follow(lease, folder) {
        Ok(path) => path,
        Err(gap) => return Fact::gap(gap),
    };
    let above = path.parts.iter().rev().skip_while(|part| part.as_str() != address).nth(1);
    match above.filter(|part| is_pci_address(part)) {
        Some(bridge) => path.fact(
            folder,
            saying!("function-above-way", "the function above it on the way"),
            Some(bridge.clone()),
        ),
        None => Fact::not_applicable(
            saying!("hangs-root-bus-see", "it hangs on a root bus; see {}")
                .with(FUNCTIONS.to_string()),
        ),
    }
}
