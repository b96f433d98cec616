//! Sections: each reads one part of the machine through the door and fills in its part of the
//! model. This is the registry.

mod cpu;
mod drivers;
mod filesystems;
mod firmware;
mod gpu;
mod memory;
mod network;
mod os;
mod pci;
mod peripherals;
mod platform;
mod power;
mod processes;
mod sensors;
mod storage;
mod usb;

pub(crate) use drivers::is_harmless as is_harmless_parameter;
pub(crate) use os::{is_known_release_field, own_clock, rates_between};
pub(crate) use platform::is_other_structure;
pub(crate) use processes::state as process_state;

use globset::{GlobBuilder, GlobSetBuilder};

use crate::source::{Archive, Lease};
use tectum_report::{Observed, declare::Described, model::Inventory};

/// A section of the inventory.
pub struct Section {
    /// Its name, as users write it and as the report names it.
    pub name: &'static str,
    /// What it holds, in a line.
    pub summary: &'static str,
    /// Every path it may ask for, as glob patterns: the whole list, whatever the machine.
    pub reads: &'static [&'static str],
    /// Reads it; what is found is put into the report once the section is whole, so that a section
    /// that is given up leaves no half behind.
    pub(crate) survey: fn(&Lease) -> Found,
}

/// How what a section found is put into a report.
pub(crate) type Found = Box<dyn FnOnce(&mut Observed) + Send>;

/// What every survey reads first: which machine this is.
pub(crate) const IDENTITY: Section = platform::IDENTITY;

/// Every section, in the order of the report.
pub const SECTIONS: &[Section] = &[
    platform::SECTION,
    cpu::SECTION,
    memory::SECTION,
    storage::SECTION,
    filesystems::SECTION,
    gpu::SECTION,
    firmware::SECTION,
    os::SECTION,
    network::SECTION,
    pci::SECTION,
    usb::SECTION,
    drivers::SECTION,
    sensors::SECTION,
    power::SECTION,
    peripherals::SECTION,
];

/// Sections that are surveyed only where they are named: they tell of the moment alone, and of more than most who
/// look at a machine ask for.
pub const ON_REQUEST: &[Section] = &[processes::SECTION];

/// Each field of the inventory is filled in by the section of its name: one that is forgotten does
/// not compile.
const _: () = {
    let mut names = [""; SECTIONS.len()];
    let (mut left, mut rest): (&mut [&str], &[Section]) = (&mut names, SECTIONS);
    while let ([name, others @ ..], [section, more @ ..]) = (left, rest) {
        *name = section.name;
        (left, rest) = (others, more);
    }
    assert!(
        <Inventory as Described>::SHAPE.has_fields(&names),
        "the registry must list a section for each field of the inventory, in its order"
    );
};

/// Every path that a survey of some sections may ask for, as glob patterns, sorted.
pub fn reads(sections: &[&'static Section]) -> Vec<&'static str> {
    let mut patterns: Vec<&'static str> = std::iter::once(&IDENTITY)
        .chain(sections.iter().copied())
        .flat_map(|section| section.reads.iter().copied())
        .collect();
    patterns.sort_unstable();
    patterns.dedup();
    patterns
}

/// The sections of those that are surveyed only where they are named, of which an archive holds files that no other
/// reads.
pub fn kept_on_request(archive: &Archive) -> Vec<&'static Section> {
    let compiled = |patterns: Vec<&str>| {
        let mut set = GlobSetBuilder::new();
        for pattern in patterns {
            // Each pattern is a constant, and a test compiles them all.
            if let Ok(glob) = GlobBuilder::new(pattern).literal_separator(true).build() {
                set.add(glob);
            }
        }
        set.build().unwrap_or_default()
    };
    let usual = compiled(reads(&SECTIONS.iter().collect::<Vec<_>>()));
    let holds = |section: &&Section| {
        let own = compiled(section.reads.to_vec());
        archive.files().any(|path| own.is_match(path) && !usual.is_match(path))
    };
    ON_REQUEST.iter().filter(holds).collect()
}

/// The section of a name.
pub fn named(name: &str) -> Option<&'static Section> {
    SECTIONS.iter().chain(ON_REQUEST).find(|section| section.name == name)
}
