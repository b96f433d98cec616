//! The kernel's and the system's text and table formats: each a pure function from bytes or text.
//!
//! Nothing here reads a file. A parser returns what it could read; each entry says on which line it
//! stands, so that evidence can name it.

pub mod acpi;
pub mod assignment;
pub mod calendar;
pub mod colon;
pub mod cpuinfo;
pub mod device_tree;
pub mod edid;
mod escape;
pub mod fstab;
pub mod id_list;
pub mod kernel_modules;
pub mod kernel_parameters;
pub mod kernel_version;
pub mod link_speed;
pub mod memory_ranges;
pub mod module_alias;
pub mod mount_option;
pub mod mountinfo;
pub mod number;
pub mod number_list;
pub mod partition_type;
pub mod pci_configuration;
pub mod pressure;
pub mod process;
pub mod release_order;
pub mod repositories;
pub mod routes;
pub mod udev;
pub mod vital_product_data;

/// A line that says something, with its number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Line<'a> {
    /// The line's number, from 1.
    pub number: usize,
    /// The line as it stands, without its end.
    pub raw: &'a str,
}

/// The lines of a text, numbered.
pub(crate) fn lines(text: &str) -> impl Iterator<Item = Line<'_>> {
    text.lines().enumerate().map(|(index, raw)| Line { number: index + 1, raw })
}

/// A text made anew line by line, so that each line keeps its number.
pub(crate) fn line_by_line(text: &str, mut new: impl FnMut(&str) -> String) -> String {
    let mut all = String::with_capacity(text.len());
    for line in text.lines() {
        all.push_str(&new(line));
        all.push('\n');
    }
    if !text.ends_with('\n') {
        all.pop();
    }
    all
}
