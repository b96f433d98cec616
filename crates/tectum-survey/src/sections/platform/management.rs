//! What manages and guards the machine.

use std::collections::HashMap;

use tectum_smbios::{
    Field, Handle, Structure,
    types::{
        HardwareSecurity as SecurityStructure, HostInterface as HostStructure, IpmiAddress,
        IpmiDevice, ManagementDevice as DeviceStructure, ManagementDeviceComponent,
        ManagementThresholds, RemoteAccess as RemoteStructure, SecurityState, SystemReset,
        TpmDevice,
    },
};

use super::parts::{label, optional};
use crate::readers::dmi::{NAME, Tables, named};
use crate::readers::sayings;
use tectum_report::{
    declare::Parts,
    fact::{Fact, Saying, Why, saying},
    leaf::Term,
    model::{
        HardwareSecurity, HostInterface, Management, ManagementComponent, ManagementController,
        ManagementDevice, RemoteAccess, Tpm,
    },
};

pub(super) fn management(tables: &Tables, all: &HashMap<Handle, Structure<'_>>) -> Management {
    Management {
        controllers: management_controllers(tables),
        host_interfaces: host_interfaces(tables),
        remote_access: remote_access(tables),
        devices: devices(tables),
        components: components(tables, all),
    }
}

fn management_controllers(tables: &Tables) -> Parts<ManagementController> {
    tables.parts(IpmiDevice::TYPE, IpmiDevice::from_structure, |device: &IpmiDevice<'_>| {
        Some(ManagementController {
            interface: tables.fact(device.interface_type(), NAME, named),
            ipmi_version: tables.fact(
                device
                    .version()
                    .map(|field| field.map(|(major, minor)| format!("{major}.{minor}"))),
                saying!("bcd-major-minor", "BCD, major and minor"),
                |version| Some(Term(version)),
            ),
            address: tables.fact(
                device.address(),
                saying!(
                    "bit-0-i-o-space-lowest",
                    "bit 0 says I/O space; the lowest address bit stands in the modifier",
                ),
                |at| {
                    Some(Term(match at {
                        IpmiAddress::Port(port) => format!("I/O port {port:#x}"),
                        IpmiAddress::Memory(address) => format!("memory {address:#x}"),
                        IpmiAddress::SmBus(address) => format!("SMBus {address:#x}"),
                    }))
                },
            ),
            target_address: tables.fact(
                device.i2c_target_address(),
                sayings::HEXADECIMAL,
                |address| (address != 0).then(|| Term(format!("{address:#04x}"))),
            ),
            interrupt: tables.fact(
                device.interrupt_number(),
                saying!("number-0-none", "the number; 0 says that there is none"),
                |number| (number != 0).then_some(u64::from(number)),
            ),
        })
    })
}

fn host_interfaces(tables: &Tables) -> Parts<HostInterface> {
    tables.parts(HostStructure::TYPE, HostStructure::from_structure, |host: &HostStructure<'_>| {
        let names: Vec<Term> = host
            .protocols()
            .map(|protocol| match protocol.kind {
                0x02 => Term::from("IPMI"),
                0x03 => Term::from("MCTP"),
                0x04 => Term::from("Redfish over IP"),
                0xF0 => Term::from("OEM-defined"),
                other => Term(format!("code {other:#x}")),
            })
            .collect();
        let handle = host.structure().handle();
        let place = format!("handle {handle}, behind the interface's own data");
        let raw = names.iter().map(|name| name.0.as_str()).collect::<Vec<_>>().join(", ");
        Some(HostInterface {
            kind: tables.fact(host.interface_type(), NAME, named),
            protocols: Fact::known(names, tables.at(handle, place, &raw, NAME)),
        })
    })
}

fn remote_access(tables: &Tables) -> Parts<RemoteAccess> {
    tables.parts(
        RemoteStructure::TYPE,
        RemoteStructure::from_structure,
        |remote: &RemoteStructure<'_>| {
            Some(RemoteAccess {
                manufacturer: tables.text(remote.manufacturer()),
                enabled: tables.flags(remote.connections(), |bits| bits.set()),
            })
        },
    )
}

fn devices(tables: &Tables) -> Parts<ManagementDevice> {
    tables.parts(
        DeviceStructure::TYPE,
        DeviceStructure::from_structure,
        |device: &DeviceStructure<'_>| {
            Some(ManagementDevice {
                description: tables.text(device.description()),
                chip: tables.fact(device.device_type(), NAME, named),
                address_kind: tables.fact(device.address_type(), NAME, named),
                address: tables.fact(
                    device.address(),
                    saying!("kind-address", "by the kind of address"),
                    |address| Some(Term(format!("{address:#x}"))),
                ),
            })
        },
    )
}

