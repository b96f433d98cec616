//! No bytes make the reader panic, loop for ever, or give more structures than they can hold.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use proptest::prelude::*;
use tectum_smbios::{EntryPoint, Structure, Version, types::*, walk};

/// Reads everything that can be read of a structure.
fn exhaust(structure: Structure<'_>) {
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
        BiosInformation: rom_size, supports_uefi, is_virtual_machine, vendor;
        BaseboardInformation: board_type => contained_handles;
        ChassisInformation: sku_number, chassis_type, has_lock;
        ProcessorInformation: core_count, thread_count, enabled_core_count, voltage_mv;
        MemoryController: maximum_module_size => module_handles;
        MemoryModuleInformation: installed_size, enabled_size;
        CacheInformation: installed_size, maximum_size, level;
        SystemSlot: pci_address, information, physical_width, pitch, height_code => peers;
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

fn check(bytes: &[u8]) -> Result<(), TestCaseError> {
    let mut count = 0;
    for structure in walk(bytes).flatten() {
        exhaust(structure);
        count += 1;
    }
    prop_assert!(count <= bytes.len() / 4 + 1);
    Ok(())
}

proptest! {
    #[test]
    fn any_bytes(bytes in proptest::collection::vec(any::<u8>(), 0..2048)) {
        check(&bytes)?;
        let _ = EntryPoint::parse(&bytes);
    }

    /// Bytes that look like structures get further in.
    #[test]
    fn structure_like_bytes(
        parts in proptest::collection::vec(
            (prop_oneof![8 => 0u8..47, 1 => any::<u8>()],
             0u8..110, any::<u16>(), proptest::collection::vec(any::<u8>(), 0..120)),
            0..12,
        )
    ) {
        let mut bytes = Vec::new();
        for (kind, length, handle, body) in parts {
            bytes.extend([kind, length]);
            bytes.extend(handle.to_le_bytes());
            bytes.extend(body);
            bytes.extend([0, 0]);
        }
        check(&bytes)?;
    }

    #[test]
    fn entry_points(tail in proptest::collection::vec(any::<u8>(), 0..40), new in any::<bool>()) {
        let mut bytes = if new { b"_SM3_".to_vec() } else { b"_SM_".to_vec() };
        bytes.extend(tail);
        let _ = EntryPoint::parse(&bytes);
    }
}
