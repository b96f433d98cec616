//! How many parts a list of a report has at the most. What a real machine has stays far below; what is
//! made to cost time and memory does not.

use std::sync::Arc;

use super::file::File;
use tectum_report::fact::{Gap, Why, saying};

/// The most lines of one file that become parts of a list.
pub(crate) const MOST_LINES: usize = 10_000;

/// The most structures of one type of the firmware's tables that are told.
pub(crate) const MOST_STRUCTURES: usize = 4096;

/// Leaves the first of what a file lists, and says how many there are where that is not all.
pub(crate) fn leave_first<T>(items: &mut Vec<T>, file: &File) -> Option<Gap> {
    leave(items, MOST_LINES, file)
}

/// The same, where other files have had their part of the list.
pub(crate) fn leave<T>(items: &mut Vec<T>, most: usize, file: &File) -> Option<Gap> {
    let count = items.len();
    if count <= most {
        return None;
    }
    items.truncate(most);
    items.shrink_to_fit();
    Some(
        Gap::new(Why::TooMany).tried(
            Arc::clone(file.path()),
            saying!("lists-more-than-told", "lists {} are told")
                .with(format!("{count}, of which the first {most}")),
        ),
    )
}
