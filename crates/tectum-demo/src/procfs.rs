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
    tree.file("proc/self/mountinfo", mountinfo(machine));
    tree.file("statvfs.json", statvfs(machine));
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

/// What the kernel answers of how full each filesystem is, as it lies beside a recorded tree.
fn statvfs(machine: &Machine) -> String {
    const BLOCK: u64 = 4096;
    let partitions = machine.disks.iter().flat_map(|disk| &disk.partitions);
    let answers: Vec<serde_json::Value> = partitions
        .filter(|partition| !partition.mount.is_empty())
        .map(|partition| {
            let blocks = (partition.mib << 20) / BLOCK;
            // Root keeps a hundredth for itself.
            let free = blocks - blocks * partition.used.min(100) / 100;
            let files = if partition.filesystem == "vfat" { 0 } else { blocks / 4 };
            serde_json::json!({
                "mount_point": partition.mount,
                "f_bsize": BLOCK,
                "f_frsize": BLOCK,
                "f_blocks": blocks,
                "f_bfree": free,
                "f_bavail": free.saturating_sub(blocks / 100),
                "f_files": files,
                "f_ffree": files - files * partition.used.min(100) / 300,
            })
        })
        .collect();
    serde_json::Value::from(answers).to_string()
}

fn mountinfo(machine: &Machine) -> String {
    let mut text = String::from(
        "22 25 0:20 / /proc rw,relatime - proc proc rw\n\
         23 25 0:21 / /sys rw,nosuid,nodev,noexec,relatime - sysfs sysfs rw\n\
         24 23 0:22 / /sys/fs/cgroup rw,nosuid,nodev,noexec,relatime - cgroup2 cgroup2 rw\n",
    );
    let mut id = 30;
    for (disk_number, disk) in (0u32..).zip(&machine.disks) {
        for (number, partition) in (1u32..).zip(&disk.partitions) {
            if partition.mount.is_empty() {
                continue;
            }
            let (major, minor) = crate::sysfs::device_number(disk_number, number);
            let name = crate::sysfs::partition_name(&disk.name, number);
            let mount = partition.mount.replace('\\', "\\134").replace(' ', "\\040");
            let _ = writeln!(
                text,
                "{id} 25 {major}:{minor} / {mount} rw,relatime - {} /dev/{name} rw",
                partition.filesystem
            );
            id += 1;
        }
    }
    text
}
