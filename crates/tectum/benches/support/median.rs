//! How long whole processes take.

use std::{
    process::{Command, Stdio},
    time::{Duration, Instant},
};

/// The median of so many processes, from start to end, that nobody looks at meanwhile.
pub(crate) fn median(runs: usize, mut command: Command) -> Duration {
    command.stdout(Stdio::null()).stderr(Stdio::null());
    let mut times: Vec<Duration> = (0..runs)
        .map(|_| {
            let start = Instant::now();
            let _ = command.status().unwrap();
            start.elapsed()
        })
        .collect();
    times.sort_unstable();
    times.get(times.len() / 2).copied().unwrap()
}
