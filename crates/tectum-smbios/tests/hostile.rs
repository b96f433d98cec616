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

mod support;

use proptest::prelude::*;
use support::exhaust;
use tectum_smbios::{EntryPoint, inspect, walk};

fn check(bytes: &[u8]) -> Result<(), TestCaseError> {
    let mut count = 0;
    for structure in walk(bytes).flatten() {
        exhaust(structure);
        count += 1;
    }
    prop_assert!(count <= bytes.len() / 4 + 1);
    let whole = inspect(bytes, EntryPoint::parse(bytes).ok().as_ref());
    prop_assert_eq!(whole.structures, count);
    prop_assert!(whole.used_bytes <= bytes.len());
    Ok(())
}

proptest! {
    #[test]
    fn any_bytes(bytes in proptest::collection::vec(any::<u8>(), 0..2048)) {
        check(&bytes)?;
        let _ = EntryPoint::parse(&bytes);
    }

    #[test]
    fn structure_like_bytes(bytes in support::structure_like()) {
        check(&bytes)?;
    }

    #[test]
    fn entry_points(tail in proptest::collection::vec(any::<u8>(), 0..40), new in any::<bool>()) {
        let mut bytes = if new { b"_SM3_".to_vec() } else { b"_SM_".to_vec() };
        bytes.extend(tail);
        let _ = EntryPoint::parse(&bytes);
    }
}
