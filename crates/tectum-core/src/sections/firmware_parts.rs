//! Parts of the machine that only the firmware's tables tell of.

use tectum_smbios::types::{
    BootInformation, IpmiAddress, IpmiDevice, OemStrings, OnBoardDevices, OnboardDeviceExtended,
    PortConnector, SystemPowerSupply, SystemSlot, TpmDevice,
};

use super::{
    dmi::{NAME, Tables, named},
    file::link_name,
};
use crate::{
    report::{
        fact::{Fact, Gap, Why},
        kinds::{FreeText, Text},
        model::{
            ExpansionSlot, ManagementController, OemString, OnboardDevice, Port, PowerSupply, Tpm,
        },
        record::Parts,
    },
    source::Lease,
};

const ADDRESS: &str = "segment group, bus, and device and function from the bytes behind it";

/// The fact that a field gives which is there only for some parts of a kind.
fn optional<T, U: std::fmt::Display>(
    tables: &Tables,
    field: Option<tectum_smbios::Field<'_, T>>,
    rule: &'static str,
    absent: &'static str,
    meaning: impl FnOnce(T) -> Option<U>,
) -> Fact<U> {
    match field {
        Some(field) => tables.fact(Some(field), rule, meaning),
        None => Fact::gap(tables.says(Why::NotProvided, absent)),
    }
}

pub(super) fn slots(lease: &Lease, tables: &Tables) -> Parts<ExpansionSlot> {
    tables.parts(SystemSlot::TYPE, SystemSlot::from_structure, |slot: &SystemSlot<'_>| {
        let address = slot.pci_address();
        let driver = match &address {
            Some(at) => link_name(
                lease,
                &format!("/sys/bus/pci/devices/{}/driver", at.value),
                "the driver bound to the function at the slot's address",
            ),
            None => Fact::gap(tables.says(Why::NotApplicable, "the slot gives no PCI address")),
        };
        Some(ExpansionSlot {
            designation: tables.text(slot.designation()),
            kind: tables.fact(slot.slot_type(), NAME, named),
            width: tables.fact(slot.data_bus_width(), NAME, named),
            usage: tables.fact(slot.current_usage(), NAME, named),
            pci_address: optional(tables, address, ADDRESS, "gives no PCI address", |at| {
                Some(Text(at))
            }),
            driver,
        })
    })
}

pub(super) fn onboard_devices(tables: &Tables) -> Parts<OnboardDevice> {
    if let Some(gap) = tables.gap() {
        return Parts::missing(gap);
    }
    let extended = tables.all(OnboardDeviceExtended::from_structure).map(|device| OnboardDevice {
        designation: tables.text(device.reference_designation()),
        kind: tables.fact(device.device_type(), NAME, named),
        enabled: tables.fact(device.is_enabled(), "bit 7", Some),
        pci_address: optional(
            tables,
            device.pci_address(),
            ADDRESS,
            "gives no PCI address",
            |at| Some(Text(at)),
        ),
    });
    let mut devices: Vec<OnboardDevice> = extended.collect();
    if devices.is_empty() {
        // The old structure is only looked at where the new one is missing: firmware that has both
        // says the same thing twice.
        for structure in tables.all(OnBoardDevices::from_structure) {
            for (index, device) in structure.devices().enumerate() {
                let offset = 4 + 2 * index;
                let place = |at: usize| {
                    format!("handle {}, offset 0x{at:02X}, 1 byte", structure.structure().handle())
                };
                let evidence = |at, raw: String| tables.at(place(at), &raw, NAME);
                let raw = u8::from(device.enabled) << 7 | device.kind.0;
                devices.push(OnboardDevice {
                    designation: match device.description.escaped() {
                        Some(text) => Fact::known(
                            Text(text.trim().to_owned()),
                            evidence(offset + 1, format!("string: {text}")),
                        ),
                        None => Fact::gap(tables.says(Why::Blank, "names no string")),
                    },
                    kind: Fact::known(
                        Text(device.kind.to_string()),
                        evidence(offset, format!("{raw:02x} ({})", device.kind)),
                    ),
                    enabled: Fact::known(device.enabled, evidence(offset, format!("{raw:02x}"))),
                    pci_address: Fact::gap(
                        tables.says(Why::NotProvided, "type 10 has no bus addresses"),
                    ),
                });
            }
        }
    }
    Parts::known(devices, tables.whole("structures of type 41, or of type 10 where there is none"))
}

