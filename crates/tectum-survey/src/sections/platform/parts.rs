//! Slots, devices on the board, connectors, the maker's strings.

use crate::readers::sayings;
use std::collections::HashMap;

use tectum_smbios::{
    DecodedField, Handle, Structure,
    types::{
        self, BootInformation, ConfigurationOptions, OemStrings, OnBoardDevices,
        OnboardDeviceExtended, PortConnector, SystemSlot,
    },
};

use crate::readers::{
    dmi::{NAME, Tables, named},
    file::{File, link_name, meaningful},
    pci_names,
    raw_bytes::raw_bytes,
};
use crate::{formats::number, readers::pci_function::FUNCTIONS, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Place, Saying, Why, saying},
    leaf::{Bytes, FreeText, Term},
    model::{ExpansionSlot, OemString, OnboardDevice, OtherStructure, Port, StructureField},
};

const ADDRESS: Saying = saying!(
    "segment-bus-device-function",
    "segment group, bus, and device and function from the bytes behind it",
);

/// The fact that a field gives which is there only for some parts of a kind.
pub(super) fn optional<T, U: std::fmt::Display>(
    tables: &Tables,
    field: Option<tectum_smbios::Field<'_, T>>,
    rule: Saying,
    absent: Saying,
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
        let nothing = || {
            Fact::gap(tables.says(
                Why::NotApplicable,
                saying!("slot-gives-no-pci-address", "the slot gives no PCI address"),
            ))
        };
        let (holds, driver) = match &address {
            Some(at) => (
                pci_name(lease, &at.value),
                link_name(
                    lease,
                    &format!("{FUNCTIONS}/{}/driver", at.value),
                    saying!(
                        "driver-bound-function-slot-address",
                        "the driver bound to the function at the slot's address",
                    ),
                ),
            ),
            None => (nothing(), nothing()),
        };
        Some(ExpansionSlot {
            designation: tables.text(slot.designation()),
            kind: tables.fact(slot.slot_type(), NAME, named),
            slot_id: tables.fact(slot.slot_id(), sayings::DECIMAL_NUMBER, |id| Some(u64::from(id))),
            width: tables.fact(slot.data_bus_width(), NAME, named),
            physical_width: tables.fact(slot.physical_width(), NAME, named),
            usage: tables.fact(slot.current_usage(), NAME, named),
            length: tables.fact(slot.length(), NAME, named),
            characteristics: {
                let first = tables.flags(slot.characteristics_1(), |bits| bits.set());
                let second = tables.flags(slot.characteristics_2(), |bits| bits.set());
                both(first, second)
            },
            pci_address: optional(tables, address, ADDRESS, sayings::NO_PCI_ADDRESS, |at| {
                Some(Term(at))
            }),
            peers: peers(tables, slot),
            device: holds,
            driver,
        })
    })
}

/// The further devices of a slot that is split among several (SMBIOS 3.2).
fn peers(tables: &Tables, slot: &SystemSlot<'_>) -> Fact<Vec<Term>> {
    tables
        .fact(
            slot.peer_group_count(),
            saying!(
                "peer-groups",
                "each group behind the count: segment group, bus, device and function, lanes",
            ),
            |_| {
                let addresses = slot.peers().map(|peer| {
                    let (device, function) = (peer.device_function >> 3, peer.device_function & 7);
                    let (segment, bus) = (peer.segment_group, peer.bus);
                    let lanes = peer.data_bus_width;
                    Term(format!("{segment:04x}:{bus:02x}:{device:02x}.{function} x{lanes}"))
                });
                Some(List(addresses.collect::<Vec<_>>()))
            },
        )
        .map(|List(all)| all)
}

/// A list with the text that stands for it in evidence.
struct List(Vec<Term>);

impl std::fmt::Display for List {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let names: Vec<&str> = self.0.iter().map(|it| it.0.as_str()).collect();
        f.write_str(&names.join(", "))
    }
}

/// Two bit fields that are read as one; the second may be missing from old tables.
fn both(first: Fact<Vec<Term>>, second: Fact<Vec<Term>>) -> Fact<Vec<Term>> {
    match second.value().cloned() {
        None => first,
        Some(more) => first
            .map(|mut names| {
                names.extend(more);
                names
            })
            .with_evidence_of(&second),
    }
}

/// What the function at an address is, by the list of PCI ids.
fn pci_name(lease: &Lease, address: &str) -> Fact<Term> {
    let id = |name: &str| {
        File::read(lease, format!("{FUNCTIONS}/{address}/{name}"))
            .fact(saying!("name-pci-ids-files", "the name of the PCI ids in these files"), |text| {
                u16::try_from(number::hexadecimal(text)?).ok()
            })
    };
    let (vendor, device) = (id("vendor"), id("device"));
    let ids = vendor.value().copied().zip(device.value().copied());
    let name = ids.and_then(|(vendor, device)| pci_names::function(vendor, device));
    vendor
        .and_then(|_| {
            name.map(Term).ok_or_else(|| {
                Gap::new(Why::NotProvided).hint(saying!(
                    "not-list-pci-ids-tectum",
                    "not in the list of PCI ids that Tectum carries",
                ))
            })
        })
        .with_evidence_of(&device)
}

