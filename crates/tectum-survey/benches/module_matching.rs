//! What it costs to find the modules of 500 devices among 20,000 patterns, beside reading the file
//! that they stand in.
//!
//! `cargo bench -p tectum-survey --bench module_matching` prints both times and their ratio.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    dead_code,
    reason = "a benchmark"
)]

mod timing;

use std::{fmt::Write, hint::black_box};

use tectum_survey::formats::module_alias::Aliases;
use timing::median;

/// Patterns in the proportions of a distribution's kernel: most name a vendor and a device, some a
/// class, some other buses.
fn patterns(count: u32) -> String {
    let mut text = String::from("# Aliases extracted from modules themselves.\n");
    for number in 0..count {
        let (vendor, device, module) = (number % 97 + 0x1000, number, number % 3000);
        let line = match number % 10 {
            // One in a hundred names a class; a distribution's kernel has fewer.
            5 if number % 100 == 5 => {
                format!("pci:v*d*sv*sd*bc{:02X}sc{:02X}i*", number / 100 % 19, number / 100 % 13)
            }
            0..=5 => format!("pci:v{vendor:08X}d{device:08X}sv*sd*bc*sc*i*"),
            6..=7 => format!("usb:v{vendor:04X}p{:04X}d*dc*dsc*dp*ic*isc*ip*in*", device % 0xFFFF),
            8 => format!("acpi*:TIDE{:04X}:*", number % 0xFFFF),
            _ => format!("of:N*T*Ctide,part-{number}C*"),
        };
        writeln!(text, "alias {line} module_{module}").unwrap();
    }
    text
}

fn main() {
    println!(
        "{:>9} {:>8} {:>9} {:>9} {:>10} {:>9} {:>7}",
        "patterns", "devices", "read ms", "parse ms", "match ms", "whole ms", "ratio"
    );
    for (count, devices) in [(20_000, 1), (20_000, 50), (20_000, 500), (40_000, 500)] {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("modules.alias");
        std::fs::write(&path, patterns(count)).unwrap();
        let own: Vec<String> = (0..devices)
            .map(|number: u32| {
                let (vendor, device) = (number % 97 + 0x1000, number * 10);
                format!(
                    "pci:v{vendor:08X}d{device:08X}sv00001AF4sd00001100bc{:02X}sc{:02X}i00",
                    number % 19,
                    number % 13
                )
            })
            .collect();
        let read = median(|| {
            black_box(std::fs::read_to_string(&path).unwrap());
        });
        let text = std::fs::read_to_string(&path).unwrap();
        let parse = median(|| {
            black_box(Aliases::parse(&text).len());
        });
        let aliases = Aliases::parse(&text);
        let matching = median(|| {
            for modalias in &own {
                black_box(aliases.matching(modalias));
            }
        });
        let ms = |time: std::time::Duration| time.as_secs_f64() * 1e3;
        let whole = ms(parse) + ms(matching);
        println!(
            "{count:>9} {devices:>8} {:>9.2} {:>9.2} {:>10.2} {whole:>9.2} {:>7.1}",
            ms(read),
            ms(parse),
            ms(matching),
            whole / ms(read)
        );
    }
}
