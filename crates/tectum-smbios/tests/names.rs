//! Codes and bits by their names, and tables looked at as a whole.

#![allow(clippy::unwrap_used, missing_docs, reason = "a test stops at what is not as it should be")]

use rstest::rstest;
use tectum_demo::{StructureBuilder, entry_point_32, table};
use tectum_smbios::{
    Checksum, EntryPoint, Handle, Oddity, Structure, TableProblem, inspect, types::*, walk,
};

fn first(bytes: &[u8]) -> Structure<'_> {
    walk(bytes).next().unwrap().unwrap()
}

/// A processor with a family byte and family 2, as long as the standard's version 2.6 has it.
fn processor(byte: u8, word: u16) -> Vec<u8> {
    StructureBuilder::new(4, 0)
        .text("S1")
        .bytes(&[3, byte])
        .bytes(&[0; 0x28 - 0x07])
        .word(word)
        .build()
}

#[rstest]
#[case::from_the_byte(0xB3, 0xFFFF, Some("Intel Xeon processor"))]
#[case::from_family_2(0xFE, 0x101, Some("ARMv8"))]
#[case::family_2_may_repeat_the_byte(0xFE, 0x6B, Some("AMD Zen Processor Family"))]
#[case::not_in_the_standard(0xFE, 0x7777, None)]
fn processor_family(#[case] byte: u8, #[case] word: u16, #[case] name: Option<&str>) {
    let bytes = processor(byte, word);
    let family = ProcessorInformation::from_structure(first(&bytes)).unwrap().family().unwrap();
    assert_eq!(family.value.name(), name);
    assert_eq!(family.offset, if byte == 0xFE { 0x28 } else { 0x06 });
    if name.is_none() {
        assert_eq!(family.value.to_string(), "code 0x7777", "the number is kept");
    }
}

#[test]
fn family_2_of_a_structure_that_ends_before_it() {
    let bytes = StructureBuilder::new(4, 0).text("S1").bytes(&[3, 0xFE, 0]).build();
    let processor = ProcessorInformation::from_structure(first(&bytes)).unwrap();
    assert!(processor.family().is_none(), "absent, not the indicator's number");
}

fn flags(set: impl Iterator<Item = tectum_smbios::Flag>) -> Vec<String> {
    set.map(|flag| flag.to_string()).collect()
}

#[rstest]
#[case(0, &[])]
#[case(1 << 7 | 1 << 13, &["Synchronous", "Registered (Buffered)"])]
#[case(0x8000, &["LRDIMM"])]
fn memory_type_detail(#[case] bits: u16, #[case] names: &[&str]) {
    assert_eq!(flags(MemoryTypeDetail(bits).set()), names);
}

#[test]
fn every_structure_type_of_the_standard_has_a_name() {
    let named: Vec<u8> = (0..=255).filter(|number| title(*number).is_some()).collect();
    let defined: Vec<u8> = (0..=46).chain([126, 127]).collect();
    assert_eq!(named, defined);
}

#[test]
fn a_bit_without_a_name_keeps_its_number() {
    assert_eq!(flags(BiosCharacteristics(1 << 7 | 1 << 40).set()), ["PCI is supported", "bit 40"]);
    assert_eq!(flags(BiosExtension2(0x88).set()), ["UEFI Specification is supported", "bit 7"]);
    assert_eq!(flags(ProcessorCharacteristics(0x04).set()), ["64-bit Capable"]);
    assert_eq!(flags(MemoryModes(0x18).set()).len(), 2);
    assert_eq!(flags(BoardFeatures(0x09).set()), ["Hosting board", "Replaceable"]);
    assert_eq!(flags(TpmCharacteristics(8).set()), ["Family configurable via firmware update"]);
    assert_eq!(flags(FirmwareCharacteristics(3).set()), ["Updatable", "Write-Protected"]);
    assert_eq!(flags(SramTypes(0x10).set()), ["Pipeline Burst"]);
    assert_eq!(flags(SlotCharacteristics2(0x02).set()), ["Slot supports hot-plug devices"]);
}

#[test]
fn a_cache_says_where_it_is_and_how_it_writes() {
    // Level 3, socketed, external, enabled, write back.
    let bytes = StructureBuilder::new(7, 0).text("L3").word(0x01AA).build();
    let cache = CacheInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(cache.level().unwrap().value, 3);
    assert!(cache.is_socketed().unwrap().value && cache.is_enabled().unwrap().value);
    assert_eq!(cache.location().unwrap().value.name(), Some("External"));
    assert_eq!(cache.operational_mode().unwrap().value.name(), Some("Write Back"));
}

