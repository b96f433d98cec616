//! What the section of processors costs on machines of 1, 64 and 1,024 CPUs, beside a bare loop over
//! the files it reads: the cost of one CPU must not grow with their number.
//!
//! `cargo bench -p tectum-survey --bench cpu_growth` prints the cost, a CPU's share and the ratio.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    reason = "a benchmark"
)]

mod timing;

use std::hint::black_box;

use tectum_survey::{
    sections::named,
    source::{Door, Tree},
    survey::{Plan, survey},
};
use timing::{floor, median};

fn main() {
    println!(
        "{:>6} {:>7} {:>11} {:>11} {:>7} {:>12}",
        "CPUs", "files", "section ms", "floor ms", "ratio", "µs a CPU"
    );
    for (packages, cores, threads) in [(1, 1, 1), (2, 16, 2), (8, 64, 2)] {
        let mut machine = tectum_demo::Machine::scaled(1);
        machine.cpu.packages = packages;
        machine.cpu.cores = cores;
        machine.cpu.threads = threads;
        let count = packages * cores * threads;
        let folder = tempfile::tempdir().unwrap();
        tectum_demo::Tree::of(&machine).write(folder.path()).unwrap();
        let plan = Plan { sections: vec![named("cpu").unwrap()], ..Plan::default() };
        let look = || survey(&Door::new(Tree::folder(folder.path()).unwrap()), &plan, &mut |_| {});
        let (floor, files) = floor(&look(), folder.path());
        let section = median(|| {
            black_box(look());
        });
        println!(
            "{count:>6} {:>7} {:>11.2} {:>11.2} {:>7.2} {:>12.1}",
            files,
            section.as_secs_f64() * 1e3,
            floor.as_secs_f64() * 1e3,
            section.as_secs_f64() / floor.as_secs_f64(),
            section.as_secs_f64() * 1e6 / f64::from(count),
        );
    }
}
