//! Structures encoded by meaning and decoded again, and the corners of the standard.

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
use tectum_demo::{StructureBuilder, entry_point_32, table};
use tectum_smbios::{
    Checksum, EntryPoint, EntryPointError, Structure, TableProblem, Uuid, Version,
    types::{
        BaseboardInformation, BiosInformation, CacheInformation, CacheSize, ChassisInformation,
        EndOfTable, MemoryDevice, MemorySize, MemorySpeed, PhysicalMemoryArray,
        ProcessorInformation, RomSize, SystemInformation,
    },
    walk,
};

fn first(bytes: &[u8]) -> Structure<'_> {
    walk(bytes).next().unwrap().unwrap()
}

#[test]
fn a_table_is_walked_to_its_end() {
    let bytes = table([
        StructureBuilder::new(1, 0x10).text("Holm").text(""),
        StructureBuilder::new(200, 0x11).byte(7),
    ]);
    let all: Vec<_> = walk(&bytes).collect::<Result<_, _>>().unwrap();
    let kinds: Vec<u8> = all.iter().map(Structure::kind).collect();
    assert_eq!(kinds, [1, 200, 127]);
    assert!(EndOfTable::from_structure(all[2]).is_some());
    assert_eq!(all[1].strings().count(), 0);
}

#[rstest]
#[case::header(&[1, 2], TableProblem::HeaderCut { offset: 0 })]
#[case::length(&[1, 3, 0, 0, 0, 0], TableProblem::LengthTooSmall { offset: 0, length: 3 })]
#[case::formatted(&[1, 9, 0, 0, 0, 0], TableProblem::FormattedCut { offset: 0, length: 9, left: 6 })]
#[case::empty(&[], TableProblem::NoEnd)]
fn damage_is_told_where_it_is(#[case] bytes: &[u8], #[case] problem: TableProblem) {
    assert_eq!(walk(bytes).next(), Some(Err(problem)));
}

#[test]
fn strings_without_an_end_give_the_structure_and_then_the_problem() {
    let mut bytes = vec![1, 5, 0, 0, 1];
    bytes.extend(b"Holm\0");
    let mut walk = walk(&bytes);
    let structure = walk.next().unwrap().unwrap();
    assert_eq!(structure.text(1).as_str(), Some("Holm"));
    assert_eq!(walk.next(), Some(Err(TableProblem::StringsCut { offset: 0 })));
    assert_eq!(walk.next(), None);
}

#[test]
fn a_field_past_the_structure_is_absent() {
    let bytes = StructureBuilder::new(0, 0).text("V").text("1").build();
    let bios = BiosInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(bios.vendor().unwrap().value.as_str(), Some("V"));
    assert!(bios.release_date().is_none());
    assert!(bios.rom_size().is_none());
    assert!(bios.supports_uefi().is_none());
}

#[test]
fn strings_are_unset_dangling_or_not_utf8() {
    let bytes = StructureBuilder::new(1, 0).byte(0).byte(9).text("x").build();
    let system = SystemInformation::from_structure(first(&bytes)).unwrap();
    assert!(system.manufacturer().unwrap().value.is_unset());
    assert!(system.product_name().unwrap().value.is_dangling());
    let mut raw = vec![1, 5, 0, 0, 1];
    raw.extend(b"caf\xE9\0\0");
    assert_eq!(first(&raw).text(1).escaped().unwrap(), "caf\\xE9");
}

#[rstest]
#[case(0x0F, 0, Some(RomSize::Bytes(1 << 20)))]
#[case(0xFF, 32, Some(RomSize::Bytes(32 << 20)))]
#[case(0xFF, 0x4002, Some(RomSize::Bytes(2 << 30)))]
#[case(0xFF, 0xC001, Some(RomSize::ReservedUnit(0xC001)))]
fn rom_sizes(#[case] code: u8, #[case] extended: u16, #[case] size: Option<RomSize>) {
    let bytes = StructureBuilder::new(0, 0)
        .bytes(&[0; 5])
        .byte(code)
        .bytes(&[0; 14])
        .word(extended)
        .build();
    let bios = BiosInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(bios.rom_size().map(|field| field.value), size);
}

#[rstest]
#[case(Version { major: 2, minor: 5 }, "00112233-4455-6677-8899-aabbccddeeff")]
#[case(Version { major: 2, minor: 6 }, "33221100-5544-7766-8899-aabbccddeeff")]
#[case(Version { major: 3, minor: 7 }, "33221100-5544-7766-8899-aabbccddeeff")]
fn uuids_follow_the_tables_version(#[case] version: Version, #[case] text: &str) {
    let uuid = Uuid([
        0x00, 0x11, 0x22, 0x33, 0x44, 0x55, 0x66, 0x77, 0x88, 0x99, 0xAA, 0xBB, 0xCC, 0xDD, 0xEE,
        0xFF,
    ]);
    assert_eq!(uuid.to_text(version), text);
}

