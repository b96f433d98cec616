//! `/sys` and the udev database.

use crate::{Disk, DiskKind, Gpu, Machine, Tree, procfs::Place};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    cpus(machine, tree);
    tree.folder("sys/block");
    for (number, disk) in (0u32..).zip(&machine.disks) {
        put_disk(number, disk, tree);
    }
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
        for (index, (level, kind, kib, shared, ways)) in caches.into_iter().enumerate() {
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

/// The device number of a disk (partition 0) or of one of its partitions.
pub(crate) fn device_number(disk: u32, partition: u32) -> (u32, u32) {
    (240 + disk / 64, (disk % 64) * 16 + partition)
}

/// A partition's name: a `p` stands between where the disk's name ends in a digit.
pub(crate) fn partition_name(disk: &str, number: u32) -> String {
    let between = if disk.ends_with(|last: char| last.is_ascii_digit()) { "p" } else { "" };
    format!("{disk}{between}{number}")
}

fn put_disk(number: u32, disk: &Disk, tree: &mut Tree) {
    let pci = format!("sys/devices/pci0000:00/{}", disk.controller);
    let (device, block) = match disk.kind {
        DiskKind::Nvme => {
            let controller = disk.name.rsplit_once('n').map_or("nvme0", |(name, _)| name);
            let device = format!("{pci}/nvme/{controller}");
            (device.clone(), format!("{device}/{}", disk.name))
        }
        DiskKind::Sata => {
            let ata = number + 1;
            let port = format!("{pci}/ata{ata}");
            tree.line(format!("{port}/ata_port/ata{ata}/port_no"), disk.port);
            tree.link(
                format!("sys/class/ata_port/ata{ata}"),
                &format!("/{port}/ata_port/ata{ata}"),
            );
            let device = format!("{port}/host{number}/target{number}:0:0/{number}:0:0:0");
            (device.clone(), format!("{device}/block/{}", disk.name))
        }
    };
    tree.link(format!("sys/block/{}", disk.name), &format!("/{block}"));
    tree.link(format!("{block}/device"), &format!("/{device}"));
    match disk.kind {
        DiskKind::Nvme => {
            tree.line(format!("{device}/model"), format!("{:<40}", disk.model));
            tree.line(format!("{device}/serial"), format!("{:<20}", disk.serial));
            tree.line(format!("{device}/firmware_rev"), &disk.firmware);
            tree.line(format!("{block}/wwid"), &disk.wwn);
            tree.line(format!("{block}/nsid"), 1);
        }
        DiskKind::Sata => {
            tree.line(format!("{device}/vendor"), "ATA     ");
            tree.line(format!("{device}/model"), disk.model.chars().take(16).collect::<String>());
            tree.line(format!("{device}/rev"), &disk.firmware);
            tree.line(format!("{device}/type"), 0);
            tree.line(format!("{device}/wwid"), &disk.wwn);
            tree.file(format!("{device}/vpd_pg80"), serial_page(&disk.serial));
            tree.file(format!("{device}/vpd_pg89"), ata_page(disk));
        }
    }
    let (major, minor) = device_number(number, 0);
    tree.line(format!("{block}/dev"), format!("{major}:{minor}"));
    tree.line(format!("{block}/size"), disk.bytes / 512);
    tree.line(format!("{block}/ro"), 0);
    tree.line(format!("{block}/removable"), 0);
    tree.line(format!("{block}/hidden"), 0);
    tree.line(format!("{block}/queue/rotational"), u8::from(disk.rotational));
    tree.line(format!("{block}/queue/logical_block_size"), 512);
    tree.line(format!("{block}/queue/physical_block_size"), 4096);
    tree.file(
        format!("run/udev/data/b{major}:{minor}"),
        if disk.partitions.is_empty() {
            "E:ID_TYPE=disk\n"
        } else {
            "E:ID_TYPE=disk\nE:ID_PART_TABLE_TYPE=gpt\n"
        },
    );
    for (index, partition) in (1u32..).zip(&disk.partitions) {
        let name = partition_name(&disk.name, index);
        let (major, minor) = device_number(number, index);
        let folder = format!("{block}/{name}");
        tree.line(format!("{folder}/partition"), index);
        tree.line(format!("{folder}/start"), partition.start_mib * 2048);
        tree.line(format!("{folder}/size"), partition.mib * 2048);
        tree.line(format!("{folder}/dev"), format!("{major}:{minor}"));
        tree.file(
            format!("{folder}/uevent"),
            format!("DEVNAME={name}\nPARTN={index}\nPARTNAME={}\n", partition.name),
        );
        let label = match partition.label.as_str() {
            "" => String::new(),
            label => {
                format!("E:ID_FS_LABEL={0}\nE:ID_FS_LABEL_ENC={0}\n", label.replace(' ', "\\x20"))
            }
        };
        // The types of the UEFI Specification and the Discoverable Partitions Specification.
        let kind = match (partition.filesystem.as_str(), partition.mount.as_str()) {
            ("vfat", _) => "c12a7328-f81f-11d2-ba4b-00a0c93ec93b",
            (_, "/") => "4f68bce3-e8cd-4db1-96e7-fbcaf984b709",
            (_, point) if point.starts_with("/srv/") => "3b8f8425-20e0-4f3b-907f-1a25a76f98e8",
            _ => "0fc63daf-8483-4772-8e79-3d69d8477de4",
        };
        tree.file(
            format!("run/udev/data/b{major}:{minor}"),
            format!(
                "E:ID_FS_TYPE={}\nE:ID_FS_UUID={}\n{label}E:ID_PART_ENTRY_SCHEME=gpt\n\
                 E:ID_PART_ENTRY_TYPE={kind}\nE:ID_PART_ENTRY_UUID={}\n",
                partition.filesystem, partition.filesystem_uuid, partition.uuid
            ),
        );
    }
}

/// A unit serial number page (SPC-6 clause 7.7.19).
fn serial_page(serial: &str) -> Vec<u8> {
    let mut page = vec![0, 0x80, 0, u8::try_from(serial.len()).unwrap_or(u8::MAX)];
    page.extend(serial.bytes());
    page
}

/// An ATA information page (SAT-5 clause 12.4.2) with the identify data that matter here.
fn ata_page(disk: &Disk) -> Vec<u8> {
    let mut identify = [0u8; 512];
    let mut put = |word: usize, words: usize, text: &str| {
        let padded = format!("{text:<width$}", width = words * 2);
        let place = identify.iter_mut().skip(word * 2);
        let swapped = padded.as_bytes().chunks(2).flat_map(|pair| pair.iter().rev());
        for (slot, byte) in place.zip(swapped.take(words * 2)) {
            *slot = *byte;
        }
    };
    put(10, 10, &disk.serial);
    put(23, 4, &disk.firmware);
    put(27, 20, &disk.model);
    let mut page = vec![0, 0x89, 0x02, 0x38];
    page.resize(60, 0);
    page.extend(identify);
    page
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
