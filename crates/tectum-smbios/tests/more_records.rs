//! The other structure types, each encoded by meaning and decoded again.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use rstest::rstest;
use tectum_demo::StructureBuilder;
use tectum_smbios::{Handle, Structure, types::*, walk};

fn first(bytes: &[u8]) -> Structure<'_> {
    walk(bytes).next().unwrap().unwrap()
}

/// A structure's bytes; the record is made from them in the test.
macro_rules! record {
    ($ty:ident, $bytes:ident) => {
        $ty::from_structure(first(&$bytes)).unwrap()
    };
}

fn handles(of: impl Iterator<Item = Handle>) -> Vec<u16> {
    of.map(|handle| handle.0).collect()
}

#[test]
fn memory_controller() {
    let bytes = StructureBuilder::new(5, 0)
        .bytes(&[3, 4, 3, 3, 12])
        .word(0x0C)
        .word(0x0100)
        .byte(4)
        .byte(3)
        .word(0x61)
        .word(0x62)
        .build();
    let record = record!(MemoryController, bytes);
    assert_eq!(record.maximum_module_size().unwrap().value, 12);
    assert_eq!(handles(record.module_handles()), [0x61, 0x62], "no more than are there");
}

#[rstest]
#[case(0x09, OldModuleSize::Bytes(512 << 20))]
#[case(0x89, OldModuleSize::Bytes(512 << 20))]
#[case(0x7D, OldModuleSize::NotDeterminable)]
#[case(0x7E, OldModuleSize::NotEnabled)]
#[case(0x7F, OldModuleSize::NotInstalled)]
#[case(0x70, OldModuleSize::NotDeterminable)]
fn memory_module(#[case] code: u8, #[case] size: OldModuleSize) {
    let bytes = StructureBuilder::new(6, 0)
        .text("J1")
        .bytes(&[0x01, 60])
        .word(0x0100)
        .byte(code)
        .byte(code)
        .byte(0)
        .build();
    let record = record!(MemoryModuleInformation, bytes);
    assert_eq!(record.installed_size().unwrap().value, size);
    assert_eq!(record.enabled_size().unwrap().value, size);
}

#[test]
fn port_connector() {
    let bytes =
        StructureBuilder::new(8, 0).text("J10").byte(0).text("LAN 1").byte(0x0B).byte(0x1F).build();
    let record = record!(PortConnector, bytes);
    assert_eq!(record.external_designator().unwrap().value.as_str(), Some("LAN 1"));
    assert_eq!(record.external_type().unwrap().value.name(), Some("RJ-45"));
    assert_eq!(record.port_type().unwrap().value.name(), Some("Network Port"));
}

#[test]
fn system_slot_with_peers_and_the_fields_behind_them() {
    let bytes = StructureBuilder::new(9, 0)
        .text("PCIe Slot 1")
        .bytes(&[0xBD, 0x0D, 0x04, 0x04])
        .word(1)
        .bytes(&[0x0C, 0x01])
        .word(0)
        .bytes(&[0x41, 0x18, 16, 2])
        .word(0)
        .bytes(&[0x42, 0x00, 8])
        .word(1)
        .bytes(&[0x43, 0x09, 8])
        .bytes(&[4, 0x0D])
        .word(2032)
        .byte(1)
        .build();
    let record = record!(SystemSlot, bytes);
    assert_eq!(record.slot_type().unwrap().value.name(), Some("PCI Express Gen 4 x16"));
    assert_eq!(record.current_usage().unwrap().value.name(), Some("In use"));
    assert_eq!(record.pci_address().unwrap().value, "0000:41:03.0");
    let peers: Vec<SlotPeer> = record.peers().collect();
    assert_eq!(peers.len(), 2);
    assert_eq!((peers[1].segment_group, peers[1].bus, peers[1].device_function), (1, 0x43, 9));
    assert_eq!(record.information().unwrap().value, 4);
    assert_eq!(record.physical_width().unwrap().value.name(), Some("16x or x16"));
    assert_eq!(record.pitch().unwrap().value, 2032);
    assert_eq!(record.height().unwrap().value.name(), Some("Other"));
}