#[test]
fn a_chassis_says_what_it_can_hold() {
    let chassis = |length: u8, records: &[u8]| {
        StructureBuilder::new(3, 0)
            .text("Holm Works")
            .bytes(&[23, 0, 0, 0, 3, 3, 3, 3, 0, 0, 0, 0, 2, 2])
            .bytes(&[2, length])
            .bytes(records)
            .build()
    };
    let bytes = chassis(3, &[0x03, 0, 16, 0x80 | 39, 1, 2]);
    let record = ChassisInformation::from_structure(first(&bytes)).unwrap();
    let held: Vec<_> = record.contained_elements().collect();
    assert_eq!(held.len(), 2);
    assert!(held.iter().any(|one| one.kind == ContainedKind::Board(BoardType(3))
        && (one.minimum, one.maximum) == (0, 16)));
    assert!(held.iter().any(|one| one.kind == ContainedKind::Structure(39)));
    // A length that cannot hold a record, and records that the structure does not have.
    let bytes = chassis(2, &[0x03, 0, 16, 0x80]);
    let record = ChassisInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(record.contained_elements().count(), 0);
    let bytes = chassis(3, &[0x03, 0, 16, 0x80]);
    let record = ChassisInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(record.contained_elements().count(), 1);
}

#[test]
fn a_reset_says_what_it_does() {
    let bytes = StructureBuilder::new(23, 0).byte(0b0011_0011).build();
    let reset = SystemReset::from_structure(first(&bytes)).unwrap();
    assert!(reset.is_enabled().unwrap().value && reset.has_watchdog().unwrap().value);
    assert_eq!(reset.boot_option().unwrap().value.name(), Some("Operating system"));
    assert_eq!(reset.boot_option_on_limit().unwrap().value.name(), Some("System utilities"));
}

fn sound() -> Vec<u8> {
    table([StructureBuilder::new(1, 1).text("Holm Works"), StructureBuilder::new(3, 2).byte(0)])
}

fn entry(declared: &[u8], count: u16) -> EntryPoint {
    EntryPoint::parse(&entry_point_32((2, 8), declared, count)).unwrap()
}

#[test]
fn a_sound_table_has_nothing_odd() {
    let table = sound();
    let whole = inspect(&table, Some(&entry(&table, 3)));
    assert_eq!((whole.structures, whole.used_bytes), (3, table.len()));
    assert_eq!(whole.oddities, []);
    // Zeros behind the end are padding.
    let mut padded = table.clone();
    padded.extend([0; 40]);
    assert_eq!(inspect(&padded, None).oddities, []);
}

#[test]
fn a_count_that_is_wrong() {
    let table = sound();
    let whole = inspect(&table, Some(&entry(&table, 9)));
    assert_eq!(whole.oddities, [Oddity::Count { declared: 9, found: 3 }]);
}

#[test]
fn a_length_that_is_wrong() {
    let table = sound();
    let whole = inspect(&table, Some(&entry(&table[..8], 3)));
    assert_eq!(whole.oddities, [Oddity::Length { declared: 8, given: table.len() }]);
}

#[test]
fn handles_that_are_not_unique() {
    let table = table([
        StructureBuilder::new(1, 7).byte(0),
        StructureBuilder::new(2, 7).byte(0),
        StructureBuilder::new(3, 8).byte(0),
    ]);
    let whole = inspect(&table, None);
    assert_eq!(whole.oddities, [Oddity::SameHandle { handle: Handle(7), count: 2 }]);
}

#[test]
fn a_table_that_does_not_end() {
    let bytes = StructureBuilder::new(1, 7).byte(0).build();
    let whole = inspect(&bytes, None);
    assert_eq!(whole.oddities, [Oddity::Problem(TableProblem::NoEnd)]);
    assert_eq!(whole.structures, 1, "what is readable is read");
}

#[test]
fn bytes_behind_the_end() {
    let mut bytes = sound();
    bytes.extend(b"rest");
    let whole = inspect(&bytes, None);
    assert_eq!(whole.oddities, [Oddity::BytesBehindEnd { count: 4 }]);
}

#[test]
fn a_checksum_that_does_not_hold() {
    let table = sound();
    let mut bytes = entry_point_32((2, 8), &table, 3);
    let last = bytes.len() - 1;
    bytes[last] ^= 0x01;
    let entry = EntryPoint::parse(&bytes).unwrap();
    assert_ne!(entry.checksum, Checksum::Holds);
    let whole = inspect(&table, Some(&entry));
    assert!(whole.oddities.iter().all(|odd| matches!(odd, Oddity::Checksum { .. })));
    assert_eq!(whole.oddities.len(), 2);
    assert!(whole.oddities[0].to_string().contains("checksum does not hold"));
}
