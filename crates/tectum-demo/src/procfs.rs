//! `/proc` and `/etc`.

use std::fmt::Write;

use crate::{Machine, Tree};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    tree.file("etc/os-release", machine.os_release.clone());
    tree.line("etc/hostname", &machine.hostname);
    tree.line("etc/machine-id", &machine.machine_id);
    for (name, text) in [
        ("ostype", "Linux"),
        ("osrelease", &machine.kernel_release),
        ("version", &machine.kernel_version),
        ("hostname", &machine.hostname),
        ("domainname", "(none)"),
        ("arch", &machine.architecture),
    ] {
        tree.line(format!("proc/sys/kernel/{name}"), text);
    }
    tree.file("proc/stat", format!("cpu  1 2 3 4\nbtime {}\n", machine.boot_time));
    tree.line("proc/uptime", format!("{}.25 {}.00", machine.uptime, machine.uptime));
    tree.file("proc/cpuinfo", cpuinfo(machine));
    tree.file("proc/meminfo", meminfo(machine));
    if !machine.command_line.is_empty() {
        tree.line("proc/cmdline", &machine.command_line);
    }
}

fn cpuinfo(machine: &Machine) -> String {
    let cpu = &machine.cpu;
    let microcode = match cpu.microcode.as_str() {
        "" => String::new(),
        version => format!("microcode\t: {version}\n"),
    };
    let mut text = String::new();
    for number in 0..cpu.packages * cpu.cores * cpu.threads {
        let place = Place::of(machine, number);
        // Writing to a string cannot fail.
        let _ = write!(
            text,
            "processor\t: {number}\n{}vendor_id\t: {}\ncpu family\t: {}\nmodel\t\t: {}\n\
             model name\t: {}\nstepping\t: {}\ncpu MHz\t\t: {}.{:03}\nphysical id\t: {}\n\
             siblings\t: {}\ncore id\t\t: {}\ncpu cores\t: {}\nflags\t\t: {}\n\n",
            microcode,
            cpu.vendor,
            cpu.family,
            cpu.model,
            cpu.model_name,
            cpu.stepping,
            cpu.current_khz / 1000,
            cpu.current_khz % 1000,
            place.package,
            cpu.cores * cpu.threads,
            place.core,
            cpu.cores,
            cpu.flags,
        );
    }
    text
}

/// Where a CPU sits: the kernel numbers first threads of all cores, then second threads.
pub(crate) struct Place {
    pub(crate) package: u32,
    pub(crate) core: u32,
    /// The CPUs of its core, of its package.
    pub(crate) core_cpus: Vec<u32>,
    pub(crate) package_cpus: Vec<u32>,
}

impl Place {
    pub(crate) fn of(machine: &Machine, number: u32) -> Self {
        let cpu = &machine.cpu;
        let all_cores = (cpu.packages * cpu.cores).max(1);
        let (package, core) = ((number % all_cores) / cpu.cores.max(1), number % cpu.cores.max(1));
        let threads_of = |core: u32| {
            (0..cpu.threads).map(move |thread| thread * all_cores + package * cpu.cores + core)
        };
        let mut package_cpus: Vec<u32> = (0..cpu.cores).flat_map(threads_of).collect();
        package_cpus.sort_unstable();
        Self { package, core, core_cpus: threads_of(core).collect(), package_cpus }
    }
}

/// What is installed, in KiB.
pub(crate) fn installed_kib(machine: &Machine) -> u64 {
    let modules = machine.slots.iter().filter_map(|slot| slot.module.as_ref());
    modules.map(|module| u64::from(module.mib) * 1024).sum()
}

fn meminfo(machine: &Machine) -> String {
    let installed = installed_kib(machine);
    // The firmware and the kernel keep some.
    let total = installed - installed / 64;
    format!(
        "MemTotal:       {total} kB\nMemFree:        {} kB\nMemAvailable:   {} kB\n\
         Buffers:        {} kB\nCached:         {} kB\nSwapTotal:      0 kB\nSwapFree:       0 kB\n\
         Shmem:          {} kB\nSlab:           {} kB\nSReclaimable:   {} kB\n\
         CommitLimit:    {} kB\nCommitted_AS:   {} kB\n",
        total / 4,
        total / 2,
        total / 256,
        total / 3,
        total / 512,
        total / 64,
        total / 96,
        total / 2,
        total / 5,
    )
}