#[test]
fn a_slot_of_an_old_table_has_no_address() {
    let bytes = StructureBuilder::new(9, 0)
        .text("ISA 1")
        .bytes(&[3, 4, 3, 3])
        .word(0)
        .bytes(&[4, 0])
        .build();
    let record = record!(SystemSlot, bytes);
    assert!(record.pci_address().is_none() && record.peers().next().is_none());
    assert!(record.physical_width().is_none());
}

#[test]
fn on_board_devices() {
    let bytes =
        StructureBuilder::new(10, 0).byte(0x83).text("Video").byte(0x05).text("LAN").build();
    let record = record!(OnBoardDevices, bytes);
    let devices: Vec<_> = record.devices().collect();
    assert_eq!(devices.len(), 2);
    assert!(devices[0].enabled && !devices[1].enabled);
    assert_eq!(devices[0].kind.name(), Some("Video"));
    assert_eq!(devices[1].description.as_str(), Some("LAN"));
}

#[test]
fn strings_of_maker_and_options() {
    let mut bytes = vec![11, 5, 0, 0, 3];
    bytes.extend(b"one\0two\0\0");
    let record = record!(OemStrings, bytes);
    let texts: Vec<Option<&str>> = record.texts().map(|text| text.as_str()).collect();
    assert_eq!(texts, [Some("one"), Some("two"), None], "the third is promised and not there");
    let mut bytes = vec![12, 5, 0, 0, 1];
    bytes.extend(b"JP1: on\0\0");
    let record = record!(ConfigurationOptions, bytes);
    assert_eq!(record.texts().next().unwrap().as_str(), Some("JP1: on"));
}

#[test]
fn bios_language() {
    let mut bytes = vec![13, 22, 0, 0, 2, 1];
    bytes.extend([0; 15]);
    bytes.push(2);
    bytes.extend(b"enGB\0noNO\0\0");
    let record = record!(BiosLanguage, bytes);
    let languages: Vec<_> = record.languages().filter_map(|text| text.as_str()).collect();
    assert_eq!(languages, ["enGB", "noNO"]);
    assert_eq!(record.current().unwrap().value.as_str(), Some("noNO"));
    assert!(record.is_abbreviated().unwrap().value);
}

#[test]
fn group_associations() {
    let bytes = StructureBuilder::new(14, 0)
        .text("Group")
        .byte(4)
        .word(0x0400)
        .byte(7)
        .word(0x0700)
        .build();
    let record = record!(GroupAssociations, bytes);
    let members: Vec<_> = record.members().map(|one| (one.kind, one.handle.0)).collect();
    assert_eq!(members, [(4, 0x0400), (7, 0x0700)]);
}

#[test]
fn system_event_log() {
    let bytes = StructureBuilder::new(15, 0)
        .word(0x1000)
        .word(0)
        .word(16)
        .bytes(&[4, 1])
        .dword(7)
        .dword(0)
        .bytes(&[1, 3, 2, 0x02, 0x00, 0x08, 0x04])
        .build();
    let record = record!(SystemEventLog, bytes);
    assert_eq!(record.area_length().unwrap().value, 0x1000);
    let kinds: Vec<_> = record.descriptors().map(|one| (one.kind, one.data_format)).collect();
    assert_eq!(kinds, [(LogEvent(2), LogData(0)), (LogEvent(8), LogData(4))]);
}

#[test]
fn memory_errors() {
    let bytes = StructureBuilder::new(18, 0)
        .bytes(&[6, 3, 3])
        .dword(0)
        .dword(0x8000_0000)
        .dword(0x1000)
        .dword(64)
        .build();
    let record = record!(MemoryError32, bytes);
    assert_eq!(record.error_type().unwrap().value.name(), Some("Single-bit error"));
    assert_eq!(record.resolution().unwrap().value, 64);
    let bytes = StructureBuilder::new(33, 0)
        .bytes(&[14, 4, 4])
        .dword(0)
        .qword(1 << 40)
        .qword(2 << 40)
        .dword(4096)
        .build();
    let record = record!(MemoryError64, bytes);
    assert_eq!(record.device_address().unwrap().value, 2 << 40);
    assert_eq!(record.operation().unwrap().value.name(), Some("Write"));
}

