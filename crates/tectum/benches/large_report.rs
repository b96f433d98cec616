//! What saved reports cost, of an ordinary server and of the largest machine: 1,024 CPUs and 512 disks of 8
//! partitions. Their size, and what whole processes take that compare two, ask why one value is what it is, and make a
//! copy without what identifies.
//!
//! `cargo bench -p tectum --bench large_report` prints each beside its goal.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    clippy::cast_precision_loss,
    missing_docs,
    reason = "a benchmark"
)]

use std::{path::Path, process::Command};

use tectum_demo::{Machine, Tree};

#[path = "support/median.rs"]
mod median;
#[path = "support/peak.rs"]
mod peak;

use median::median;
use peak::run;

const PROGRAM: &str = env!("CARGO_BIN_EXE_tectum");

/// What is to be reached.
struct Goals {
    size_kb: f64,
    packed_kb: f64,
    compare_ms: f64,
    why_ms: f64,
    redact_ms: f64,
}

fn main() {
    println!("{:<44} {:>10} {:>10} {:>9}", "of a report", "figure", "goal", "peak MiB");
    let folder = tempfile::tempdir().unwrap();
    let large = folder.path().join("large");
    Tree::of(&Machine::scaled(512)).write(&large).unwrap();
    let goals = Goals {
        size_kb: 450.0,
        packed_kb: 60.0,
        compare_ms: 10.0,
        why_ms: f64::NAN,
        redact_ms: f64::NAN,
    };
    let ordinary = ["demo:gannet-before", "demo:gannet-after"];
    measure("ordinary", ordinary, "storage.disks.0.serial", folder.path(), &goals);
    let goals = Goals {
        size_kb: 6000.0,
        packed_kb: 300.0,
        compare_ms: 100.0,
        why_ms: 60.0,
        redact_ms: 1000.0,
    };
    let large = large.to_str().unwrap();
    measure("largest", [large, large], "storage.disks.511.serial", folder.path(), &goals);
}

fn measure(name: &str, subjects: [&str; 2], path: &str, folder: &Path, goals: &Goals) {
    let [before, after] =
        ["before", "after"].map(|when| folder.join(format!("{name}-{when}.json")));
    for (subject, file) in subjects.into_iter().zip([&before, &after]) {
        let mut survey = Command::new(PROGRAM);
        survey.args(["survey", "--quiet", "--from", subject, "--out"]).arg(file);
        assert!(survey.status().unwrap().success());
    }
    let text = std::fs::read(&before).unwrap();
    let line = |what: &str, figure: f64, goal: f64, peak: Option<u64>| {
        let peak = peak.map_or_else(|| "·".to_owned(), |kib| (kib >> 10).to_string());
        let goal = if goal.is_nan() { "·".to_owned() } else { format!("{goal:.0}") };
        println!("{:<44} {figure:>10.1} {goal:>10} {peak:>9}", format!("{name}: {what}"));
    };
    line("KB", text.len() as f64 / 1e3, goals.size_kb, None);
    let packed = zstd::encode_all(&*text, 3).unwrap();
    line("KB packed (zstd, its usual level)", packed.len() as f64 / 1e3, goals.packed_kb, None);
    let timed = |what: &str, words: &[&str], files: &[&Path], goal: f64| {
        let own = || {
            let mut command = Command::new(PROGRAM);
            command.args(words).args(files);
            command
        };
        let (_, peak) = run(&mut own());
        let taken = median(15, own());
        line(what, taken.as_secs_f64() * 1e3, goal, Some(peak));
    };
    timed("ms to compare two", &["compare"], &[&before, &after], goals.compare_ms);
    timed("ms to say why", &["why", path, "--from"], &[&before], goals.why_ms);
    let copy = folder.join("copy.json");
    let words = ["redact", "--out", copy.to_str().unwrap()];
    timed("ms to redact", &words, &[&before], goals.redact_ms);
}
