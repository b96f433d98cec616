//! The program's start beside a bare process, and a survey of this machine beside that.
//!
//! `cargo bench -p tectum --bench start` prints each with its ratio to a process that does nothing.

#![allow(clippy::unwrap_used, clippy::print_stdout, missing_docs, reason = "a benchmark")]

use std::process::Command;

#[path = "support/median.rs"]
mod median;

use median::median;

/// So many processes of each are timed.
const RUNS: usize = 41;

fn main() {
    let program = env!("CARGO_BIN_EXE_tectum");
    let bare = median(RUNS, Command::new("/bin/true"));
    println!("{:<34} {:>9} {:>7}", "process", "ms", "ratio");
    println!("{:<34} {:>9.2} {:>7.2}", "one that does nothing", bare.as_secs_f64() * 1e3, 1.0);
    for words in [&["--version"][..], &["survey"], &["survey", "--format", "json"]] {
        let mut command = Command::new(program);
        command.args(words);
        let taken = median(RUNS, command);
        println!(
            "{:<34} {:>9.2} {:>7.2}",
            format!("tectum {}", words.join(" ")),
            taken.as_secs_f64() * 1e3,
            taken.as_secs_f64() / bare.as_secs_f64()
        );
    }
}
