//! A survey beside its floor: the same files read one after another by a bare loop, in the same
//! run, on this machine and on made-up machines of 1, 8, 64 and 512 times the parts.
//!
//! `cargo bench -p tectum-survey --bench survey_floor` prints the ratio and how it grows.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    missing_docs,
    unreachable_pub,
    reason = "a benchmark"
)]

mod floor;
mod timing;

use std::{hint::black_box, path::Path, sync::Arc, time::Duration};

use floor::floor;
use tectum_report::{
    fact::Evidence,
    report::{Report, Taken},
    walk::Met,
};
use tectum_survey::{
    source::{Door, Tree},
    survey::{Plan, Survey, survey},
};
use timing::median;

fn main() {
    println!(
        "{:<12} {:>7} {:>11} {:>11} {:>7} {:>9} {:>11} {:>11} {:>9} {:>13}",
        "machine",
        "files",
        "survey ms",
        "floor ms",
        "ratio",
        "growth",
        "write ms",
        "report KB",
        "digest ms",
        "evidence ms"
    );
    let mut last = None;
    measure("live", || Door::new(Tree::live().unwrap()), Path::new("/"), &mut last);
    let mut last = None;
    for parts in [1, 8, 64, 512] {
        let folder = tempfile::tempdir().unwrap();
        let machine = tectum_demo::Machine::scaled(parts);
        tectum_demo::Tree::of(&machine).write(folder.path()).unwrap();
        let name = format!("{parts} times");
        measure(
            &name,
            || Door::new(Tree::folder(folder.path()).unwrap()),
            folder.path(),
            &mut last,
        );
    }
}

fn measure(name: &str, door: impl Fn() -> Arc<Door>, root: &Path, last: &mut Option<Duration>) {
    let look = || survey(&door(), &Plan::default(), &mut |_| {});
    let first = look();
    let (floor, files) = floor(&first, root);
    let surveyed = median(|| {
        black_box(look());
    });
    let report = report(first);
    let mut written = Vec::new();
    let write = median(|| {
        written.clear();
        serde_json::to_writer(&mut written, &report).unwrap();
    });
    let digest = median(|| {
        black_box(report.inventory_digest());
    });
    // What it costs to build every piece of evidence of the report, places and raw text included.
    let evidence = median(|| {
        report.walk(&mut |_, _, met| {
            let pieces = match met {
                Met::Leaf(fact) => fact.evidence(),
                Met::List(list) => list.evidence(),
                Met::Record(_) => &[],
            };
            for piece in pieces {
                let mut built = Evidence::new(piece.source.clone(), piece.rule.clone());
                if let Some(place) = &piece.place {
                    built = built.place(place.to_string());
                }
                if let Some(raw) = &piece.raw {
                    built = built.raw(raw);
                }
                black_box(vec![built]);
            }
        });
    });
    let growth = last.map_or("-".to_owned(), |last| {
        format!("{:.1}", surveyed.as_secs_f64() / last.as_secs_f64())
    });
    *last = Some(surveyed);
    println!(
        "{name:<12} {:>7} {:>11.2} {:>11.2} {:>7.2} {growth:>9} {:>11.2} {:>11} {:>9.2} {:>13.2}",
        files,
        surveyed.as_secs_f64() * 1e3,
        floor.as_secs_f64() * 1e3,
        surveyed.as_secs_f64() / floor.as_secs_f64(),
        write.as_secs_f64() * 1e3,
        written.len() / 1000,
        digest.as_secs_f64() * 1e3,
        evidence.as_secs_f64() * 1e3,
    );
}

fn report(survey: Survey) -> Report {
    let taken = Taken {
        at: "2026-11-23T08:00:00Z".parse().unwrap(),
        tool: "benchmark".to_owned(),
        subject: "folder".to_owned(),
        privileged: true,
        sections: Vec::new(),
        elapsed_ms: 0,
    };
    survey.into_report(taken)
}