#[rstest]
#[case(0, 0x0000_03FF, None, AddressRange { first: 0, last: 0x000F_FFFF })]
#[case(u32::MAX, u32::MAX, Some((1 << 42, (1 << 43) - 1)), AddressRange { first: 1 << 42, last: (1 << 43) - 1 })]
fn mapped_addresses(
    #[case] start: u32,
    #[case] end: u32,
    #[case] extended: Option<(u64, u64)>,
    #[case] range: AddressRange,
) {
    let mut array = StructureBuilder::new(19, 0).dword(start).dword(end).word(0x1000).byte(2);
    let mut device = StructureBuilder::new(20, 0)
        .dword(start)
        .dword(end)
        .word(0x1100)
        .word(0x1300)
        .bytes(&[1, 0, 0]);
    if let Some((first, last)) = extended {
        array = array.qword(first).qword(last);
        device = device.qword(first).qword(last);
    }
    let (array, device) = (array.build(), device.build());
    assert_eq!(record!(ArrayMappedAddress, array).range().unwrap().value, range);
    assert_eq!(record!(DeviceMappedAddress, device).range().unwrap().value, range);
}

#[test]
fn pointing_device() {
    let bytes = StructureBuilder::new(21, 0).bytes(&[7, 0xA3, 2]).build();
    let record = record!(PointingDevice, bytes);
    assert_eq!(record.device_type().unwrap().value.name(), Some("Touch Pad"));
    assert_eq!(record.interface().unwrap().value.name(), Some("I2C"));
}

#[test]
fn portable_battery() {
    let bytes = StructureBuilder::new(22, 0)
        .text("Rear")
        .text("Maker")
        .byte(0)
        .byte(0)
        .text("B1")
        .byte(2)
        .word(5000)
        .word(11_100)
        .text("1.1")
        .byte(0xFF)
        .word(0x1234)
        .word((44 << 9) | (7 << 5) | 15)
        .text("LION")
        .byte(10)
        .dword(0)
        .build();
    let record = record!(PortableBattery, bytes);
    assert_eq!(record.design_capacity_mwh().unwrap().value, 50_000);
    assert_eq!(record.sbds_date().unwrap().value, (2024, 7, 15));
    assert_eq!(record.sbds_chemistry().unwrap().value.as_str(), Some("LION"));
}

#[test]
fn reset_security_and_power_controls() {
    let bytes =
        StructureBuilder::new(23, 0).byte(0x21).word(1).word(3).word(0xFFFF).word(5).build();
    let record = record!(SystemReset, bytes);
    assert_eq!(record.timer_interval_minutes().unwrap().value, 0xFFFF);
    let bytes = StructureBuilder::new(24, 0).byte(0b01_00_10_11).build();
    let record = record!(HardwareSecurity, bytes);
    assert_eq!(record.power_on_password().unwrap().value, SecurityState::Enabled);
    assert_eq!(record.keyboard_password().unwrap().value, SecurityState::Disabled);
    assert_eq!(record.administrator_password().unwrap().value, SecurityState::NotImplemented);
    assert_eq!(record.front_panel_reset().unwrap().value, SecurityState::Unknown);
    let bytes = StructureBuilder::new(25, 0).bytes(&[0x12, 0x31, 0x23, 0x59, 0x00]).build();
    assert_eq!(record!(SystemPowerControls, bytes).next_month().unwrap().value, 0x12);
}

#[test]
fn probes_and_cooling() {
    for kind in [26, 28, 29] {
        let bytes = StructureBuilder::new(kind, 0)
            .text("Probe")
            .byte(3 << 5 | 7)
            .word(1300)
            .word(1100)
            .word(10)
            .word(5)
            .word(100)
            .dword(0)
            .word(1200)
            .build();
        let structure = first(&bytes);
        let (location, status, nominal) = match kind {
            26 => {
                let probe = VoltageProbe::from_structure(structure).unwrap();
                (probe.location(), probe.status(), probe.nominal())
            }
            28 => {
                let probe = TemperatureProbe::from_structure(structure).unwrap();
                (probe.location(), probe.status(), probe.nominal())
            }
            _ => {
                let probe = CurrentProbe::from_structure(structure).unwrap();
                (probe.location(), probe.status(), probe.nominal())
            }
        };
        assert_eq!(location.unwrap().value.name(), Some("Motherboard"));
        assert_eq!(status.unwrap().value.name(), Some("OK"));
        assert_eq!(nominal.unwrap().value, 1200);
    }
    let bytes = StructureBuilder::new(27, 0)
        .word(0xFFFF)
        .byte(5 << 5 | 3)
        .byte(0)
        .dword(0)
        .word(8000)
        .text("Fan 1")
        .build();
    let record = record!(CoolingDevice, bytes);
    assert_eq!(record.device_type().unwrap().value.name(), Some("Fan"));
    assert_eq!(record.status().unwrap().value.name(), Some("Critical"));
    assert_eq!(record.nominal_speed_rpm().unwrap().value, 8000);
}

