//! Machines that somebody made up to cost time or memory: what they cost is bounded by what they hold.
//!
//! One test in a file of its own, because the memory is that of the largest child of this process.

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

use std::{fmt::Write, time::Instant};

use support::Place;
use tectum_demo::Tree;

/// A machine with so many of something.
type Make = fn(&mut Tree, usize);

const SHAPES: [(&str, usize, Make); 6] = [
    ("swaps and lines of fstab", 4000, |tree, count| {
        let mut swaps = "Filename Type Size Used Priority\n".to_owned();
        let mut table = String::new();
        for index in 0..count {
            writeln!(swaps, "/dev/sd{index} partition 4096 0 -2").unwrap();
            writeln!(table, "/dev/mapper/m{index} none swap sw 0 0").unwrap();
        }
        tree.file("proc/swaps", swaps);
        tree.file("etc/fstab", table);
    }),
    ("mounts", 4000, |tree, count| {
        let mut mounts = String::new();
        for index in 0..count {
            writeln!(mounts, "{index} 1 8:{index} / /m{index} rw - ext4 /dev/sd{index} rw")
                .unwrap();
        }
        tree.file("proc/self/mountinfo", mounts);
    }),
    ("software sources", 8000, |tree, count| {
        let mut sources = String::new();
        for index in 0..count {
            writeln!(sources, "deb http://a.example/{index} x y z").unwrap();
        }
        tree.file("etc/apt/sources.list", sources);
    }),
    ("nodes with every CPU", 200, |tree, count| {
        for index in 0..count {
            let folder = format!("sys/devices/system/node/node{index}");
            tree.line(format!("{folder}/cpulist"), "0-65535");
        }
    }),
    ("caches that every CPU shares", 200, |tree, count| {
        let last = count - 1;
        for name in ["online", "present", "possible"] {
            tree.line(format!("sys/devices/system/cpu/{name}"), format!("0-{last}"));
        }
        for index in 0..count {
            let cache = format!("sys/devices/system/cpu/cpu{index}/cache/index0");
            tree.line(format!("{cache}/level"), 1);
            tree.line(format!("{cache}/type"), "Data");
            tree.line(format!("{cache}/size"), "32K");
            tree.line(format!("{cache}/shared_cpu_list"), "0-65535");
        }
    }),
    ("tiny firmware structures", 8000, |tree, count| {
        let mut table = Vec::new();
        for index in 0..count {
            let [low, high] = u16::try_from(index % 60_000).unwrap().to_le_bytes();
            table.extend([200, 4, low, high, b'x', 0, 0]);
        }
        table.extend([127, 4, 0xFF, 0xFE, 0, 0]);
        tree.file("sys/firmware/dmi/tables/DMI", table);
    }),
];

/// Bytes below a folder.
fn size(folder: &std::path::Path) -> u64 {
    let entries = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap());
    entries
        .map(|entry| match entry.file_type().unwrap().is_dir() {
            true => size(&entry.path()),
            false => entry.metadata().unwrap().len(),
        })
        .sum()
}

#[test]
fn what_a_made_up_machine_costs_is_bounded_by_what_it_holds() {
    for (name, count, make) in SHAPES {
        let place = Place::with_changed("gannet-before", |_| {});
        std::fs::remove_dir_all(place.path("machine")).unwrap();
        let mut tree = Tree::default();
        make(&mut tree, count);
        tree.write(&place.path("machine")).unwrap();
        let input = size(&place.path("machine"));
        let begun = Instant::now();
        let ran = place.run(&[
            "survey",
            "--from",
            "machine",
            "--out",
            "r.json",
            "--quiet",
            "--time-limit",
            "5s",
        ]);
        assert_eq!(ran.status, 0, "{name}: {}", ran.err);
        // The limit, half a second of grace, and what writing the report takes a debug build on a busy
        // machine; without a bound these took minutes.
        let time = begun.elapsed().as_secs();
        assert!(time < 30, "{name}: {time} s");
        let usage = nix::sys::resource::getrusage(nix::sys::resource::UsageWho::RUSAGE_CHILDREN);
        let peak = u64::try_from(usage.unwrap().max_rss()).unwrap() * 1024;
        let most = (64 << 20) + 20 * input;
        assert!(peak <= most, "{name}: {} MiB for {input} bytes", peak >> 20);
    }
}
