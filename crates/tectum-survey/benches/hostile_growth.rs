//! What machines cost that somebody made up to be slow: a list of everything that sections hold
//! against something else, at one size and at four times it. The cost of four times as many must be
//! near four times as much. And redaction of one text of a mebibyte, uniform and not, beside one of
//! a quarter of it.
//!
//! `cargo bench -p tectum-survey --bench hostile_growth` prints both times and how much they grew.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    reason = "a benchmark"
)]

mod timing;

use std::{collections::BTreeSet, fmt::Write, hint::black_box, path::Path};

use tectum_demo::Tree as Made;
use tectum_report::redact::Pseudonyms;
use tectum_survey::{
    redact::rewritten,
    source::{Door, Tree},
    survey::{Plan, survey},
};
use timing::median;

/// A machine with so many of something.
type Make = fn(&mut Made, usize);

const SHAPES: [(&str, usize, Make); 10] = [
    ("swaps × fstab", 2000, |tree, count| {
        let mut swaps = "Filename Type Size Used Priority\n".to_owned();
        let mut table = String::new();
        for index in 0..count {
            writeln!(swaps, "/dev/sd{index} partition 4096 0 -2").unwrap();
            writeln!(table, "/dev/mapper/m{index} none swap sw 0 0").unwrap();
        }
        tree.file("proc/swaps", swaps);
        tree.file("etc/fstab", table);
    }),
    ("mounts × fstab", 2000, |tree, count| {
        let (mut mounts, mut table) = (String::new(), String::new());
        for index in 0..count {
            writeln!(mounts, "{index} 1 8:{index} / /m{index} rw - ext4 /dev/sd{index} rw")
                .unwrap();
            writeln!(table, "/dev/sd{index} /m{index} ext4 rw 0 0").unwrap();
        }
        tree.file("proc/self/mountinfo", mounts);
        tree.file("etc/fstab", table);
    }),
    ("thermal zones", 500, |tree, count| {
        for index in 0..count {
            let folder = format!("sys/class/thermal/thermal_zone{index}");
            tree.line(format!("{folder}/type"), "x");
            tree.line(format!("{folder}/temp"), 30_000);
        }
    }),
    ("USB devices", 500, |tree, count| {
        for index in 0..count {
            let folder = format!("sys/bus/usb/devices/1-{index}");
            tree.line(format!("{folder}/idVendor"), "1d6b");
            tree.line(format!("{folder}/idProduct"), "0002");
            tree.line(format!("{folder}/serial"), index);
        }
    }),
    ("modules", 1000, |tree, count| {
        let mut modules = String::new();
        for index in 0..count {
            writeln!(modules, "mod{index} 16384 0 - Live 0x0").unwrap();
        }
        tree.file("proc/modules", modules);
    }),
    ("NUMA nodes, all CPUs", 250, |tree, count| {
        for index in 0..count {
            let folder = format!("sys/devices/system/node/node{index}");
            tree.line(format!("{folder}/cpulist"), "0-65535");
        }
    }),
    ("CPUs, all shared", 500, |tree, count| {
        let last = count - 1;
        for name in ["online", "present", "possible"] {
            tree.line(format!("sys/devices/system/cpu/{name}"), format!("0-{last}"));
        }
        for index in 0..count {
            let folder = format!("sys/devices/system/cpu/cpu{index}");
            tree.line(format!("{folder}/topology/core_id"), index);
            tree.line(format!("{folder}/topology/physical_package_id"), index);
            tree.line(format!("{folder}/topology/core_cpus_list"), index);
            tree.line(format!("{folder}/cache/index0/level"), 1);
            tree.line(format!("{folder}/cache/index0/type"), "Data");
            tree.line(format!("{folder}/cache/index0/size"), "32K");
            tree.line(format!("{folder}/cache/index0/shared_cpu_list"), "0-65535");
        }
    }),
    ("fields of os-release", 5000, |tree, count| {
        let mut fields = String::new();
        for index in 0..count {
            writeln!(fields, "KEY{index}=x").unwrap();
        }
        tree.file("etc/os-release", fields);
    }),
    ("routes × addresses", 1000, |tree, count| {
        let (mut routes, mut leaves) = ("Iface\n".to_owned(), "Main:\n".to_owned());
        for index in 0..count {
            let (high, low) = (index / 256 % 256, index % 256);
            writeln!(routes, "e{index}\t00{low:02X}{high:02X}0A\t0\t1\t0\t0\t0\t00FFFFFF").unwrap();
            writeln!(leaves, "  |-- 10.{high}.{low}.1\n     /32 host LOCAL").unwrap();
        }
        tree.file("proc/net/route", routes);
        tree.file("proc/net/fib_trie", leaves);
    }),
    ("tiny structures", 5000, |tree, count| {
        let mut table = Vec::new();
        for index in 0..count {
            let [low, high] = u16::try_from(index % 65_000).unwrap().to_le_bytes();
            table.extend([200, 4, low, high, b'x', 0, 0]);
        }
        table.extend([127, 4, 0xFF, 0xFE, 0, 0]);
        tree.file("sys/firmware/dmi/tables/DMI", table);
    }),
];

fn main() {
    println!("{:<34} {:>8} {:>10} {:>10} {:>8}", "what", "of them", "ms", "× 4, ms", "growth");
    for (name, count, make) in SHAPES {
        let time = |count: usize| {
            let folder = tempfile::tempdir().unwrap();
            let mut tree = Made::default();
            make(&mut tree, count);
            tree.write(folder.path()).unwrap();
            median(|| {
                let door = Door::new(Tree::folder(folder.path()).unwrap());
                black_box(survey(&door, &Plan::default(), &mut |_| {}));
            })
        };
        print(name, &count.to_string(), time(count), time(count * 4));
    }
    let by = Pseudonyms::new(b"a key of a good length for a benchmark", &BTreeSet::new());
    let mixed = |length: usize| -> Vec<u8> {
        b"abcdefghijklmnopqrstuvw0123456789-"
            .iter()
            .cycle()
            .step_by(7)
            .take(length)
            .copied()
            .collect()
    };
    for (name, text) in [
        ("one letter", (|length| vec![b'a'; length]) as fn(usize) -> Vec<u8>),
        ("all letters", mixed),
    ] {
        for path in ["/etc/hostname", "/proc/cmdline", "/etc/fstab", "/sys/block/a/dm/uuid"] {
            let time = |length: usize| {
                let text = text(length);
                median(|| {
                    black_box(rewritten(Path::new(path), &text, &by));
                })
            };
            print(&format!("{name}, {path}"), "256 KiB", time(256 << 10), time(1 << 20));
        }
    }
}

fn print(name: &str, count: &str, one: std::time::Duration, four: std::time::Duration) {
    println!(
        "{name:<34} {count:>8} {:>10.2} {:>10.2} {:>8.1}",
        one.as_secs_f64() * 1e3,
        four.as_secs_f64() * 1e3,
        four.as_secs_f64() / one.as_secs_f64()
    );
}