pub(super) fn onboard_devices(tables: &Tables) -> Parts<OnboardDevice> {
    if let Some(gap) = tables.gap() {
        return Parts::missing(gap);
    }
    let extended = tables.all(OnboardDeviceExtended::from_structure).map(|device| OnboardDevice {
        designation: tables.text(device.reference_designation()),
        kind: tables.fact(device.device_type(), NAME, named),
        instance: tables
            .fact(device.instance(), sayings::DECIMAL_NUMBER, |number| Some(u64::from(number))),
        enabled: tables.fact(device.is_enabled(), sayings::BIT_7, Some),
        pci_address: optional(
            tables,
            device.pci_address(),
            ADDRESS,
            sayings::NO_PCI_ADDRESS,
            |at| Some(Term(at)),
        ),
    });
    let mut devices: Vec<OnboardDevice> = extended.collect();
    if devices.is_empty() {
        // The old structure is only looked at where the new one is missing: firmware that has both
        // says the same thing twice.
        for structure in tables.all(OnBoardDevices::from_structure) {
            for (index, device) in structure.devices().enumerate() {
                let offset = 4 + 2 * index;
                let handle = structure.structure().handle();
                let place = |at| Place::structure(handle.0, at, 1);
                let evidence = |at, raw: String| tables.at(handle, place(at), &raw, NAME);
                let raw = u8::from(device.enabled) << 7 | device.kind.0;
                devices.push(OnboardDevice {
                    designation: match device.description.escaped() {
                        Some(text) => Fact::known(
                            Term(text.trim().to_owned()),
                            evidence(offset + 1, format!("string: {text}")),
                        ),
                        None => Fact::gap(
                            tables.says(Why::Blank, saying!("names-no-string", "names no string")),
                        ),
                    },
                    kind: Fact::known(
                        Term(device.kind.to_string()),
                        evidence(offset, format!("{raw:02x} ({})", device.kind)),
                    ),
                    instance: Fact::gap(tables.says(
                        Why::NotProvided,
                        saying!("type-10-no-instances", "type 10 has no numbers of devices"),
                    )),
                    enabled: Fact::known(device.enabled, evidence(offset, format!("{raw:02x}"))),
                    pci_address: Fact::gap(tables.says(
                        Why::NotProvided,
                        saying!("type-10-no-bus-addresses", "type 10 has no bus addresses"),
                    )),
                });
            }
        }
    }
    Parts::known(
        devices,
        tables.whole(saying!(
            "structures-type-41-type-10",
            "structures of type 41, or of type 10 where there is none",
        )),
    )
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

pub(super) fn oem_strings(tables: &Tables) -> Parts<OemString> {
    strings(
        tables,
        tables.all(OemStrings::from_structure).map(|it| it.structure()),
        saying!("strings-structures-type-11", "the strings of the structures of type 11"),
    )
}

pub(super) fn configuration_options(tables: &Tables) -> Parts<OemString> {
    strings(
        tables,
        tables.all(ConfigurationOptions::from_structure).map(|it| it.structure()),
        saying!("strings-structures-type-12", "the strings of the structures of type 12"),
    )
}

/// All strings of some structures.
fn strings<'a>(
    tables: &Tables,
    structures: impl Iterator<Item = Structure<'a>>,
    rule: Saying,
) -> Parts<OemString> {
    if let Some(gap) = tables.gap() {
        return Parts::missing(gap);
    }
    let mut strings = Vec::new();
    for structure in structures {
        let place = format!("handle {}, string set", structure.handle());
        // A string's index is one byte; more strings than that nothing can name.
        for number in 1..=u8::try_from(structure.strings().take(255).count()).unwrap_or(u8::MAX) {
            let text = structure.text(number).escaped().unwrap_or_default();
            let raw = format!("string {number}: {text}");
            let evidence = tables.at(
                structure.handle(),
                place.clone(),
                &raw,
                saying!("their-order", "in their order"),
            );
            strings.push(OemString {
                number: Fact::known(u64::from(number), evidence.clone()),
                text: match meaningful(&text) {
                    Err(_) => Fact::gap(tables.says(
                        Why::Blank,
                        saying!("string-says-nothing-blank", "the string is blank or a filler"),
                    )),
                    Ok(text) => Fact::known(FreeText(text), evidence),
                },
            });
        }
    }
    Parts::known(strings, tables.whole(rule))
}