pub(super) fn ports(tables: &Tables) -> Parts<Port> {
    tables.parts(PortConnector::TYPE, PortConnector::from_structure, |port: &PortConnector<'_>| {
        let outside = port.external_type().filter(|kind| kind.value.0 != 0);
        Some(Port {
            internal: tables.text(port.internal_designator()),
            external: tables.text(port.external_designator()),
            connector: tables.fact(outside.or(port.internal_type()), NAME, named),
            kind: tables.fact(port.port_type(), NAME, named),
        })
    })
}

pub(super) fn power_supplies(tables: &Tables) -> Parts<PowerSupply> {
    tables.parts(
        SystemPowerSupply::TYPE,
        SystemPowerSupply::from_structure,
        |supply: &SystemPowerSupply<'_>| {
            Some(PowerSupply {
                location: tables.text(supply.location()),
                name: tables.text(supply.device_name()),
                manufacturer: tables.text(supply.manufacturer()),
                part_number: tables.text(supply.model_part_number()),
                serial: tables.text(supply.serial_number()),
                asset_tag: tables.text(supply.asset_tag()),
                revision: tables.text(supply.revision_level()),
                maximum_watts: tables.fact(
                    supply.max_power_capacity_watts(),
                    "watts; 8000h is unknown",
                    |watts| (watts != 0x8000).then_some(u64::from(watts)),
                ),
                present: tables.fact(supply.is_present(), "bit 1", Some),
                status: tables.fact(supply.status(), "bits 9:7", |status| {
                    status.filter(|word| *word != "Unknown").map(Text::from)
                }),
                hot_swappable: tables.fact(supply.is_hot_replaceable(), "bit 0", Some),
            })
        },
    )
}

pub(super) fn oem_strings(tables: &Tables) -> Parts<OemString> {
    if let Some(gap) = tables.gap() {
        return Parts::missing(gap);
    }
    let mut strings = Vec::new();
    for structure in tables.all(OemStrings::from_structure) {
        let place = format!("handle {}, string set", structure.structure().handle());
        for (number, text) in (1u64..).zip(structure.texts()) {
            let known = text.escaped().filter(|text| !text.trim().is_empty());
            let raw = known.as_deref().unwrap_or_default();
            let evidence =
                tables.at(place.clone(), &format!("string {number}: {raw}"), "in their order");
            strings.push(OemString {
                number: Fact::known(number, evidence.clone()),
                text: match &known {
                    Some(text) => Fact::known(FreeText(text.trim().to_owned()), evidence),
                    None => Fact::gap(tables.says(Why::Blank, "the string is blank or not there")),
                },
            });
        }
    }
    Parts::known(strings, tables.whole("the strings of the structures of type 11"))
}

pub(super) fn management_controllers(tables: &Tables) -> Parts<ManagementController> {
    tables.parts(IpmiDevice::TYPE, IpmiDevice::from_structure, |device: &IpmiDevice<'_>| {
        Some(ManagementController {
            interface: tables.fact(device.interface_type(), NAME, named),
            ipmi_version: tables.fact(
                device
                    .version()
                    .map(|field| field.map(|(major, minor)| format!("{major}.{minor}"))),
                "BCD, major and minor",
                |version| Some(Text(version)),
            ),
            address: tables.fact(
                device.address(),
                "bit 0 says I/O space; the lowest address bit stands in the modifier",
                |at| {
                    Some(Text(match at {
                        IpmiAddress::Port(port) => format!("I/O port {port:#x}"),
                        IpmiAddress::Memory(address) => format!("memory {address:#x}"),
                        IpmiAddress::SmBus(address) => format!("SMBus {address:#x}"),
                    }))
                },
            ),
        })
    })
}

pub(super) fn tpms(tables: &Tables) -> Parts<Tpm> {
    tables.parts(TpmDevice::TYPE, TpmDevice::from_structure, |tpm: &TpmDevice<'_>| {
        let minor = tpm.minor_version().map_or(0, |field| field.value);
        Some(Tpm {
            vendor: optional(tables, tpm.vendor_id(), "four letters", "is no text", |id| {
                (!id.is_empty()).then(|| Text::from(id))
            }),
            version: tables.fact(tpm.major_version(), "major, with the minor version", |major| {
                Some(Text(format!("{major}.{minor}")))
            }),
            description: tables.text(tpm.description()),
        })
    })
}

pub(super) fn boot_status(tables: &Tables) -> Fact<Text> {
    match tables.all(BootInformation::from_structure).next() {
        None => Fact::gap(tables.no_structure(BootInformation::TYPE)),
        Some(boot) => tables.fact(boot.status(), NAME, |status| Some(Text(status.to_string()))),
    }
}

impl Tables {
    /// A gap that names the table and what it says.
    fn says(&self, why: Why, answer: &'static str) -> Gap {
        Gap::new(why).tried(self.path(), answer)
    }
}
