//! What the benchmarks share.

use std::time::{Duration, Instant};

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