#[test]
fn remote_access_boot_integrity_and_boot_information() {
    let bytes = StructureBuilder::new(30, 0).text("Maker").byte(3).build();
    assert_eq!(record!(RemoteAccess, bytes).connections().unwrap().value.set().count(), 2);
    let mut bytes = vec![31, 28, 0, 0];
    bytes.resize(28, 0);
    bytes[4] = 0u8.wrapping_sub(31 + 28);
    bytes.extend([0, 0]);
    assert!(record!(BootIntegrity, bytes).checksum_holds().unwrap().value);
    let bytes = StructureBuilder::new(32, 0).bytes(&[0; 6]).byte(8).bytes(&[1, 2]).build();
    let record = record!(BootInformation, bytes);
    assert_eq!(record.status().unwrap().value.name(), Some("System watchdog timer expired"));
    assert_eq!(record.detail(), [1, 2]);
}

#[test]
fn management_devices() {
    let bytes = StructureBuilder::new(34, 0).text("LM78").byte(4).dword(0x290).byte(3).build();
    let record = record!(ManagementDevice, bytes);
    assert_eq!(record.address_type().unwrap().value.name(), Some("I/O Port"));
    let bytes =
        StructureBuilder::new(35, 0).text("C").word(0x2200).word(0x1C00).word(0xFFFF).build();
    assert_eq!(
        record!(ManagementDeviceComponent, bytes).component_handle().unwrap().value.0,
        0x1C00
    );
    let bytes =
        StructureBuilder::new(36, 0).word(1).word(2).word(3).word(4).word(5).word(0x8000).build();
    let record = record!(ManagementThresholds, bytes);
    assert_eq!(record.upper_non_recoverable().unwrap().value, 0x8000);
}

#[test]
fn memory_channel() {
    let bytes =
        StructureBuilder::new(37, 0).bytes(&[3, 8, 2, 4]).word(0x1100).byte(4).word(0x1101).build();
    let record = record!(MemoryChannel, bytes);
    let devices: Vec<_> = record.devices().map(|one| (one.load, one.handle.0)).collect();
    assert_eq!(devices, [(4, 0x1100), (4, 0x1101)]);
}

#[rstest]
#[case(1, 0xCA3, 0x00, IpmiAddress::Port(0xCA2))]
#[case(1, 0xCA3, 0x10, IpmiAddress::Port(0xCA3))]
#[case(3, 0xFE00_0000, 0x00, IpmiAddress::Memory(0xFE00_0000))]
#[case(4, 0x20, 0x00, IpmiAddress::SmBus(0x10))]
fn ipmi(#[case] kind: u8, #[case] base: u64, #[case] modifier: u8, #[case] at: IpmiAddress) {
    let bytes = StructureBuilder::new(38, 0)
        .bytes(&[kind, 0x20, 0x20, 0xFF])
        .qword(base)
        .bytes(&[modifier, 5])
        .build();
    let record = record!(IpmiDevice, bytes);
    assert_eq!(record.version().unwrap().value, (2, 0));
    assert_eq!(record.address().unwrap().value, at);
}

#[test]
fn power_supply() {
    let bytes = StructureBuilder::new(39, 0)
        .byte(1)
        .text("Bay 1")
        .text("P750")
        .text("Maker")
        .text("PS-1")
        .byte(0)
        .text("P750-T")
        .text("B2")
        .word(750)
        .word(0x0003 | 3 << 7 | 4 << 10)
        .word(0xFFFF)
        .word(0xFFFF)
        .word(0xFFFF)
        .build();
    let record = record!(SystemPowerSupply, bytes);
    assert_eq!(record.max_power_watts().unwrap().value, 750);
    assert!(record.is_present().unwrap().value && record.is_hot_replaceable().unwrap().value);
    assert!(!record.is_unplugged().unwrap().value);
    assert_eq!(record.status().unwrap().value.name(), Some("OK"));
    assert_eq!(record.supply_type().unwrap().value.name(), Some("Switching"));
}

