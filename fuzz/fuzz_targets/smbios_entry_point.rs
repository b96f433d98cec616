//! Reads an entry point.

#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let _ = tectum_smbios::EntryPoint::parse(bytes);
});
