//! What sections cost on machines with more and more of their parts, beside a bare loop over the
//! files that they read: processors with 1, 64 and 1,024 CPUs, storage with 1, 64 and 512 disks of
//! eight partitions each. The cost of one part must not grow with their number.
//!
//! `cargo bench -p tectum-survey --bench part_growth` prints the cost, a part's share and the ratio.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    reason = "a benchmark"
)]

mod floor;
mod timing;

use std::hint::black_box;

use floor::floor;
use tectum_demo::Machine;
use tectum_survey::{
    sections::named,
    source::{Door, Tree},
    survey::{Plan, survey},
};
use timing::median;

fn main() {
    println!(
        "{:>8} {:>6} {:>7} {:>11} {:>11} {:>7} {:>12}",
        "section", "parts", "files", "section ms", "floor ms", "ratio", "µs a part"
    );
    for (packages, cores, threads) in [(1, 1, 1), (2, 16, 2), (8, 64, 2)] {
        let mut machine = Machine::scaled(1);
        machine.cpu.packages = packages;
        machine.cpu.cores = cores;
        machine.cpu.threads = threads;
        measure("cpu", packages * cores * threads, &machine);
    }
    for disks in [1, 64, 512] {
        measure("storage", disks, &Machine::scaled(disks));
    }
}

fn measure(section: &str, parts: u32, machine: &Machine) {
    let folder = tempfile::tempdir().unwrap();
    tectum_demo::Tree::of(machine).write(folder.path()).unwrap();
    let plan = Plan { sections: vec![named(section).unwrap()], ..Plan::default() };
    let look = || survey(&Door::new(Tree::folder(folder.path()).unwrap()), &plan, &mut |_| {});
    let (floor, files) = floor(&look(), folder.path());
    let own = median(|| {
        black_box(look());
    });
    println!(
        "{section:>8} {parts:>6} {files:>7} {:>11.2} {:>11.2} {:>7.2} {:>12.1}",
        own.as_secs_f64() * 1e3,
        floor.as_secs_f64() * 1e3,
        own.as_secs_f64() / floor.as_secs_f64(),
        own.as_secs_f64() * 1e6 / f64::from(parts),
    );
}
