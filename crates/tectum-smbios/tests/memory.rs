//! Reading never takes more memory than a small multiple of the bytes that are read.

#![allow(clippy::unwrap_used, missing_docs, reason = "a test stops at what is not as it should be")]

mod support;

use proptest::{prelude::*, test_runner::TestRunner};
use tectum_smbios::{EntryPoint, inspect, walk};

#[global_allocator]
static ALLOCATOR: dhat::Alloc = dhat::Alloc;

/// What a fixed number of short texts may take whatever the input is: the few bytes that an error
/// keeps, an address as text.
const FIXED: usize = 4096;

/// The one test of this program: the allocator counts for the whole process.
#[test]
fn memory_is_bounded_by_the_input() {
    let kinds = prop_oneof![
        support::structure_like(),
        proptest::collection::vec(any::<u8>(), 0..4096),
        // The most structures and the longest strings that so many bytes can hold.
        (1usize..2000).prop_map(|count| [127 - 1, 4, 0, 0, 0, 0].repeat(count)),
        (1usize..8000).prop_map(|length| {
            let mut bytes = vec![1, 8, 0, 0, 1, 1, 1, 1];
            bytes.extend(std::iter::repeat_n(0xFF, length));
            bytes
        }),
    ];
    TestRunner::default()
        .run(&kinds, |bytes| {
            let profiler = dhat::Profiler::builder().testing().build();
            for structure in walk(&bytes).flatten() {
                support::exhaust(structure);
            }
            let entry = EntryPoint::parse(&bytes).ok();
            let looked_at = inspect(&bytes, entry.as_ref());
            let most = dhat::HeapStats::get().max_bytes;
            drop(looked_at);
            drop(profiler);
            prop_assert!(most <= 16 * bytes.len() + FIXED, "{most} bytes for {}", bytes.len());
            Ok(())
        })
        .unwrap();
}
