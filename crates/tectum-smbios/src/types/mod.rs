//! Structure types as typed records: one file a type or a family of types, each field with the
//! clause it comes from.

mod additional_information;
mod baseboard;
mod bios;
mod bios_language;
mod boot_information;
mod boot_integrity;
mod cache;
mod chassis;
mod configuration_options;
mod connector;
mod cooling_device;
mod end_of_table;
mod event_log;
mod firmware_inventory;
mod group_associations;
mod hardware_security;
mod host_interface;
mod inactive;
mod ipmi;
mod management_device;
mod mapped_address;
mod memory_array;
mod memory_channel;
mod memory_controller;
mod memory_device;
mod memory_error;
mod memory_module;
mod oem_strings;
mod on_board_devices;
mod onboard_device;
mod pointing_device;
mod portable_battery;
mod power_controls;
mod power_supply;
mod probe;
mod processor;
mod processor_additional;
mod remote_access;
mod string_property;
mod system;
mod system_reset;
mod system_slot;
mod tpm;

use crate::{Field, Handle, Structure};

pub use additional_information::{AdditionalEntry, AdditionalInformation};
pub use baseboard::{BaseboardInformation, BoardType};
pub use bios::{BiosInformation, RomSize};
pub use bios_language::BiosLanguage;
pub use boot_information::{BootInformation, BootStatus};
pub use boot_integrity::BootIntegrity;
pub use cache::{CacheAssociativity, CacheEcc, CacheInformation, CacheSize, CacheType};
pub use chassis::{ChassisInformation, ChassisState, ChassisType};
pub use configuration_options::ConfigurationOptions;
pub use connector::{ConnectorType, PortConnector, PortType};
pub use cooling_device::CoolingDevice;
pub use end_of_table::EndOfTable;
pub use event_log::{EventDescriptor, SystemEventLog};
pub use firmware_inventory::{FirmwareInventory, FirmwareState};
pub use group_associations::{GroupAssociations, GroupMember};
pub use hardware_security::{HardwareSecurity, SecurityState};
pub use host_interface::{HostInterface, HostInterfaceType, HostProtocol};
pub use inactive::Inactive;
pub use ipmi::{IpmiAddress, IpmiDevice, IpmiInterface};
pub use management_device::{
    ManagementAddressType, ManagementDevice, ManagementDeviceComponent, ManagementDeviceType,
    ManagementThresholds,
};
pub use mapped_address::{AddressRange, ArrayMappedAddress, DeviceMappedAddress};
pub use memory_array::{ArrayEcc, ArrayLocation, ArrayUse, PhysicalMemoryArray};
pub use memory_channel::{ChannelDevice, MemoryChannel, MemoryChannelType};
pub use memory_controller::MemoryController;
pub use memory_device::{
    MemoryDevice, MemoryFormFactor, MemorySize, MemorySpeed, MemoryTechnology, MemoryType,
};
pub use memory_error::{
    MemoryError32, MemoryError64, MemoryErrorGranularity, MemoryErrorOperation, MemoryErrorType,
};
pub use memory_module::{MemoryModuleInformation, OldModuleSize};
pub use oem_strings::OemStrings;
pub use on_board_devices::{OnBoardDevice, OnBoardDeviceType, OnBoardDevices};
pub use onboard_device::OnboardDeviceExtended;
pub use pointing_device::{PointingDevice, PointingDeviceInterface, PointingDeviceType};
pub use portable_battery::{BatteryChemistry, PortableBattery};
pub use power_controls::SystemPowerControls;
pub use power_supply::SystemPowerSupply;
pub use probe::{CurrentProbe, TemperatureProbe, VoltageProbe};
pub use processor::{ProcessorInformation, ProcessorStatus, ProcessorType, ProcessorUpgrade};
pub use processor_additional::{ProcessorAdditional, ProcessorArchitecture};
pub use remote_access::RemoteAccess;
pub use string_property::{StringProperty, StringPropertyId};
pub use system::{SystemInformation, WakeUpType};
pub use system_reset::SystemReset;
pub use system_slot::{SlotLength, SlotPeer, SlotType, SlotUsage, SlotWidth, SystemSlot};
pub use tpm::TpmDevice;

/// Handles that stand one after another, as many as the structure holds.
fn handles<'a>(
    structure: &Structure<'a>,
    offset: usize,
    count: usize,
) -> impl Iterator<Item = Handle> + use<'a> {
    let bytes = structure.formatted().get(offset..).unwrap_or_default();
    bytes.chunks_exact(2).take(count).filter_map(|pair| match pair {
        [low, high] => Some(Handle(u16::from_le_bytes([*low, *high]))),
        _ => None,
    })
}

/// A PCI address as the kernel writes it; `None` where the fields say that there is none.
fn pci_address<'a>(segment: Field<'a, u16>, bus: u8, device: u8) -> Option<Field<'a, String>> {
    if segment.value == 0xFFFF || (bus == 0xFF && device == 0xFF) {
        return None;
    }
    let (device, function) = (device >> 3, device & 0x07);
    Some(segment.map(|segment| format!("{segment:04x}:{bus:02x}:{device:02x}.{function}")))
}

/// The status of a probe or cooling device, where the standard lists it (clause 7.27.1).
fn status(code: u8) -> Option<&'static str> {
    Some(match code {
        1 => "Other",
        2 => "Unknown",
        3 => "OK",
        4 => "Non-critical",
        5 => "Critical",
        6 => "Non-recoverable",
        _ => return None,
    })
}
