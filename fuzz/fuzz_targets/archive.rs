//! Reads an archive and asks it a few questions.

#![no_main]

use std::path::Path;

use libfuzzer_sys::fuzz_target;
use tectum_survey::source::{Archive, Door, Packing};

fuzz_target!(|bytes: &[u8]| {
    // Plain, so that the fuzzer need not learn to compress.
    let Ok(archive) = Archive::read(bytes, Packing::Plain) else { return };
    let lease = Door::to_archive(archive).lease();
    for path in ["/etc/os-release", "/sys/block", "/a/../b/./c", "/"] {
        let path = Path::new(path);
        let _ = lease.read(path, 1 << 16);
        let _ = lease.list(path);
        let _ = lease.resolve(path);
    }
});
