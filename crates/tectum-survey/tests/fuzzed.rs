//! No parser of a text format or of a device's page is left out of the fuzz targets, and every
//! target has seeds.

#![allow(clippy::unwrap_used, unreachable_pub, missing_docs, reason = "a test stops at once")]

use std::{fs, path::PathBuf};

fn repository(path: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..").join(path)
}

fn texts(folder: &str) -> Vec<(String, String)> {
    let files = fs::read_dir(repository(folder)).unwrap().map(|entry| entry.unwrap().path());
    let named = |path: PathBuf| {
        let stem = path.file_stem().unwrap().to_str().unwrap().to_owned();
        (stem, fs::read_to_string(path).unwrap())
    };
    files.filter(|path| path.extension().is_some_and(|kind| kind == "rs")).map(named).collect()
}

#[test]
fn every_parser_is_fuzzed() {
    let targets: String = texts("fuzz/fuzz_targets").into_iter().map(|(_, text)| text).collect();
    let mut parsers = 0;
    for (module, text) in texts("crates/tectum-survey/src/formats") {
        for line in text.lines().filter_map(|line| line.strip_prefix("pub fn ")) {
            let name = line.split(['(', '<']).next().unwrap();
            parsers += 1;
            assert!(targets.contains(&format!("{module}::{name}(")), "{module}::{name}");
        }
    }
    assert!(parsers > 40, "{parsers}");
}

#[test]
fn every_target_has_seeds() {
    for (target, _) in texts("fuzz/fuzz_targets") {
        let seeds = repository(&format!("fuzz/seeds/{target}"));
        assert!(fs::read_dir(&seeds).unwrap().count() > 0, "{}", seeds.display());
    }
}
