//! Machines that somebody made up to cost time or memory: what they cost is bounded by what they hold.
//!
//! One test in a file of its own, because the memory is that of the largest child of this process.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::time::Instant;

use support::Place;
use tectum_demo::{
    Tree,
    costly::{COSTLY, Costly},
};

/// How many times the shapes' own count is made. A build without optimisation has code of its own
/// size in memory, and takes its time.
const TIMES: usize = if cfg!(debug_assertions) { 3 } else { 10 };

/// Bytes below a folder.
fn size(folder: &std::path::Path) -> u64 {
    let entries = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap());
    entries
        .map(|entry| match entry.file_type().unwrap().is_dir() {
            true => size(&entry.path()),
            false => entry.metadata().unwrap().len(),
        })
        .sum()
}

/// The most memory that any child of this process had, in bytes.
fn peak_of_children() -> u64 {
    let usage = nix::sys::resource::getrusage(nix::sys::resource::UsageWho::RUSAGE_CHILDREN);
    u64::try_from(usage.unwrap().max_rss()).unwrap() * 1024
}

#[test]
fn what_a_made_up_machine_costs_is_bounded_by_what_it_holds() {
    // What a survey takes that finds nothing: its own code above all, which is large without optimisation.
    let place = Place::new();
    std::fs::create_dir_all(place.path("machine/proc")).unwrap();
    let ran = place.run(&["survey", "--from", "machine", "--out", "r.json", "--quiet"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let own = peak_of_children();
    for Costly { name, count, make } in COSTLY {
        let place = Place::new();
        let mut tree = Tree::default();
        make(&mut tree, count * TIMES);
        tree.write(&place.path("machine")).unwrap();
        let input = size(&place.path("machine"));
        let before = peak_of_children();
        let begun = Instant::now();
        let ran = place.run(&[
            "survey",
            "--from",
            "machine",
            "--out",
            "r.json",
            "--quiet",
            "--time-limit",
            "5s",
        ]);
        assert_eq!(ran.status, 0, "{name}: {}", ran.err);
        // The limit, half a second of grace, and what writing the report takes a debug build on a busy
        // machine; without a bound these took minutes.
        let time = begun.elapsed().as_secs();
        assert!(time < 30, "{name}: {time} s");
        let peak = peak_of_children();
        let most = own + (44 << 20) + 20 * input;
        // It is the largest of all so far: where it did not rise, this one took less.
        let said = format!("{name}: {} MiB for {input} bytes", peak >> 20);
        assert!(peak == before || peak <= most, "{said}, and {} MiB for nothing", own >> 20);
    }
}