#[rstest]
#[case::not_set("ffffffff-ffff-ffff-ffff-ffffffffffff", true)]
#[case::not_there("00000000-0000-0000-0000-000000000000", true)]
#[case::one_byte("fefefefe-fefe-fefe-fefe-fefefefefefe", true)]
#[case::counted("03000200-0400-0500-0006-000700080009", true)]
#[case::counted_in_the_other_order("00020003-0004-0005-0006-000700080009", true)]
#[case::typed("12345678-1234-5678-90AB-CDDEEFAABBCC", true)]
#[case::typed_in_the_other_order("78563412-3412-7856-90ab-cddeefaabbcc", true)]
#[case::with_an_address("00000000-0000-0000-0000-ac1f6b000001", false)]
#[case::of_a_machine("8b0a5d1e-3c57-4f5e-9d1a-77c0a1e4b201", false)]
fn a_uuid_that_many_machines_have_says_nothing(#[case] text: &str, #[case] nothing: bool) {
    let uuid = Uuid::from_text(text).unwrap();
    assert_eq!(uuid.says_nothing(), nothing);
    assert_eq!(uuid.to_text(Version { major: 2, minor: 4 }), text.to_ascii_lowercase());
}

#[rstest]
#[case("")]
#[case("8b0a5d1e-3c57-4f5e-9d1a-77c0a1e4b2")]
#[case("8b0a5d1e-3c57-4f5e-9d1a-77c0a1e4b20g")]
#[case("8b0a5d1e-3c57-4f5e-9d1a-77c0a1e4b2012")]
fn another_text_is_no_uuid(#[case] text: &str) {
    assert_eq!(Uuid::from_text(text), None);
}

#[test]
fn a_chassis_keeps_its_sku_behind_the_contained_elements() {
    let bytes = StructureBuilder::new(3, 0)
        .text("M")
        .byte(0x97)
        .bytes(&[0; 7])
        .dword(0)
        .byte(4)
        .byte(2)
        .byte(2)
        .byte(3)
        .bytes(&[1, 2, 3, 4, 5, 6])
        .text("SKU-9")
        .build();
    let chassis = ChassisInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(chassis.chassis_type().unwrap().value.name(), Some("Rack Mount Chassis"));
    assert!(chassis.has_lock().unwrap().value);
    assert_eq!(chassis.sku_number().unwrap().value.as_str(), Some("SKU-9"));
    assert_eq!(chassis.height_units().unwrap().value, 4);
}

#[test]
fn a_board_names_what_it_holds() {
    let bytes = StructureBuilder::new(2, 0)
        .bytes(&[0; 7])
        .word(0x0300)
        .byte(10)
        .byte(3)
        .word(0x0400)
        .word(0x0401)
        .build();
    let board = BaseboardInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(board.board_type().unwrap().value.name(), Some("Motherboard"));
    let handles: Vec<u16> = board.contained_handles().map(|handle| handle.0).collect();
    assert_eq!(handles, [0x0400, 0x0401], "as many as are there, not as many as are promised");
}

#[rstest]
#[case(12, None, Some(12))]
#[case(0xFF, Some(384), Some(384))]
#[case(0xFF, None, None)]
#[case(0, None, None)]
fn core_counts_past_a_byte(
    #[case] code: u8,
    #[case] second: Option<u16>,
    #[case] cores: Option<u16>,
) {
    let mut builder = StructureBuilder::new(4, 0).bytes(&[0; 31]).byte(code).byte(0).byte(0);
    if let Some(second) = second {
        builder = builder.word(0).word(0).word(second);
    }
    let bytes = builder.build();
    let processor = ProcessorInformation::from_structure(first(&bytes)).unwrap();
    assert_eq!(processor.core_count().map(|field| field.value), cores);
}

#[rstest]
#[case(0x0040, 0, 64 << 10)]
#[case(0x8010, 0, 16 * (64 << 10))]
#[case(0xFFFF, 0x8000_4000, 0x4000 * (64 << 10))]
fn cache_sizes(#[case] short: u16, #[case] long: u32, #[case] bytes: u64) {
    let structure = StructureBuilder::new(7, 0)
        .text("L3")
        .word(0x0182)
        .word(short)
        .word(short)
        .bytes(&[0; 8])
        .dword(long)
        .dword(long)
        .build();
    let cache = CacheInformation::from_structure(first(&structure)).unwrap();
    assert_eq!(cache.level().unwrap().value, 3);
    assert!(cache.is_enabled().unwrap().value);
    assert_eq!(cache.installed_size().unwrap().value, CacheSize(bytes));
    assert_eq!(cache.maximum_size().unwrap().value, CacheSize(bytes));
}

