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
mod processor_family;
mod remote_access;
mod string_property;
mod system;
mod system_reset;
mod system_slot;
mod tpm;

use crate::{Field, Handle, Structure};

pub use additional_information::{AdditionalEntry, AdditionalInformation};
pub use baseboard::{BaseboardInformation, BoardFeatures, BoardType};
pub use bios::{BiosCharacteristics, BiosExtension1, BiosExtension2, BiosInformation, RomSize};
pub use bios_language::BiosLanguage;
pub use boot_information::{BootInformation, BootStatus};
pub use boot_integrity::BootIntegrity;
pub use cache::{
    CacheAssociativity, CacheEcc, CacheInformation, CacheLocation, CacheMode, CacheSize, CacheType,
    SramTypes,
};
pub use chassis::{
    ChassisInformation, ChassisSecurity, ChassisState, ChassisType, ContainedElement, ContainedKind,
};
pub use configuration_options::ConfigurationOptions;
pub use connector::{ConnectorType, PortConnector, PortType};
pub use cooling_device::{CoolingDevice, CoolingType};
pub use end_of_table::EndOfTable;
pub use event_log::{EventDescriptor, LogAccess, LogData, LogEvent, LogStatus, SystemEventLog};
pub use firmware_inventory::{FirmwareCharacteristics, FirmwareInventory, FirmwareState};
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
pub use memory_controller::{
    ControllerSpeeds, ErrorCorrecting, ErrorDetecting, Interleave, MemoryController, ModuleVoltages,
};
pub use memory_device::{
    MemoryDevice, MemoryFormFactor, MemoryModes, MemorySize, MemorySpeed, MemoryTechnology,
    MemoryType, MemoryTypeDetail,
};
pub use memory_error::{
    MemoryError32, MemoryError64, MemoryErrorGranularity, MemoryErrorOperation, MemoryErrorType,
};
pub use memory_module::{MemoryModuleInformation, OldMemoryTypes, OldModuleErrors, OldModuleSize};
pub use oem_strings::OemStrings;
pub use on_board_devices::{OnBoardDevice, OnBoardDeviceType, OnBoardDevices};
pub use onboard_device::OnboardDeviceExtended;
pub use pointing_device::{PointingDevice, PointingDeviceInterface, PointingDeviceType};
pub use portable_battery::{BatteryChemistry, PortableBattery};
pub use power_controls::SystemPowerControls;
pub use power_supply::{SupplyStatus, SupplyType, SystemPowerSupply, VoltageSwitching};
pub use probe::{CurrentProbe, ProbeLocation, ProbeStatus, TemperatureProbe, VoltageProbe};
pub use processor::{
    ProcessorCharacteristics, ProcessorInformation, ProcessorStatus, ProcessorType,
    ProcessorUpgrade,
};
pub use processor_additional::{ProcessorAdditional, ProcessorArchitecture};
pub use processor_family::ProcessorFamily;
pub use remote_access::{RemoteAccess, RemoteConnections};
pub use string_property::{StringProperty, StringPropertyId};
pub use system::{SystemInformation, WakeUpType};
pub use system_reset::{ResetOption, SystemReset};
pub use system_slot::{
    SlotCharacteristics1, SlotCharacteristics2, SlotHeight, SlotLength, SlotPeer, SlotType,
    SlotUsage, SlotWidth, SystemSlot,
};
pub use tpm::{TpmCharacteristics, TpmDevice};

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

/// Hands all structure types to a macro.
macro_rules! with_all_types {
    ($macro:ident) => {
        $macro! {
            BiosInformation,
            SystemInformation,
            BaseboardInformation,
            ChassisInformation,
            ProcessorInformation,
            MemoryController,
            MemoryModuleInformation,
            CacheInformation,
            PortConnector,
            SystemSlot,
            OnBoardDevices,
            OemStrings,
            ConfigurationOptions,
            BiosLanguage,
            GroupAssociations,
            SystemEventLog,
            PhysicalMemoryArray,
            MemoryDevice,
            MemoryError32,
            ArrayMappedAddress,
            DeviceMappedAddress,
            PointingDevice,
            PortableBattery,
            SystemReset,
            HardwareSecurity,
            SystemPowerControls,
            VoltageProbe,
            CoolingDevice,
            TemperatureProbe,
            CurrentProbe,
            RemoteAccess,
            BootIntegrity,
            BootInformation,
            MemoryError64,
            ManagementDevice,
            ManagementDeviceComponent,
            ManagementThresholds,
            MemoryChannel,
            IpmiDevice,
            SystemPowerSupply,
            AdditionalInformation,
            OnboardDeviceExtended,
            HostInterface,
            TpmDevice,
            ProcessorAdditional,
            FirmwareInventory,
            StringProperty,
            Inactive,
            EndOfTable,
        }
    };
}

/// The standard's name for a structure type; `None` for a number that it does not define.
pub fn title(number: u8) -> Option<&'static str> {
    macro_rules! titles {
        ($($ty:ident,)*) => {
            match number {
                $($ty::TYPE => Some($ty::TITLE),)*
                _ => None,
            }
        };
    }
    with_all_types!(titles)
}

/// Where the fields at fixed offsets of a structure type stand; none for a number that the standard
/// does not define.
pub fn fixed_fields(number: u8) -> &'static [crate::FieldSpec] {
    macro_rules! specs {
        ($($ty:ident,)*) => {
            match number {
                $($ty::TYPE => $ty::FIELDS,)*
                _ => &[],
            }
        };
    }
    with_all_types!(specs)
}

/// The fields at fixed offsets of a structure of any type that the standard defines, as words; none
/// for another type.
pub fn decoded(structure: Structure<'_>) -> Vec<crate::DecodedField<'_>> {
    macro_rules! fields {
        ($($ty:ident,)*) => {
            match structure.kind() {
                $($ty::TYPE => $ty::from_structure(structure).map(|it| it.decoded()),)*
                _ => None,
            }
        };
    }
    let mut fields = with_all_types!(fields).unwrap_or_default();
    if let Some(cache) = CacheInformation::from_structure(structure) {
        fields.extend(cache.decoded_bits());
    }
    fields
}