#[test]
fn additional_information() {
    let bytes = StructureBuilder::new(40, 0)
        .byte(3)
        .bytes(&[6])
        .word(0x0400)
        .byte(0x19)
        .text("Socket X")
        .bytes(&[0x50])
        .bytes(&[0])
        .build();
    let record = record!(AdditionalInformation, bytes);
    let entries: Vec<_> = record.entries().collect();
    assert_eq!(entries.len(), 1, "an entry of no length ends the list");
    assert_eq!(entries[0].referenced_handle, Handle(0x0400));
    assert_eq!((entries[0].text.as_str(), entries[0].value), (Some("Socket X"), &[0x50][..]));
}

#[test]
fn onboard_device_extended() {
    let bytes =
        StructureBuilder::new(41, 0).text("LAN 1").bytes(&[0x85, 1]).word(0).bytes(&[5, 0]).build();
    let record = record!(OnboardDeviceExtended, bytes);
    assert_eq!(record.device_type().unwrap().value.name(), Some("Ethernet"));
    assert!(record.is_enabled().unwrap().value);
    assert_eq!(record.pci_address().unwrap().value, "0000:05:00.0");
}

#[test]
fn host_interface() {
    let bytes = StructureBuilder::new(42, 0)
        .bytes(&[0x40, 3, 2, 0xAA, 0xBB])
        .bytes(&[2, 4, 2, 9, 9, 2, 200, 1])
        .build();
    let record = record!(HostInterface, bytes);
    assert_eq!(record.interface_type().unwrap().value.name(), Some("Network Host Interface"));
    assert_eq!(record.data(), [2, 0xAA, 0xBB]);
    let protocols: Vec<_> = record.protocols().collect();
    assert_eq!(protocols, [HostProtocol { kind: 4, data: &[9, 9] }], "a cut one is left out");
}

#[test]
fn tpm() {
    let bytes = StructureBuilder::new(43, 0)
        .bytes(b"TRN\0")
        .bytes(&[2, 0])
        .dword(0x0007_0002)
        .dword(0)
        .text("TPM 2.0")
        .qword(1 << 3)
        .dword(0)
        .build();
    let record = record!(TpmDevice, bytes);
    assert_eq!(record.vendor_id().unwrap().value, "TRN");
    assert_eq!(record.major_version().unwrap().value, 2);
}

#[test]
fn processor_additional() {
    let bytes = StructureBuilder::new(44, 0).word(0x0400).bytes(&[9, 7, 1, 2, 3]).build();
    let record = record!(ProcessorAdditional, bytes);
    assert_eq!(record.architecture().unwrap().value.name(), Some("64-bit RISC-V (RV64)"));
    assert_eq!(record.data(), [1, 2, 3], "no more than is there");
}

#[test]
fn firmware_inventory() {
    let bytes = StructureBuilder::new(45, 0)
        .text("BMC")
        .text("2.14")
        .byte(0)
        .text("id")
        .byte(0)
        .text("2026-01-31")
        .text("Maker")
        .byte(0)
        .qword(u64::MAX)
        .word(1)
        .bytes(&[4, 1])
        .word(0x2A00)
        .build();
    let record = record!(FirmwareInventory, bytes);
    assert_eq!(record.state().unwrap().value.name(), Some("Enabled"));
    assert!(record.image_size_bytes().is_none());
    assert_eq!(handles(record.associated_handles()), [0x2A00]);
}

#[test]
fn string_property_and_inactive() {
    let bytes = StructureBuilder::new(46, 0).word(1).text("PciRoot(0x0)").word(0x2900).build();
    let record = record!(StringProperty, bytes);
    assert_eq!(record.property_id().unwrap().value.name(), Some("UEFI device path"));
    assert_eq!(record.value().unwrap().value.as_str(), Some("PciRoot(0x0)"));
    let bytes = StructureBuilder::new(126, 0).byte(1).build();
    assert!(Inactive::from_structure(first(&bytes)).is_some());
}
