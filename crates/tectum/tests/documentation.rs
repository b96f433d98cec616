//! The documentation: what it shows is what comes out, what it links to is there.
//!
//! Blocks of `console` hold commands behind `$` with all that they print; each page's are run one after the other in a
//! folder of its own. `TECTUM_REFERENCE=write` writes what they print now into the pages.

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

use std::{
    fs,
    path::{Path, PathBuf},
    process::Command,
};

use support::Place;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").canonicalize().unwrap()
}

/// Every page that people read.
fn pages() -> Vec<PathBuf> {
    fn within(folder: &Path, found: &mut Vec<PathBuf>) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                within(&path, found);
            } else if path.extension().is_some_and(|end| end == "md") {
                found.push(path);
            }
        }
    }
    let root = root();
    let mut found: Vec<PathBuf> =
        ["README.md", "ARCHITECTURE.md", "CONTRIBUTING.md", "CHANGELOG.md"]
            .map(|it| root.join(it))
            .into();
    within(&root.join("docs"), &mut found);
    found.sort();
    found
}

/// Runs a line as a shell does, in a plain environment.
fn run(place: &Place, line: &str) -> String {
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let path = format!("{}:/usr/bin:/bin", program.parent().unwrap().display());
    let ran = Command::new("sh")
        .args(["-c", &format!("{{ {line}\n}} 2>&1")])
        .current_dir(place.root())
        .env_clear()
        .env("PATH", path)
        .env("HOME", place.root())
        .env("TZ", "UTC")
        .env("COLUMNS", "100")
        .env("TECTUM_ARCHIVE_LOCATION", place.path("archive"))
        .output()
        .unwrap();
    let text = String::from_utf8(ran.stdout).unwrap();
    text.lines().map(|line| format!("{}\n", without_the_look(line.trim_end()))).collect()
}

/// A line without what is another at every look: when it was, how long reading took, and by whom.
fn without_the_look(line: &str) -> String {
    const SEEN: &str = "seen 20";
    const AS_WHOM: &str = ", not as root";
    let mut line = line.replace("survey ran as an ordinary user", "survey ran as root");
    if line.contains(AS_WHOM) {
        line = line.replace(AS_WHOM, "");
        // What stands at the right end of a title stands there still.
        if let Some(room) = line.find("          ") {
            line.insert_str(room, &" ".repeat(AS_WHOM.len()));
        }
    }
    if let Some(at) = line.find(SEEN) {
        let end = at + "seen 2026-05-12 06:30".len();
        if line.get(end..).is_some_and(|rest| rest.starts_with(" UTC")) {
            line.replace_range(at..end, "seen 2026-05-12 06:30");
        }
    }
    line = line.replace("less than 5 µs", "90 µs");
    if let Some(end) = line.find(" µs") {
        let digits = line[..end].bytes().rev().take_while(u8::is_ascii_digit).count();
        line.replace_range(end - digits..end, "90");
    }
    line
}

/// A page with the output of its commands as it is now.
fn as_it_is(text: &str) -> String {
    let place = Place::new();
    let mut new = String::new();
    let mut lines = text.lines().peekable();
    while let Some(line) = lines.next() {
        new.push_str(line);
        new.push('\n');
        if line != "```console" {
            continue;
        }
        while let Some(line) = lines.next_if(|line| *line != "```") {
            // What was printed before is made anew.
            let Some(command) = line.strip_prefix("$ ") else { continue };
            new.push_str(&format!("{line}\n{}", run(&place, command)));
        }
    }
    new
}

#[test]
fn what_pages_show_is_what_comes_out() {
    let mut shown = 0;
    for page in pages() {
        let text = fs::read_to_string(&page).unwrap();
        if !text.contains("```console\n") {
            continue;
        }
        shown += 1;
        let now = as_it_is(&text);
        if std::env::var_os("TECTUM_REFERENCE").is_some_and(|it| it == "write") {
            fs::write(&page, &now).unwrap();
            continue;
        }
        for (number, (is, was)) in now.lines().zip(text.lines()).enumerate() {
            assert_eq!(is, was, "{}:{}", page.display(), number + 1);
        }
        assert_eq!(now, text, "{}", page.display());
    }
    assert!(shown > 0);
}

#[test]
fn what_pages_link_to_is_there() {
    let mut links = 0;
    for page in pages() {
        let text = fs::read_to_string(&page).unwrap();
        let folder = page.parent().unwrap();
        for piece in text.split("](").skip(1) {
            let Some((target, _)) = piece.split_once(')') else { continue };
            if target.contains("://") || target.contains(' ') {
                continue;
            }
            links += 1;
            let (path, anchor) = target.split_once('#').unwrap_or((target, ""));
            let path = if path.is_empty() { page.clone() } else { folder.join(path) };
            assert!(path.exists(), "{}: {target}", page.display());
            if !anchor.is_empty() {
                let text = fs::read_to_string(&path).unwrap();
                let headings = text.lines().filter(|line| line.starts_with('#'));
                let mut named = headings.map(|line| {
                    let words = line.trim_start_matches('#').trim().to_lowercase();
                    let kept = words.chars().filter(|c| c.is_alphanumeric() || " -".contains(*c));
                    kept.collect::<String>().replace(' ', "-")
                });
                assert!(named.any(|own| own == anchor), "{}: {target}", page.display());
            }
        }
    }
    assert!(links > 30, "{links}");
}
