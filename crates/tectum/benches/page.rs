//! What a page of the largest machine costs: 1,024 CPUs, 512 disks of 8 partitions. Its size, the time to make it, and
//! the time until a browser has painted it, where there is one.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::print_stderr,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    dead_code,
    reason = "a benchmark prints, and stops at the first thing that is not as it should be"
)]

#[path = "../tests/support/browser.rs"]
mod browser;

use std::{process::Command, time::Instant};

use browser::Browser;

/// Bytes that a page may have, and milliseconds until it is painted.
const GOALS: (u64, u64) = (5_000_000, 1000);

fn main() {
    let folder = tempfile::tempdir().unwrap();
    println!(
        "{:<10} {:>11} {:>9} {:>15} {:>12}",
        "machine", "page bytes", "made ms", "first paint ms", "loaded ms"
    );
    for parts in [1, 64, 512] {
        let machine = tectum_demo::Machine::scaled(parts);
        let root = folder.path().join(format!("machine-{parts}"));
        tectum_demo::Tree::of(&machine).write(&root).unwrap();
        let (report, page) = (folder.path().join("report.json"), folder.path().join("page.html"));
        let run = |from: &std::path::Path, to: &std::path::Path| {
            let begun = Instant::now();
            let ran = Command::new(env!("CARGO_BIN_EXE_tectum"))
                .args(["survey", "--quiet", "--from"])
                .arg(from)
                .arg("--out")
                .arg(to)
                .status()
                .unwrap();
            assert!(ran.success());
            begun.elapsed().as_millis()
        };
        run(&root, &report);
        let made = run(&report, &page);
        let bytes = std::fs::metadata(&page).unwrap().len();
        let (paint, loaded) = match Browser::start() {
            Some(mut browser) => {
                browser.open(&page);
                let first = "new Promise(done => requestAnimationFrame(() => setTimeout(() => \
                             done(performance.getEntriesByType('paint')[0]?.startTime ?? -1), 50)))";
                let paint = browser.evaluate(first).as_f64().unwrap();
                let loaded = browser.evaluate(
                    "performance.timing.loadEventEnd - performance.timing.navigationStart",
                );
                (format!("{paint:.0}"), loaded.to_string())
            }
            None => ("no browser".to_owned(), "no browser".to_owned()),
        };
        println!("{:<10} {bytes:>11} {made:>9} {paint:>15} {loaded:>12}", format!("{parts} times"));
    }
    println!("{:<10} {:>11} {:>9} {:>15}", "goal", GOALS.0, "", GOALS.1);
}
