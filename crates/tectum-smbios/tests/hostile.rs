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
    if let Some(it) = BiosInformation::from_structure(structure) {
        let _ = (it.rom_size(), it.supports_uefi(), it.is_virtual_machine(), it.vendor());
    }
    if let Some(it) = SystemInformation::from_structure(structure) {
        let _ = it.uuid().map(|uuid| uuid.value.to_text(Version { major: 3, minor: 0 }));
    }
    if let Some(it) = BaseboardInformation::from_structure(structure) {
        let _ = it.contained_handles().count();
    }
    if let Some(it) = ChassisInformation::from_structure(structure) {
        let _ = (it.sku_number(), it.chassis_type(), it.has_lock());
    }
    if let Some(it) = ProcessorInformation::from_structure(structure) {
        let _ = (it.core_count(), it.thread_count(), it.enabled_core_count(), it.voltage_mv());
    }
    if let Some(it) = CacheInformation::from_structure(structure) {
        let _ = (it.installed_size(), it.maximum_size(), it.level());
    }
    if let Some(it) = PhysicalMemoryArray::from_structure(structure) {
        let _ = it.maximum_capacity_bytes();
    }
    if let Some(it) = MemoryDevice::from_structure(structure) {
        let _ = (it.size(), it.speed(), it.configured_speed(), it.rank(), it.rcd_revision());
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
            (prop_oneof![Just(0u8), Just(1), Just(2), Just(3), Just(4), Just(7), Just(16), Just(17), any::<u8>()],
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