#[rstest]
#[case(0x0010_0000, None, Some(1 << 30))]
#[case(0x8000_0000, Some(8 << 40), Some(8 << 40))]
#[case(0x8000_0000, None, None)]
fn array_capacities(#[case] kib: u32, #[case] extended: Option<u64>, #[case] bytes: Option<u64>) {
    let mut builder =
        StructureBuilder::new(16, 0).bytes(&[3, 3, 6]).dword(kib).word(0xFFFE).word(8);
    if let Some(extended) = extended {
        builder = builder.qword(extended);
    }
    let structure = builder.build();
    let array = PhysicalMemoryArray::from_structure(first(&structure)).unwrap();
    assert_eq!(array.maximum_capacity_bytes().map(|field| field.value), bytes);
    assert_eq!(array.error_correction().unwrap().value.name(), Some("Multi-bit ECC"));
}

fn device(size: u16, speed: u16, attributes: u8, extended: u32, fast: u32) -> Vec<u8> {
    StructureBuilder::new(17, 0)
        .bytes(&[0; 8])
        .word(size)
        .bytes(&[0; 7])
        .word(speed)
        .bytes(&[0; 4])
        .byte(attributes)
        .dword(extended)
        .bytes(&[0; 0x34])
        .dword(fast)
        .build()
}

#[rstest]
#[case::none(0, 0, MemorySize::NotInstalled)]
#[case::unknown(0xFFFF, 0, MemorySize::Unknown)]
#[case::mib(0x4000, 0, MemorySize::Bytes(16 << 30))]
#[case::kib(0x8200, 0, MemorySize::Bytes(512 << 10))]
#[case::largest_short(0x7FFE, 0, MemorySize::Bytes(0x7FFE << 20))]
#[case::extended(0x7FFF, 0x0002_0000, MemorySize::Bytes(128 << 30))]
fn module_sizes(#[case] size: u16, #[case] extended: u32, #[case] expected: MemorySize) {
    let bytes = device(size, 0, 0, extended, 0);
    let module = MemoryDevice::from_structure(first(&bytes)).unwrap();
    assert_eq!(module.size().unwrap().value, expected);
}

#[rstest]
#[case(0, 0, MemorySpeed::Unknown)]
#[case(4800, 0, MemorySpeed::MegaTransfers(4800))]
#[case(0xFFFF, 70_000, MemorySpeed::MegaTransfers(70_000))]
fn module_speeds(#[case] speed: u16, #[case] fast: u32, #[case] expected: MemorySpeed) {
    let bytes = device(1, speed, 0x12, 0, fast);
    let module = MemoryDevice::from_structure(first(&bytes)).unwrap();
    assert_eq!(module.speed().unwrap().value, expected);
    assert_eq!(module.rank().unwrap().value, 2);
}

#[test]
fn a_code_that_the_standard_does_not_list_stays_a_number() {
    let bytes = StructureBuilder::new(17, 0).bytes(&[0; 10]).byte(0xEE).build();
    let module = MemoryDevice::from_structure(first(&bytes)).unwrap();
    let form = module.form_factor().unwrap().value;
    assert_eq!((form.name(), form.to_string().as_str()), (None, "code 0xee"));
}

#[test]
fn entry_points_are_read_and_their_checksums_told() {
    let body = table([]);
    let mut bytes = entry_point_32((2, 8), &body, 1);
    let entry = EntryPoint::parse(&bytes).unwrap();
    assert_eq!(entry.version, Version { major: 2, minor: 8 });
    assert_eq!(entry.table_length as usize, body.len());
    assert_eq!(entry.checksum, Checksum::Holds);
    assert_eq!(entry.intermediate_checksum, Some(Checksum::Holds));
    bytes[7] += 1;
    assert_eq!(EntryPoint::parse(&bytes).unwrap().checksum, Checksum::Off(1));
    assert_eq!(
        EntryPoint::parse(&bytes[..20]),
        Err(EntryPointError::TooShort { needed: 31, found: 20 })
    );
    assert!(matches!(EntryPoint::parse(b"_DM_"), Err(EntryPointError::NoAnchor { .. })));
    let mut new = b"_SM3_\x00\x18\x03\x07\x01\x01\x00".to_vec();
    new.extend(100u32.to_le_bytes());
    new.extend(0x1234u64.to_le_bytes());
    let entry = EntryPoint::parse(&new).unwrap();
    assert_eq!((entry.version.to_string().as_str(), entry.table_address), ("3.7", 0x1234));
}
