//! Machines as large as one likes, for benchmarks and for tests of growth.

use std::collections::BTreeMap;

use crate::{Bios, Board, Chassis, Cpu, Disk, DiskKind, Machine, Module, Partition, Slot, System};

impl Machine {
    /// A machine with `parts` memory modules, `parts` disks of eight partitions and twice as many
    /// CPUs.
    pub fn scaled(parts: u32) -> Self {
        let (packages, cores) = if parts.is_multiple_of(2) { (2, parts / 2) } else { (1, parts) };
        let text = |what: &str| format!("Synthetic {what}");
        Self {
            volumes: Vec::new(),
            smbios: (3, 5),
            files: BTreeMap::new(),
            links: BTreeMap::new(),
            removed: Vec::new(),
            hostname: format!("scaled-{parts}"),
            machine_id: format!("{parts:032x}"),
            architecture: "x86_64".into(),
            kernel_release: "6.12.0".into(),
            kernel_version: "#1 SMP".into(),
            boot_time: 1_780_300_800,
            uptime: 60,
            os_release: "NAME=\"Skerry Linux\"\nID=skerry\n".into(),
            bios: Bios {
                uefi: true,
                vendor: text("firmware"),
                version: "1".into(),
                date: "01/02/2026".into(),
                release: (1, 0),
                rom_size: 16 << 20,
            },
            system: System {
                manufacturer: text("maker"),
                product: text("product"),
                version: "1".into(),
                serial: format!("SYS-{parts}"),
                uuid: "5b8f3c02-91de-4a67-b7c4-0e6a2d9f0000".into(),
                sku: "S".into(),
                family: "F".into(),
            },
            board: Board {
                manufacturer: text("maker"),
                product: text("board"),
                version: "1".into(),
                serial: format!("BRD-{parts}"),
                asset_tag: String::new(),
                location: "main".into(),
            },
            chassis: Chassis {
                manufacturer: text("maker"),
                kind: 23,
                version: "1".into(),
                serial: format!("CHS-{parts}"),
                asset_tag: String::new(),
                height_units: 4,
            },
            cpu: Cpu {
                packages,
                cores,
                threads: 2,
                vendor: "Synthetic".into(),
                manufacturer: "Synthetic".into(),
                model_name: text("processor"),
                family: 1,
                model: 1,
                stepping: 1,
                flags: "fpu tsc msr cx8 sse sse2 aes avx avx2".into(),
                minimum_khz: 800_000,
                maximum_khz: 3_000_000,
                current_khz: 2_000_000,
                cache_kib: [32, 32, 1024, 32_768],
                sockets: (0..packages).map(|n| (format!("CPU {n}"), format!("C-{n}"))).collect(),
                part_number: "P".into(),
                microcode: String::new(),
            },
            memory_capacity: u64::from(parts) << 36,
            slots: (0..parts).map(slot).collect(),
            disks: (0..parts).map(disk).collect(),
            gpus: Vec::new(),
            command_line: String::new(),
            other_kernels: Vec::new(),
            packages: 1000,
            oem_strings: Vec::new(),
            card_slots: Vec::new(),
            power_supplies: Vec::new(),
            fans: Vec::new(),
            management: None,
            functions: Vec::new(),
            vendors: Vec::new(),
            ports: Vec::new(),
            usb: Vec::new(),
            chips: Vec::new(),
            modules: Vec::new(),
        }
    }
}

fn slot(number: u32) -> Slot {
    Slot {
        locator: format!("DIMM {number}"),
        bank: format!("BANK {}", number / 8),
        module: Some(Module {
            mib: 32_768,
            manufacturer: "Synthetic memory".into(),
            part_number: "SM-32".into(),
            serial: format!("M-{number:06}"),
            asset_tag: String::new(),
            kind: 0x22,
            speed: 4800,
            configured_speed: 4800,
            ranks: 2,
        }),
    }
}

fn disk(number: u32) -> Disk {
    let uuid = |partition: u32| format!("0a6d1c70-3b52-4d6e-{number:04x}-{partition:012x}");
    Disk {
        kind: DiskKind::Nvme,
        name: format!("nvme{number}n1"),
        controller: format!("{:04x}:{:02x}:00.0", number / 256, number % 256),
        port: 0,
        model: "Synthetic NVMe".into(),
        serial: format!("D-{number:06}"),
        wwn: format!("eui.{number:016x}"),
        firmware: "1.0".into(),
        bytes: 960_197_124_096,
        rotational: false,
        vendor: String::new(),
        rpm: 0,
        enclosure: String::new(),
        bay: 0,
        table: "gpt".into(),
        content: None,
        partitions: (0..8)
            .map(|partition| Partition {
                number: None,
                kind: String::new(),
                start_mib: 1 + u64::from(partition) * 100_000,
                mib: 100_000,
                uuid: uuid(partition),
                name: format!("part{partition}"),
                filesystem: "xfs".into(),
                filesystem_uuid: uuid(partition + 100),
                label: format!("d{number}p{partition}"),
                mount: format!("/srv/d{number}/p{partition}"),
                used: 50,
            })
            .collect(),
    }
}
