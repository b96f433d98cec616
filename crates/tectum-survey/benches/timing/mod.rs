//! What the benchmarks share.

#![allow(dead_code, reason = "each benchmark uses what it needs")]

use std::{
    hint::black_box,
    path::{Path, PathBuf},
    time::{Duration, Instant},
};

use tectum_survey::{source::Operation, survey::Survey};

/// The median of seven runs.
pub fn median(mut work: impl FnMut()) -> Duration {
    let mut times: Vec<Duration> = (0..7)
        .map(|_| {
            let start = Instant::now();
            work();
            start.elapsed()
        })
        .collect();
    times.sort_unstable();
    times.get(times.len() / 2).copied().unwrap_or_default()
}

/// The time that a bare loop takes over the files that a survey read, and how many there are.
pub fn floor(surveyed: &Survey, root: &Path) -> (Duration, usize) {
    let files: Vec<PathBuf> = surveyed
        .accesses
        .iter()
        .filter(|access| access.operation == Operation::Read)
        .map(|access| root.join(access.path.trim_start_matches('/')))
        .collect();
    let time = median(|| {
        for file in &files {
            let _ = black_box(std::fs::read(file));
        }
    });
    (time, files.len())
}
