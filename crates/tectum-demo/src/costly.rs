//! Machines that are made up to cost time and memory: a list of everything that sections hold against
//! something else, as long as one likes.

use std::fmt::Write;

use crate::Tree;

/// A machine with many of something.
pub struct Costly {
    /// Of what.
    pub name: &'static str,
    /// How many are enough to tell how the cost grows.
    pub count: usize,
    /// Puts so many of them into a tree.
    pub make: fn(&mut Tree, usize),
}

/// All of them. Writing into a text cannot fail.
pub const COSTLY: &[Costly] = &[
    Costly {
        name: "swaps × fstab",
        count: 2000,
        make: |tree, count| {
            let mut swaps = "Filename Type Size Used Priority\n".to_owned();
            let mut table = String::new();
            for index in 0..count {
                let _ = writeln!(swaps, "/dev/sd{index} partition 4096 0 -2");
                let _ = writeln!(table, "/dev/mapper/m{index} none swap sw 0 0");
            }
            tree.file("proc/swaps", swaps);
            tree.file("etc/fstab", table);
        },
    },
    Costly {
        name: "mounts × fstab",
        count: 2000,
        make: |tree, count| {
            let (mut mounts, mut table) = (String::new(), String::new());
            for index in 0..count {
                let _ =
                    writeln!(mounts, "{index} 1 8:{index} / /m{index} rw - ext4 /dev/sd{index} rw");
                let _ = writeln!(table, "/dev/sd{index} /m{index} ext4 rw 0 0");
            }
            tree.file("proc/self/mountinfo", mounts);
            tree.file("etc/fstab", table);
        },
    },
    Costly {
        name: "thermal zones",
        count: 500,
        make: |tree, count| {
            for index in 0..count {
                let folder = format!("sys/class/thermal/thermal_zone{index}");
                tree.line(format!("{folder}/type"), "x");
                tree.line(format!("{folder}/temp"), 30_000);
            }
        },
    },
    Costly {
        name: "USB devices",
        count: 500,
        make: |tree, count| {
            for index in 0..count {
                let folder = format!("sys/bus/usb/devices/1-{index}");
                tree.line(format!("{folder}/idVendor"), "1d6b");
                tree.line(format!("{folder}/idProduct"), "0002");
                tree.line(format!("{folder}/serial"), index);
            }
        },
    },
    Costly {
        name: "modules",
        count: 1000,
        make: |tree, count| {
            let mut modules = String::new();
            for index in 0..count {
                let _ = writeln!(modules, "mod{index} 16384 0 - Live 0x0");
            }
            tree.file("proc/modules", modules);
        },
    },
    Costly {
        name: "NUMA nodes, all CPUs",
        count: 250,
        make: |tree, count| {
            for index in 0..count {
                let folder = format!("sys/devices/system/node/node{index}");
                tree.line(format!("{folder}/cpulist"), "0-65535");
            }
        },
    },
    Costly {
        name: "CPUs, all shared",
        count: 500,
        make: |tree, count| {
            let last = count.saturating_sub(1);
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
        },
    },
    Costly {
        name: "fields of os-release",
        count: 5000,
        make: |tree, count| {
            let mut fields = String::new();
            for index in 0..count {
                let _ = writeln!(fields, "KEY{index}=x");
            }
            tree.file("etc/os-release", fields);
        },
    },
    Costly {
        name: "routes × addresses",
        count: 1000,
        make: |tree, count| {
            let (mut routes, mut leaves) = ("Iface\n".to_owned(), "Main:\n".to_owned());
            for index in 0..count {
                let (high, low) = (index / 256 % 256, index % 256);
                let _ =
                    writeln!(routes, "e{index}\t00{low:02X}{high:02X}0A\t0\t1\t0\t0\t0\t00FFFFFF");
                let _ = writeln!(leaves, "  |-- 10.{high}.{low}.1\n     /32 host LOCAL");
            }
            tree.file("proc/net/route", routes);
            tree.file("proc/net/fib_trie", leaves);
        },
    },
    Costly {
        name: "tiny structures",
        count: 5000,
        make: |tree, count| {
            let mut table = Vec::new();
            for index in 0..count {
                let [low, high] = u16::try_from(index % 60_000).unwrap_or_default().to_le_bytes();
                table.extend([200, 4, low, high, b'x', 0, 0]);
            }
            table.extend([127, 4, 0xFF, 0xFE, 0, 0]);
            tree.file("sys/firmware/dmi/tables/DMI", table);
        },
    },
];
