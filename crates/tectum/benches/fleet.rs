//! A fleet of saved reports, asked for one path and searched, as whole processes: what a report costs,
//! and what memory it takes, at one number of reports and at ten times it.
//!
//! `cargo bench -p tectum --bench fleet` prints both beside reading the same files and doing nothing,
//! and the goals: cost in proportion to the number, memory that does not grow. The reports are one
//! report of a made-up machine under many names, 250 and 2,500 of them, so that it ends within two
//! minutes; `TECTUM_FLEET` sets the larger number (10000).

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    clippy::cast_precision_loss,
    missing_docs,
    reason = "a benchmark"
)]

use std::{
    path::Path,
    process::Command,
    time::{Duration, Instant},
};

use tectum_report::{
    Report,
    finding::{Judgement, Limits},
};

#[path = "support/peak.rs"]
mod peak;

use peak::run;

const PROGRAM: &str = env!("CARGO_BIN_EXE_tectum");

fn main() {
    let larger = std::env::var("TECTUM_FLEET").ok().and_then(|text| text.parse().ok());
    let larger: usize = larger.unwrap_or(2500);
    let folder = tempfile::tempdir().unwrap();
    let report = folder.path().join("one");
    let survey = ["survey", "--from", "demo:gannet-before", "--quiet", "--out"];
    assert!(Command::new(PROGRAM).args(survey).arg(&report).status().unwrap().success());
    let length = std::fs::metadata(&report).unwrap().len();
    println!("a report of {length} bytes");
    println!(
        "{:<44} {:>8} {:>10} {:>8} {:>9}  goal",
        "of reports", "number", "ms each", "ratio", "peak MiB"
    );
    for number in [larger / 10, larger] {
        let fleet = folder.path().join(number.to_string());
        std::fs::create_dir(&fleet).unwrap();
        for index in 0..number {
            std::fs::hard_link(&report, fleet.join(format!("{index:05}.json"))).unwrap();
        }
        let begun = Instant::now();
        for index in 0..number {
            std::fs::read(fleet.join(format!("{index:05}.json"))).unwrap();
        }
        let floor = begun.elapsed();
        line("read, and nothing done", number, floor, floor, None);
        let asks: [(&str, &[&str]); 4] = [
            ("get storage.disks.*.serial", &["get", "storage.disks.*.serial"]),
            (
                "get a condition, as a table",
                &["get", "storage.disks[size>=4TB].{model,serial}", "--csv"],
            ),
            ("find a serial number", &["find", "SKS4-220417", "--count"]),
            ("find what is not there", &["find", "no-such-word", "--count"]),
        ];
        for (name, words) in asks {
            let (taken, peak) = run(Command::new(PROGRAM).args(words).arg("--from").arg(&fleet));
            line(name, number, taken, floor, Some(peak));
        }
        let (taken, peak) =
            run(Command::new(PROGRAM).args(["check", "--format", "junit"]).arg(&fleet));
        line("check all", number, taken, floor, Some(peak));
    }
    judging(&report);
}

/// What judging alone costs, of a report that is in memory.
fn judging(report: &Path) {
    const TIMES: u32 = 500;
    let report = Report::from_json(&std::fs::read(report).unwrap()).unwrap();
    let limits = Limits::default();
    let begun = Instant::now();
    for _ in 0..TIMES {
        std::hint::black_box(Judgement::of(&report, &limits));
    }
    let each = begun.elapsed().as_secs_f64() * 1e3 / f64::from(TIMES);
    println!("judging a report by every rule: {each:.3} ms  goal 1 ms");
}

fn line(name: &str, number: usize, taken: Duration, floor: Duration, peak: Option<u64>) {
    let ratio = taken.as_secs_f64() / floor.as_secs_f64();
    let each = taken.as_secs_f64() * 1e3 / number as f64;
    let peak = peak.map_or_else(|| "·".to_owned(), |kib| (kib >> 10).to_string());
    println!(
        "{name:<44} {number:>8} {each:>10.2} {ratio:>8.1} {peak:>9}  each and peak as at a tenth"
    );
}
