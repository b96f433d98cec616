#![no_main]
//! Whatever stands in a file: it is made anew or withheld, and what was made anew can be made anew
//! again.

use std::{collections::BTreeSet, path::Path};

use libfuzzer_sys::fuzz_target;
use tectum_report::redact::Pseudonyms;
use tectum_survey::redact::rewritten;

const PATHS: [&str; 26] = [
    "/etc/apk/repositories",
    "/etc/apt/sources.list",
    "/etc/apt/sources.list.d/a.sources",
    "/etc/fstab",
    "/etc/hostname",
    "/etc/os-release",
    "/etc/pacman.conf",
    "/etc/pacman.d/mirrorlist",
    "/etc/resolv.conf",
    "/etc/yum.repos.d/a.repo",
    "/proc/1/cgroup",
    "/proc/cmdline",
    "/proc/cpuinfo",
    "/proc/net/fib_trie",
    "/proc/net/if_inet6",
    "/proc/net/ipv6_route",
    "/proc/net/route",
    "/proc/self/mountinfo",
    "/proc/swaps",
    "/proc/version",
    "/run/udev/data/b8:1",
    "/sys/block/sda/device/vpd_pg83",
    "/sys/block/sda/device/vpd_pg89",
    "/sys/class/drm/card0-HDMI-A-1/edid",
    "/sys/firmware/dmi/tables/DMI",
    "/sys/block/dm-0/dm/uuid",
];

fuzz_target!(|input: (u8, Vec<u8>)| {
    let (which, bytes) = input;
    let path = Path::new(PATHS[usize::from(which) % PATHS.len()]);
    let by = Pseudonyms::new(b"a key of a good length for fuzzing", &BTreeSet::new());
    if let Some(new) = rewritten(path, &bytes, &by) {
        assert!(new.len() <= 4096 + bytes.len() * 8, "it does not grow out of hand");
        rewritten(path, &new, &by).expect("what was made anew is of the same format");
    }
});
