//! What a whole process costs.

use std::{
    process::{Command, Stdio},
    time::{Duration, Instant},
};

/// How long a process took, to about a millisecond, and its most memory in KiB: `VmHWM` of it, read as long as it lives.
pub(crate) fn run(command: &mut Command) -> (Duration, u64) {
    let begun = Instant::now();
    let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
    let status = format!("/proc/{}/status", child.id());
    let mut peak = 0;
    while child.try_wait().unwrap().is_none() {
        let text = std::fs::read_to_string(&status).unwrap_or_default();
        let line = text.lines().find_map(|line| line.strip_prefix("VmHWM:"));
        let now = line.and_then(|line| line.split_whitespace().next()?.parse().ok());
        peak = peak.max(now.unwrap_or(0));
        std::thread::sleep(Duration::from_millis(1));
    }
    (begun.elapsed(), peak)
}
