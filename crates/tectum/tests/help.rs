//! What helps a newcomer: manual pages, completions, the demo's steps.

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

use std::fs;

use rstest::rstest;
use support::Place;

#[test]
fn every_command_has_a_page_in_the_manual() {
    let place = Place::new();
    let ran = place.run(&["manual", "--out", "pages"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let mut commands = commands(&place);
    commands.retain(|name| name != "help");
    assert!(commands.len() > 15, "{commands:?}");
    for name in commands {
        let page = fs::read_to_string(place.path(&format!("pages/tectum-{name}.1"))).unwrap();
        assert!(page.contains(".SH NAME") && page.contains(".SH SYNOPSIS"), "{name}");
    }
    for (page, holds) in [
        ("tectum.1", "subcommands"),
        ("tectum-archive-prune.1", "\\-\\-states\\-too"),
        ("tectum.toml.5", "check.filesystem\\-full\\-percent"),
        ("tectum-formats.5", "cyclonedx"),
        ("tectum-survey.1", "tectum survey memory storage"),
    ] {
        let text = fs::read_to_string(place.path(&format!("pages/{page}"))).unwrap();
        assert!(text.to_lowercase().contains(holds), "{page}: {text}");
    }
    let one = place.run(&["manual", "tectum.toml"]);
    assert_eq!(one.out, fs::read_to_string(place.path("pages/tectum.toml.5")).unwrap());
    let wrong = place.run(&["manual", "setings"]);
    assert_eq!(wrong.status, 2);
    assert!(wrong.err.contains("the nearest is \"settings\""), "{}", wrong.err);
}

/// The commands, as the help names them.
fn commands(place: &Place) -> Vec<String> {
    let help = place.run(&["--help"]).out;
    let lines = help.lines().skip_while(|line| *line != "Commands:").skip(1);
    let names = lines
        .take_while(|line| !line.is_empty())
        .filter_map(|line| line.strip_prefix("  ")?.split(' ').next().filter(|it| !it.is_empty()));
    names.map(str::to_owned).collect()
}

#[test]
fn the_help_of_every_command_is_laid_out_for_its_reader() {
    let place = Place::new();
    let mut with_examples = 0;
    for name in commands(&place) {
        let help = place.run(&["help", &name]).out;
        let (own, common) = match name.as_str() {
            "help" => continue,
            _ => help.split_once("\nFor every command:\n").expect(&name),
        };
        assert!(own.lines().any(|line| line.contains("--help")), "{name}: {help}");
        for option in ["--color", "--units", "--plain", "--settings", "--archive"] {
            let line = |text: &str| text.lines().any(|line| line.trim().starts_with(option));
            assert!(!line(own) && line(common), "{name} {option}: {help}");
        }
        // A line that ends early is the last of its paragraph.
        let prose: Vec<&str> = help.lines().collect();
        for (line, next) in prose.iter().zip(&prose[1..]) {
            assert!(line.chars().count() <= 100, "{name}: {line}");
            let in_prose = |line: &str| line.starts_with(|sign: char| sign.is_ascii_alphabetic());
            let goes_on = in_prose(line) && in_prose(next);
            assert!(!goes_on || line.len() > 70, "{name}: {line:?} before {next:?}");
        }
        if let Some((_, examples)) = help.split_once("\nExamples:\n") {
            with_examples += 1;
            for line in examples.lines() {
                let line = line.strip_prefix("  ").expect(line);
                let typed = ["tectum ", "sudo tectum ", "source <(tectum "];
                assert!(typed.iter().any(|begin| line.starts_with(begin)), "{name}: {line}");
            }
        }
    }
    assert!(with_examples > 10, "{with_examples}");
}

/// What a shell is told may stand at the end of a line.
fn completed(place: &Place, line: &[&str]) -> Vec<String> {
    let mut command = place.command(&[&["--", "tectum"][..], line].concat());
    let index = line.len().to_string();
    command.env("_TECTUM_COMPLETE", "bash").env("_CLAP_IFS", "\n");
    command.env("_CLAP_COMPLETE_INDEX", index).env("_CLAP_COMPLETE_COMP_TYPE", "9");
    command.env("_CLAP_COMPLETE_SPACE", "false").env("HOME", place.root());
    let output = command.output().unwrap();
    assert!(output.status.success());
    String::from_utf8(output.stdout).unwrap().lines().map(str::to_owned).collect()
}

#[rstest]
#[case(&["survey", "mem"], "memory")]
#[case(&["survey", "--from", "demo:sand"], "demo:sanderling")]
#[case(&["survey", "--from", "liv"], "live")]
#[case(&["survey", "--from", "ga"], "gannet")]
#[case(&["compare", "gannet@acc"], "gannet@accepted")]
#[case(&["compare", "gannet@prev"], "gannet@previous")]
#[case(&["get", "storage.disks.*.ser"], "storage.disks.*.serial")]
#[case(&["history", "os.kernel_r"], "os.kernel_release")]
#[case(&["history", "os.kernel_release", "ga"], "gannet")]
#[case(&["check", "--explain", "filesystem-nearly"], "filesystem-nearly-full")]
#[case(&["survey", "--table", "storage_v"], "storage_volumes")]
#[case(&["survey", "--format", "open"], "openmetrics")]
#[case(&["survey", "--from", "not"], "note.json")]
fn an_argument_is_completed_from_what_is_there(#[case] line: &[&str], #[case] expected: &str) {
    let place = Place::new();
    assert_eq!(place.run(&["save", "demo:gannet-before", "--quiet"]).status, 0);
    assert_eq!(place.run(&["archive", "mark", "gannet", "accepted"]).status, 0);
    fs::write(place.path("note.json"), "{}").unwrap();
    let all = completed(&place, line);
    assert!(all.iter().any(|one| one == expected), "{all:?}");
}

#[rstest]
#[case("bash", "complete ")]
#[case("zsh", "#compdef tectum")]
#[case("fish", "complete ")]
fn a_shell_is_told_whom_to_ask(#[case] shell: &str, #[case] holds: &str) {
    let ran = Place::new().run(&["completions", shell]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(ran.out.contains(holds) && ran.out.contains("_TECTUM_COMPLETE"), "{}", ran.out);
}

#[rstest]
#[case(&["surve"], "'survey'")]
#[case(&["comparre"], "'compare'")]
#[case(&["archive", "lst"], "'list'")]
#[case(&["survey", "--fromm", "x"], "'--from'")]
#[case(&["survey", "--format", "jsn"], "'json'")]
#[case(&["survey", "ram"], "the nearest is \"memory\"")]
#[case(&["survey", "processor"], "the nearest is \"cpu\"")]
#[case(&["get", "bios.version"], "the nearest is \"firmware.version\"")]
#[case(&["survey", "--from", "demo:ganet-before"], "the nearest is \"gannet-before\"")]
fn what_was_nearly_typed_is_offered_alone(#[case] words: &[&str], #[case] offered: &str) {
    let ran = Place::new().run(words);
    assert_eq!((ran.status, ran.out.as_str()), (2, ""), "{}", ran.err);
    assert!(ran.err.contains(offered), "{}", ran.err);
    assert!(!ran.err.contains("some similar"), "{}", ran.err);
}

#[test]
fn a_step_of_the_demo_is_shown_alone() {
    let place = Place::new();
    let list = place.run(&["demo", "--list"]).out;
    let steps = list.matches("tectum ").count();
    assert!(steps >= 15, "{list}");
    let compare = list.lines().find(|line| line.contains("tectum compare")).unwrap();
    let number = compare.split_whitespace().next().unwrap();
    let ran = place.run(&["demo", "--step", number]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert_eq!(ran.out.matches('❯').count(), 2, "the folder and the command: {}", ran.out);
    assert!(ran.out.contains("replaced memory module"), "{}", ran.out);
    let wrong = place.run(&["demo", "--step", "99"]);
    assert_eq!(wrong.status, 2);
    assert!(wrong.err.contains("--list tells them"), "{}", wrong.err);
}