pub(super) fn boot_status(tables: &Tables) -> Fact<Term> {
    match tables.all(BootInformation::from_structure).next() {
        None => Fact::gap(tables.no_structure(BootInformation::TYPE)),
        Some(boot) => tables.fact(boot.status(), NAME, |status| Some(Term(status.to_string()))),
    }
}

/// Structure types that no other part of the report holds.
pub(crate) fn is_other(number: u8) -> bool {
    !matches!(
        number,
        // platform
        0..=4 | 8..=12 | 22..=24 | 26..=30 | 32 | 34..=36 | 38 | 39 | 41..=43
        // memory, firmware
        | 13 | 16 | 17 | 37 | 45
        // nothing is in them
        | 126 | 127
    )
}

/// The fields of a structure as the standard has them.
fn fields(
    tables: &Tables,
    structure: Structure<'_>,
    at: &dyn Fn(usize, usize, String, Saying) -> Evidence,
) -> Parts<StructureField> {
    let all = types::decoded(structure);
    if all.is_empty() {
        return Parts::missing(tables.says(
            Why::NotProvided,
            saying!("no-field-of-type-known", "the standard defines no field at a fixed place"),
        ));
    }
    let parts = all.into_iter().map(|DecodedField { name, field }| {
        let raw = format!("{} ({})", raw_bytes(field.bytes), field.value);
        let evidence = |rule, raw: &str| at(field.offset, field.bytes.len(), raw.to_owned(), rule);
        StructureField {
            name: Fact::known(
                Term::from(name.as_str()),
                evidence(saying!("field-at-this-place", "the field at this place"), &name),
            ),
            value: Fact::known(
                Term(field.value.clone()),
                evidence(
                    saying!("code-or-number-in-words", "the code's name, or the number"),
                    &raw,
                ),
            ),
        }
    });
    Parts::known(
        parts.collect(),
        at(0, structure.formatted().len(), String::new(), sayings::STANDARD_NAME_CODE),
    )
}

pub(super) fn other_structures(tables: &Tables) -> Parts<OtherStructure> {
    if let Some(gap) = tables.gap() {
        return Parts::missing(gap);
    }
    // Devices on the board are told by the newer structure where there is one.
    let newer = tables.all(OnboardDeviceExtended::from_structure).next().is_some();
    let others = tables.structures().filter(|structure| {
        is_other(structure.kind()) || (newer && structure.kind() == OnBoardDevices::TYPE)
    });
    let items =
        others
            .map(|structure| {
                let handle = structure.handle();
                let at = |offset: usize, count: usize, raw: String, rule| {
                    tables.at(handle, Place::structure(handle.0, offset, count), &raw, rule)
                };
                let number = structure.kind();
                let kind = |rule| at(0, 1, format!("{number:02x}"), rule);
                OtherStructure {
                    number: Fact::known(
                        u64::from(number),
                        kind(saying!("structure-type-number", "the structure type's number")),
                    ),
                    name: match types::title(number) {
                        Some(title) => Fact::known(Term::from(title), kind(NAME)),
                        None => Fact::gap(tables.says(
                            Why::NotProvided,
                            match number {
                                128.. => saying!(
                                    "makers-own-type",
                                    "types from 128 on are the maker's own",
                                ),
                                _ => saying!(
                                    "type-not-defined",
                                    "the standard does not define the type",
                                ),
                            },
                        )),
                    },
                    handle: Fact::known(
                        Term(handle.to_string()),
                        at(
                            2,
                            2,
                            handle.to_string(),
                            saying!("structure-handle", "the structure's handle"),
                        ),
                    ),
                    length_bytes: Fact::known(
                        Bytes(structure.formatted().len() as u64),
                        at(1, 1, format!("{:02x}", structure.formatted().len()), sayings::BYTES),
                    ),
                    fields: fields(tables, structure, &at),
                    strings: strings(
                        tables,
                        std::iter::once(structure),
                        saying!("structure-strings", "the structure's strings"),
                    ),
                }
            })
            .collect();
    Parts::known(
        items,
        tables.whole(saying!(
            "structures-held-nowhere-else",
            "the structures that are held nowhere else",
        )),
    )
}

/// What a structure that another refers to is called: its own label, or the name of its type.
pub(super) fn label(all: &HashMap<Handle, Structure<'_>>, handle: Handle) -> Option<String> {
    let structure = all.get(&handle)?;
    let offset = match structure.kind() {
        2 => 0x05,
        4 | 7 | 8 | 9 | 22 | 26 | 28 | 29 | 34 | 35 | 41 => 0x04,
        17 => 0x10,
        27 => 0x0E,
        39 => 0x05,
        _ => return types::title(structure.kind()).map(str::to_owned),
    };
    let index = structure.formatted().get(offset).copied().unwrap_or(0);
    let text = structure.text(index).escaped().map(|text| text.trim().to_owned());
    text.filter(|text| !text.is_empty())
        .or_else(|| types::title(structure.kind()).map(str::to_owned))
}
