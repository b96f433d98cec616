//! `/sys`: processors and display devices.

use crate::{Gpu, Machine, Tree, procfs::Place};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    cpus(machine, tree);
    tree.folder("sys/bus/pci/devices");
    for gpu in &machine.gpus {
        put_gpu(gpu, tree);
    }
}

fn list(numbers: &[u32]) -> String {
    numbers.iter().map(u32::to_string).collect::<Vec<_>>().join(",")
}

fn cpus(machine: &Machine, tree: &mut Tree) {
    const ROOT: &str = "sys/devices/system/cpu";
    let cpu = &machine.cpu;
    let count = cpu.packages * cpu.cores * cpu.threads;
    for name in ["present", "online", "possible"] {
        tree.line(format!("{ROOT}/{name}"), format!("0-{}", count.saturating_sub(1)));
    }
    tree.line(format!("{ROOT}/offline"), "");
    tree.line(format!("{ROOT}/isolated"), "");
    tree.line(format!("{ROOT}/smt/active"), u32::from(cpu.threads > 1));
    tree.line(format!("{ROOT}/smt/control"), if cpu.threads > 1 { "on" } else { "notsupported" });
    tree.line(format!("{ROOT}/cpufreq/boost"), 1);
    for (name, state) in [
        ("meltdown", "Not affected"),
        ("spectre_v1", "Mitigation: usercopy/swapgs barriers and __user pointer sanitization"),
        ("spectre_v2", "Mitigation: Enhanced / Automatic IBRS; IBPB: conditional"),
        ("retbleed", "Not affected"),
        ("mmio_stale_data", "Vulnerable: Clear CPU buffers attempted, no microcode"),
    ] {
        tree.line(format!("{ROOT}/vulnerabilities/{name}"), state);
    }
    for number in 0..count {
        let place = Place::of(machine, number);
        let (core, package) = (list(&place.core_cpus), list(&place.package_cpus));
        let topology = format!("{ROOT}/cpu{number}/topology");
        tree.line(format!("{topology}/physical_package_id"), place.package);
        tree.line(format!("{topology}/core_id"), place.core);
        tree.line(format!("{topology}/die_id"), 0);
        tree.line(format!("{topology}/die_cpus_list"), &package);
        tree.line(format!("{topology}/cluster_id"), 65535);
        tree.line(format!("{topology}/core_cpus_list"), &core);
        tree.line(format!("{topology}/package_cpus_list"), &package);
        let [data, instruction, second, third] = cpu.cache_kib;
        let caches = [
            (1, "Data", data, &core, 8),
            (1, "Instruction", instruction, &core, 8),
            (2, "Unified", second, &core, 16),
            (3, "Unified", third, &package, 12),
        ];
        // A cache of no size is none.
        let there = caches.into_iter().filter(|(_, _, kib, ..)| *kib > 0);
        for (index, (level, kind, kib, shared, ways)) in there.enumerate() {
            let cache = format!("{ROOT}/cpu{number}/cache/index{index}");
            tree.line(format!("{cache}/level"), level);
            tree.line(format!("{cache}/type"), kind);
            tree.line(format!("{cache}/size"), format!("{kib}K"));
            tree.line(format!("{cache}/shared_cpu_list"), shared);
            tree.line(format!("{cache}/ways_of_associativity"), ways);
            tree.line(format!("{cache}/coherency_line_size"), 64);
        }
        let policy = format!("{ROOT}/cpufreq/policy{number}");
        tree.line(format!("{policy}/related_cpus"), number);
        tree.line(format!("{policy}/scaling_driver"), "tarn-cpufreq");
        tree.line(format!("{policy}/scaling_governor"), "schedutil");
        tree.line(format!("{policy}/scaling_min_freq"), cpu.minimum_khz);
        tree.line(format!("{policy}/scaling_max_freq"), cpu.maximum_khz);
        tree.line(format!("{policy}/base_frequency"), cpu.current_khz);
        tree.line(format!("{policy}/cpuinfo_min_freq"), cpu.minimum_khz);
        tree.line(format!("{policy}/cpuinfo_max_freq"), cpu.maximum_khz);
        tree.line(format!("{policy}/scaling_cur_freq"), cpu.current_khz);
    }
}

fn put_gpu(gpu: &Gpu, tree: &mut Tree) {
    let folder = format!("sys/devices/pci0000:00/{}", gpu.address);
    tree.link(format!("sys/bus/pci/devices/{}", gpu.address), &format!("/{folder}"));
    let [vendor, device, sub_vendor, sub_device] = gpu.ids;
    tree.line(format!("{folder}/class"), format!("{:#08x}", gpu.class));
    tree.line(format!("{folder}/vendor"), format!("{vendor:#06x}"));
    tree.line(format!("{folder}/device"), format!("{device:#06x}"));
    tree.line(format!("{folder}/subsystem_vendor"), format!("{sub_vendor:#06x}"));
    tree.line(format!("{folder}/subsystem_device"), format!("{sub_device:#06x}"));
    tree.line(format!("{folder}/revision"), "0x01");
    tree.line(format!("{folder}/boot_vga"), u8::from(gpu.boot));
    tree.folder(format!("sys/bus/pci/drivers/{}", gpu.driver));
    tree.link(format!("{folder}/driver"), &format!("/sys/bus/pci/drivers/{}", gpu.driver));
}
