//! Shared by the tests of untrusted bytes.

#![allow(
    dead_code,
    missing_docs,
    unreachable_pub,
    clippy::panic,
    reason = "not every test uses all"
)]

use proptest::prelude::*;
use tectum_smbios::{Structure, Version, types::*};

/// Reads everything that can be read of a structure.
pub fn exhaust(structure: Structure<'_>) {
    let _ = structure.strings().count();
    for index in 0..=255 {
        let _ = structure.text(index).escaped();
    }
    macro_rules! read {
        ($($ty:ident: $($accessor:ident),* $(=> $($list:ident),*)?;)*) => {$(
            if let Some(it) = $ty::from_structure(structure) {
                $(let _ = it.$accessor();)*
                $($(assert!(it.$list().count() <= 256);)*)?
            }
        )*};
    }
    read! {
        BiosInformation: rom_size, supports_uefi, is_virtual_machine, vendor, characteristics;
        BaseboardInformation: board_type => contained_handles;
        ChassisInformation: sku_number, chassis_type, has_lock => contained_elements;
        ProcessorInformation: core_count, thread_count, enabled_core_count, voltage_mv, family;
        MemoryController: maximum_module_size => module_handles;
        MemoryModuleInformation: installed_size, enabled_size;
        CacheInformation: installed_size, maximum_size, level, location, operational_mode;
        SystemSlot: pci_address, information, physical_width, pitch, height => peers;
        OnBoardDevices: => devices;
        OemStrings: => texts;
        ConfigurationOptions: => texts;
        BiosLanguage: current, is_abbreviated => languages;
        GroupAssociations: group_name => members;
        SystemEventLog: area_length => descriptors;
        PhysicalMemoryArray: maximum_capacity_bytes;
        MemoryDevice: size, speed, configured_speed, rank, rcd_revision;
        ArrayMappedAddress: range;
        DeviceMappedAddress: range;
        PortableBattery: design_capacity_mwh, sbds_date;
        HardwareSecurity: power_on_password, front_panel_reset;
        VoltageProbe: location, status;
        CoolingDevice: device_type, status;
        SystemReset: boot_option, boot_option_on_limit, has_watchdog;
        BootIntegrity: checksum_holds;
        BootInformation: status, detail;
        MemoryChannel: channel_type => devices;
        IpmiDevice: version, address;
        SystemPowerSupply: max_power_watts, status, supply_type;
        AdditionalInformation: entry_count => entries;
        OnboardDeviceExtended: device_type, is_enabled, pci_address;
        HostInterface: interface_type, data => protocols;
        TpmDevice: vendor_id;
        ProcessorAdditional: architecture, data;
        FirmwareInventory: image_size_bytes => associated_handles;
        StringProperty: value;
    }
    if let Some(it) = SystemInformation::from_structure(structure) {
        let _ = it.uuid().map(|uuid| uuid.value.to_text(Version { major: 3, minor: 0 }));
    }
}

/// Bytes that look like structures get further in than any bytes do.
pub fn structure_like() -> impl Strategy<Value = Vec<u8>> {
    let part = (
        prop_oneof![8 => 0u8..47, 1 => any::<u8>()],
        0u8..110,
        any::<u16>(),
        proptest::collection::vec(any::<u8>(), 0..120),
    );
    proptest::collection::vec(part, 0..12).prop_map(|parts| {
        let mut bytes = Vec::new();
        for (kind, length, handle, body) in parts {
            bytes.extend([kind, length]);
            bytes.extend(handle.to_le_bytes());
            bytes.extend(body);
            bytes.extend([0, 0]);
        }
        bytes
    })
}