fn components(tables: &Tables, all: &HashMap<Handle, Structure<'_>>) -> Parts<ManagementComponent> {
    const LABEL: Saying =
        saying!("label-structure-handle", "the label of the structure with this handle");
    tables.parts(
        ManagementDeviceComponent::TYPE,
        ManagementDeviceComponent::from_structure,
        |component: &ManagementDeviceComponent<'_>| {
            let called = |field| tables.fact(field, LABEL, |handle| label(all, handle).map(Term));
            let thresholds = component
                .threshold_handle()
                .and_then(|field| all.get(&field.value).copied())
                .and_then(ManagementThresholds::from_structure);
            let threshold =
                |pick: for<'a> fn(&ManagementThresholds<'a>) -> Option<Field<'a, u16>>| {
                    match &thresholds {
                        None => Fact::gap(tables.says(
                            Why::NotProvided,
                            saying!("no-thresholds", "it has no thresholds"),
                        )),
                        Some(all) => tables.fact(
                            pick(all),
                            saying!("probe-unit", "in the probe's unit"),
                            |raw| (raw != 0x8000).then_some(i64::from(raw as i16)),
                        ),
                    }
                };
            Some(ManagementComponent {
                description: tables.text(component.description()),
                device: called(component.management_device_handle()),
                watches: called(component.component_handle()),
                lower_non_critical: threshold(|all| all.lower_non_critical()),
                upper_non_critical: threshold(|all| all.upper_non_critical()),
                lower_critical: threshold(|all| all.lower_critical()),
                upper_critical: threshold(|all| all.upper_critical()),
                lower_non_recoverable: threshold(|all| all.lower_non_recoverable()),
                upper_non_recoverable: threshold(|all| all.upper_non_recoverable()),
            })
        },
    )
}

pub(super) fn security(tables: &Tables) -> HardwareSecurity {
    let settings = tables.all(SecurityStructure::from_structure).next();
    let reset = tables.all(SystemReset::from_structure).next();
    let state = |pick: for<'a> fn(&SecurityStructure<'a>) -> Option<Field<'a, SecurityState>>| {
        match &settings {
            None => Fact::gap(tables.no_structure(SecurityStructure::TYPE)),
            Some(settings) => tables.fact(pick(settings), NAME, |state| {
                Some(Term::from(match state {
                    SecurityState::Disabled => "Disabled",
                    SecurityState::Enabled => "Enabled",
                    SecurityState::NotImplemented => "Not Implemented",
                    SecurityState::Unknown => return None,
                }))
            }),
        }
    };
    let no_reset = || tables.no_structure(SystemReset::TYPE);
    HardwareSecurity {
        power_on_password: state(|it| it.power_on_password()),
        keyboard_password: state(|it| it.keyboard_password()),
        administrator_password: state(|it| it.administrator_password()),
        front_panel_reset: state(|it| it.front_panel_reset()),
        watchdog_reset: match &reset {
            None => Fact::gap(no_reset()),
            Some(reset) => tables.fact(reset.has_watchdog(), saying!("bit-5", "bit 5"), Some),
        },
        boot_after_reset: match &reset {
            None => Fact::gap(no_reset()),
            Some(reset) => tables.fact(reset.boot_option(), saying!("bits-2-1", "bits 2:1"), named),
        },
    }
}

pub(super) fn tpms(tables: &Tables) -> Parts<Tpm> {
    tables.parts(TpmDevice::TYPE, TpmDevice::from_structure, |tpm: &TpmDevice<'_>| {
        let minor = tpm.minor_version().map_or(0, |field| field.value);
        Some(Tpm {
            vendor: optional(
                tables,
                tpm.vendor_id(),
                saying!("four-letters", "four letters"),
                saying!("no-text", "is no text"),
                |id| (!id.is_empty()).then(|| Term::from(id)),
            ),
            version: tables.fact(
                tpm.major_version(),
                saying!("major-minor-version", "major, with the minor version"),
                |major| Some(Term(format!("{major}.{minor}"))),
            ),
            firmware_version: tables.fact(
                tpm.firmware_version_1(),
                match tpm.major_version().map(|field| field.value) {
                    Some(1) => saying!("bytes-3-and-4", "bytes 3 and 4, by TPM 1.2"),
                    _ => saying!("halves-major-minor", "the upper half and the lower half"),
                },
                |version| {
                    let [_, _, third, fourth] = version.to_le_bytes();
                    (version != 0).then(|| match tpm.major_version().map(|field| field.value) {
                        Some(1) => Term(format!("{third}.{fourth}")),
                        _ => Term(format!("{}.{}", version >> 16, version & 0xFFFF)),
                    })
                },
            ),
            characteristics: tables.flags(tpm.characteristics(), |bits| bits.set()),
            description: tables.text(tpm.description()),
        })
    })
}
