//! Decoding tables of 64 KiB and 1 MiB beside merely looking at each of their bytes.
//!
//! `cargo bench -p tectum-smbios --bench decode` prints MB/s and the ratio.

#![allow(clippy::unwrap_used, clippy::print_stdout, missing_docs, reason = "a benchmark")]

use std::{
    hint::black_box,
    time::{Duration, Instant},
};

use tectum_demo::{StructureBuilder, table};
use tectum_smbios::{types::*, walk};

fn main() {
    println!(
        "{:<10} {:>12} {:>12} {:>12} {:>8}",
        "table", "bytes MB/s", "walk MB/s", "decode MB/s", "ratio"
    );
    for size in [64 << 10, 1 << 20] {
        let bytes = sample(size);
        let touched = median(|| {
            black_box(bytes.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte)));
        });
        let walked = median(|| {
            black_box(walk(&bytes).flatten().count());
        });
        let decoded = median(|| {
            for structure in walk(&bytes).flatten() {
                if let Some(device) = MemoryDevice::from_structure(structure) {
                    black_box((device.size(), device.speed(), device.configured_speed()));
                    black_box((device.device_locator(), device.bank_locator()));
                    black_box((device.manufacturer(), device.serial_number()));
                    black_box((device.part_number(), device.asset_tag()));
                }
                if let Some(slot) = SystemSlot::from_structure(structure) {
                    black_box((slot.designation(), slot.slot_type(), slot.pci_address()));
                }
            }
        });
        let rate = |time: Duration| bytes.len() as f64 / time.as_secs_f64() / 1e6;
        println!(
            "{:<10} {:>12.0} {:>12.0} {:>12.0} {:>8.1}",
            format!("{} KiB", bytes.len() >> 10),
            rate(touched),
            rate(walked),
            rate(decoded),
            decoded.as_secs_f64() / touched.as_secs_f64()
        );
    }
}

/// A table of memory devices and slots of about that size.
fn sample(size: usize) -> Vec<u8> {
    let mut all = Vec::new();
    let mut length = 0;
    for number in 0u16.. {
        let device = StructureBuilder::new(17, number)
            .word(0x1000)
            .word(0xFFFE)
            .word(80)
            .word(64)
            .word(0x7FFF)
            .bytes(&[9, 0])
            .text("P1-DIMMA1")
            .text("P0_Node0_Channel0_Dimm0")
            .byte(0x22)
            .word(0x2080)
            .word(4800)
            .text("Lapwing Memory")
            .text("LW-77A1001")
            .text("SCTS-0217")
            .text("LW5-32G-4800R")
            .byte(2)
            .dword(32_768)
            .word(4800)
            .bytes(&[0; 0x32]);
        let slot = StructureBuilder::new(9, number)
            .text("PCIe Slot 1")
            .bytes(&[0xBD, 0x0D, 4, 4])
            .word(1)
            .bytes(&[0x0C, 1])
            .word(0)
            .bytes(&[0x41, 0, 16, 0]);
        length += device.clone().build().len() + slot.clone().build().len();
        if length > size {
            break;
        }
        all.extend([device, slot]);
    }
    table(all)
}

fn median(mut work: impl FnMut()) -> Duration {
    let mut times: Vec<Duration> = (0..31)
        .map(|_| {
            let start = Instant::now();
            work();
            start.elapsed()
        })
        .collect();
    times.sort_unstable();
    times.get(times.len() / 2).copied().unwrap()
}
