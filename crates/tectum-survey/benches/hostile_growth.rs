//! What machines cost that somebody made up to be slow: a list of everything that sections hold
//! against something else, at one size and at four times it. The cost of four times as many must be
//! near four times as much. And redaction of one text of a mebibyte, uniform and not, beside one of
//! a quarter of it.
//!
//! `cargo bench -p tectum-survey --bench hostile_growth` prints both times and how much they grew.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    reason = "a benchmark"
)]

mod timing;

use std::{collections::BTreeSet, hint::black_box, path::Path};

use tectum_demo::{
    Tree as Made,
    costly::{COSTLY, Costly},
};
use tectum_report::redact::Pseudonyms;
use tectum_survey::{
    redact::rewritten,
    source::{Door, Tree},
    survey::{Plan, survey},
};
use timing::median;

fn main() {
    println!("{:<34} {:>8} {:>10} {:>10} {:>8}", "what", "of them", "ms", "× 4, ms", "growth");
    for Costly { name, count, make } in COSTLY {
        let time = |count: usize| {
            let folder = tempfile::tempdir().unwrap();
            let mut tree = Made::default();
            make(&mut tree, count);
            tree.write(folder.path()).unwrap();
            median(|| {
                let door = Door::new(Tree::folder(folder.path()).unwrap());
                black_box(survey(&door, &Plan::default(), &mut |_| {}));
            })
        };
        print(name, &count.to_string(), time(*count), time(count * 4));
    }
    let by = Pseudonyms::new(b"a key of a good length for a benchmark", &BTreeSet::new());
    let mixed = |length: usize| -> Vec<u8> {
        b"abcdefghijklmnopqrstuvw0123456789-"
            .iter()
            .cycle()
            .step_by(7)
            .take(length)
            .copied()
            .collect()
    };
    for (name, text) in [
        ("one letter", (|length| vec![b'a'; length]) as fn(usize) -> Vec<u8>),
        ("all letters", mixed),
    ] {
        for path in ["/etc/hostname", "/proc/cmdline", "/etc/fstab", "/sys/block/a/dm/uuid"] {
            let time = |length: usize| {
                let text = text(length);
                median(|| {
                    black_box(rewritten(Path::new(path), &text, &by));
                })
            };
            print(&format!("{name}, {path}"), "256 KiB", time(256 << 10), time(1 << 20));
        }
    }
}

fn print(name: &str, count: &str, one: std::time::Duration, four: std::time::Duration) {
    println!(
        "{name:<34} {count:>8} {:>10.2} {:>10.2} {:>8.1}",
        one.as_secs_f64() * 1e3,
        four.as_secs_f64() * 1e3,
        four.as_secs_f64() / one.as_secs_f64()
    );
}
