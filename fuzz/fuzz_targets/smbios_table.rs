//! Walks a table and reads every field and list of every structure, then looks at it as a whole.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tectum_smbios::{EntryPoint, inspect, types::*, walk};

fuzz_target!(|bytes: &[u8]| {
    for structure in walk(bytes).flatten() {
        let _ = structure.strings().count();
        for decoded in decoded(structure) {
            assert!(
                decoded.field.offset + decoded.field.bytes.len() <= structure.formatted().len()
            );
        }
        for index in 0..=255 {
            let _ = structure.text(index).escaped();
        }
        macro_rules! read {
            ($($ty:ident: $($accessor:ident),* $(=> $list:ident)?;)*) => {$(
                if let Some(it) = $ty::from_structure(structure) {
                    $(let _ = it.$accessor();)*
                    $(let _ = it.$list().count();)?
                }
            )*};
        }
        read! {
            BiosInformation: rom_size, supports_uefi;
            SystemInformation: uuid, family;
            BaseboardInformation: board_type => contained_handles;
            ChassisInformation: sku_number, chassis_type => contained_elements;
            ProcessorInformation: core_count, thread_count, voltage_mv, family;
            MemoryController: supported_speeds => module_handles;
            MemoryModuleInformation: installed_size, enabled_size;
            CacheInformation: installed_size, maximum_size, level, location, operational_mode;
            SystemSlot: pci_address, information, physical_width, pitch, height => peers;
            OnBoardDevices: => devices;
            OemStrings: => texts;
            BiosLanguage: current => languages;
            GroupAssociations: group_name => members;
            SystemEventLog: area_length => descriptors;
            PhysicalMemoryArray: maximum_capacity_bytes;
            MemoryDevice: size, speed, configured_speed, rank;
            ArrayMappedAddress: range;
            DeviceMappedAddress: range;
            PortableBattery: design_capacity_mwh, sbds_date;
            VoltageProbe: location, status;
            CoolingDevice: device_type, status;
            SystemReset: boot_option, boot_option_on_limit;
            BootIntegrity: checksum_holds;
            BootInformation: detail;
            MemoryChannel: => devices;
            IpmiDevice: version, address;
            SystemPowerSupply: max_power_watts, status, supply_type;
            AdditionalInformation: => entries;
            OnboardDeviceExtended: pci_address;
            HostInterface: data => protocols;
            TpmDevice: vendor_id;
            ProcessorAdditional: data;
            FirmwareInventory: image_size_bytes => associated_handles;
            StringProperty: value;
        }
        macro_rules! flags {
            ($($ty:ident: $accessor:ident;)*) => {$(
                if let Some(field) = $ty::from_structure(structure).and_then(|it| it.$accessor()) {
                    let _ = field.value.set().map(|flag| flag.to_string().len()).sum::<usize>();
                }
            )*};
        }
        flags! {
            BiosInformation: characteristics;
            BaseboardInformation: feature_flags;
            ProcessorInformation: characteristics;
            MemoryDevice: type_detail;
            SystemSlot: characteristics_2;
            TpmDevice: characteristics;
        }
        let _ = title(structure.kind());
    }
    let whole = inspect(bytes, EntryPoint::parse(bytes).ok().as_ref());
    assert!(whole.used_bytes <= bytes.len());
});
