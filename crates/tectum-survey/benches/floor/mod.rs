//! What a survey is held against: a bare loop over the same files.

use std::{
    hint::black_box,
    path::{Path, PathBuf},
    time::Duration,
};

use tectum_survey::{source::Operation, survey::Survey};

use crate::timing::median;

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
