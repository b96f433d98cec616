//! `tectum check` and `tectum expect`, run as users run them: what they print, in each form, and how they end.

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

use std::collections::BTreeSet;

use rstest::rstest;
use serde_json::Value;
use support::{Place, Ran, views};

const GANNET: &str = "demo:gannet-before";
const AFTER: &str = "demo:gannet-after";

fn check(words: &[&str]) -> Ran {
    Place::new().run(&[&["check"], words].concat())
}

fn json(ran: &Ran) -> Value {
    serde_json::from_str(&ran.out).unwrap_or_else(|error| panic!("{error}: {}", ran.out))
}

#[rstest]
#[case(&[GANNET], 1)]
#[case(&[GANNET, "--fail-on", "critical"], 0)]
#[case(&[GANNET, "--fail-on", "never"], 0)]
#[case(&[GANNET, "--only", "disk-space-in-no-partition"], 0)]
#[case(&[GANNET, "--only", "disk-space-in-no-partition", "--fail-on", "notice"], 1)]
#[case(&[GANNET, "--only", "cpus-offline", "--fail-on", "notice"], 0)]
#[case(&["--from", GANNET], 1)]
#[case(&["--list"], 0)]
#[case(&[GANNET, "--explain", "disk-warm"], 0)]
#[case(&[GANNET, "--only", "disk-wram"], 2)]
#[case(&["nowhere"], 3)]
#[case(&[GANNET, "nowhere", "--fail-on", "critical"], 3)]
#[case(&[GANNET, "nowhere"], 3)]
fn statuses_are_those_that_scripts_rely_on(#[case] words: &[&str], #[case] status: i32) {
    let ran = check(words);
    assert_eq!(ran.status, status, "{}\n{}", ran.out, ran.err);
}

#[test]
fn what_is_no_finding_is_told_with_the_nearest() {
    let ran = check(&[GANNET, "--skip", "filesystem-nearly-ful"]);
    assert!(ran.err.contains("the nearest is \"filesystem-nearly-full\""), "{}", ran.err);
    assert_eq!(ran.err.lines().count(), 1, "{}", ran.err);
}

#[test]
fn the_gravest_comes_first_with_why_and_what_to_do() {
    let out = check(&[GANNET]).out;
    let at = |text: &str| out.find(text).unwrap_or_else(|| panic!("{text:?} in {out}"));
    assert!(at("▲ warning") < at("▪ notice"));
    assert!(at("filesystem /srv/gauges: 96.96 % used") < at("Programs fail in the middle"));
    assert!(at("→ Find what fills it") < at("6 warnings, ▪ 4 notices"));
    let unjudged = check(&[GANNET, "--not-judged"]).out;
    assert!(unjudged.contains("disk-not-running Nothing on this machine gives it"), "{unjudged}");
}

#[test]
fn the_same_of_several_machines_is_told_once() {
    let found = json(&check(&[GANNET, AFTER, "--format", "json"]));
    let findings = found["findings"].as_array().unwrap();
    let of =
        |rule: &str| -> Vec<&Value> { findings.iter().filter(|one| one["rule"] == rule).collect() };
    let full = of("filesystem-nearly-full");
    assert_eq!(full.len(), 1);
    assert_eq!(full[0]["machines"].as_array().unwrap().len(), 2);
    assert_eq!(of("newer-kernel-installed")[0]["machines"].as_array().unwrap().len(), 1);
}

#[test]
fn json_is_what_its_schema_says() {
    let schema: Value = serde_json::from_str(&Place::new().run(&["schema", "check"]).out).unwrap();
    assert!(jsonschema::meta::is_valid(&schema));
    let found = json(&check(&[GANNET, "--format", "json"]));
    let validator = jsonschema::validator_for(&schema).unwrap();
    let errors: Vec<String> = validator.iter_errors(&found).map(|it| it.to_string()).collect();
    assert!(errors.is_empty(), "{errors:?}");
    let seen = &found["findings"][0]["seen"][0];
    assert!(seen["source"].as_str().unwrap().starts_with('/'), "where it is from: {seen}");
}

const OWN: &str = "
[[expect]]
name = \"three-data-disks\"
select = \"storage.disks[rotating=yes]\"
count = 3
severity = \"critical\"

[[accept]]
finding = \"usb-interface-without-driver\"
hosts = \"gannet\"
reason = \"The driver comes with the next kernel.\"
";

fn expecting(text: &str) -> Place {
    let place = Place::new();
    std::fs::write(place.path("own.toml"), text).unwrap();
    place
}

#[test]
fn sarif_is_what_the_standards_schema_says() {
    let mut schema: Value = serde_json::from_str(include_str!("schemas/sarif-2.1.0.json")).unwrap();
    // As published, the pattern of a member that is not written here is no regular expression.
    for holder in ["run", "toolComponent"] {
        let language = format!("/definitions/{holder}/properties/language");
        let language = schema.pointer_mut(&language).unwrap().as_object_mut().unwrap();
        assert!(language.remove("pattern").is_some());
    }
    let words = ["check", GANNET, AFTER, "--format", "sarif", "--expect", "own.toml"];
    let log = json(&expecting(OWN).run(&words));
    let validator = jsonschema::validator_for(&schema).unwrap();
    let errors: Vec<String> = validator.iter_errors(&log).map(|it| it.to_string()).collect();
    assert!(errors.is_empty(), "{errors:?}");
    let run = &log["runs"][0];
    let results = run["results"].as_array().unwrap();
    let of = |rule: &str| results.iter().find(|one| one["ruleId"] == rule).unwrap();
    let location = &of("filesystem-nearly-full")["locations"][0]["logicalLocations"][0];
    assert_eq!(location["fullyQualifiedName"], "gannet:readings.filesystems.usage.3");
    let rules = run["tool"]["driver"]["rules"].as_array().unwrap();
    let rules: BTreeSet<&str> = rules.iter().map(|rule| rule["id"].as_str().unwrap()).collect();
    let open = results.iter().filter(|one| one["kind"] == "open").count();
    assert!(open > 3, "what could not be judged: {open}");
    assert!(results.iter().all(|one| rules.contains(one["ruleId"].as_str().unwrap())));
    let accepted = &of("usb-interface-without-driver")["suppressions"][0];
    assert!(accepted["justification"].is_string());
}

#[test]
fn junit_has_a_suite_a_machine_and_a_case_a_rule() {
    let out = check(&[GANNET, AFTER, "--format", "junit"]).out;
    let numbers = |name: &str| -> Vec<usize> {
        let mark = format!(" {name}=\"");
        let behind = out.match_indices(&mark).map(|(at, _)| &out[at + mark.len()..]);
        behind.filter_map(|rest| rest.split('"').next()?.parse().ok()).collect()
    };
    let (tests, failures, skipped) = (numbers("tests"), numbers("failures"), numbers("skipped"));
    assert_eq!((tests.len(), out.matches("<testsuite ").count()), (2, 2));
    assert_eq!(out.matches("<testcase ").count(), tests.iter().sum::<usize>());
    assert_eq!(out.matches("<failure ").count(), failures.iter().sum::<usize>());
    assert_eq!(out.matches("<skipped>").count(), skipped.iter().sum::<usize>());
    assert!(failures[0] >= 6 && skipped[0] > 3, "{failures:?} {skipped:?}");
    let lenient = check(&[GANNET, "--format", "junit", "--fail-on", "critical"]).out;
    assert_eq!(lenient.matches("<failure ").count(), 0);
}

#[test]
fn a_hostile_name_stays_text_in_every_form() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file("proc/sys/kernel/hostname", "<x>&\"]]>\u{1b}[31m\u{202e}\n");
    });
    for form in ["text", "json", "junit", "sarif"] {
        let ran = place.run(&["check", "machine", "machine", "--format", form]);
        assert!(!ran.out.contains(['\u{1b}', '\u{202e}']), "{form}");
        if form == "junit" {
            assert!(!ran.out.contains("<x>") && ran.out.contains("&lt;x&gt;&amp;"), "{}", ran.out);
        }
    }
}

#[test]
fn an_owners_expectations_are_judged_like_rules() {
    let place = expecting(OWN);
    let ran = place.run(&["check", GANNET, "--expect", "own.toml", "--fail-on", "critical"]);
    assert_eq!(ran.status, 1, "{}", ran.err);
    assert!(ran.out.contains("◆ critical storage.disks[rotating=yes] should be 3"), "{}", ran.out);
    assert!(ran.out.contains("✓ accepted"), "{}", ran.out);
    let words = ["check", GANNET, "--expect", "own.toml", "--explain", "three-data-disks"];
    let explained = place.run(&words);
    assert!(explained.out.contains("storage.disks.1 disk sda"), "{}", explained.out);
}

#[test]
fn a_machine_is_held_against_expectations_alone() {
    let words = ["check", GANNET, "--expect", "own.toml", "--without-rules", "--format", "json"];
    let found = json(&expecting(OWN).run(&words));
    let asked: Vec<&String> = found["asked"].as_object().unwrap().keys().collect();
    assert_eq!(asked, ["three-data-disks"]);
}

#[rstest]
#[case("[[expect]]\nname = 'x'\nselect = 'cpu.coers'\nequals = 4\n", "own.toml:3:10: ")]
#[case("include = 'own2.toml'\n", "own.toml:1:11: own2.toml")]
#[case("\u{1b}[31m = 4\n", "own.toml:1:2: ")]
fn a_mistake_in_a_file_is_wrong_usage(#[case] text: &str, #[case] said: &str) {
    let ran = expecting(text).run(&["check", GANNET, "--expect", "own.toml"]);
    assert_eq!((ran.status, ran.out.as_str()), (2, ""));
    assert!(ran.err.contains(said) && ran.err.contains('^'), "{}", ran.err);
    assert!(!ran.err.contains('\u{1b}'), "{:?}", ran.err);
    assert!(ran.err.lines().count() >= 3, "the line and the caret stand beneath: {}", ran.err);
}

#[test]
fn a_machine_is_as_it_was_written_down_and_another_is_not() {
    let place = Place::new();
    let ran = place.run(&["expect", "--from", GANNET, "--out", "order.toml"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    let order = std::fs::read_to_string(place.path("order.toml")).unwrap();
    assert!(!order.contains("LW-77A1001"), "identities are left out: {order}");
    let found = |subject: &str, file: &str| -> BTreeSet<String> {
        let all = json(&place.run(&["check", subject, "--expect", file, "--format", "json"]));
        let plain = json(&place.run(&["check", subject, "--format", "json"]));
        let built_in = plain["asked"].as_object().unwrap();
        let rules = all["findings"].as_array().unwrap().iter();
        let rules = rules.map(|one| one["rule"].as_str().unwrap().to_owned());
        rules.filter(|rule| !built_in.contains_key(rule)).collect()
    };
    assert_eq!(found(GANNET, "order.toml"), BTreeSet::new());
    assert!(found(AFTER, "order.toml").contains("memory-modules-size"));
    place.run(&["expect", "--from", GANNET, "--identities", "--out", "own.toml"]);
    assert_eq!(found(GANNET, "own.toml"), BTreeSet::new());
    assert!(found(AFTER, "own.toml").contains("memory-modules-serial"));
}

#[test]
fn a_saved_survey_holds_what_is_odd_and_is_not_believed() {
    let place = Place::new();
    place.run(&["survey", "--from", GANNET, "--out", "r.json", "--quiet"]);
    let text = std::fs::read(place.path("r.json")).unwrap();
    let mut report: Value = serde_json::from_slice(&text).unwrap();
    let held = report["findings"].as_array().unwrap().clone();
    assert!(held.iter().any(|one| one["rule"] == "filesystem-nearly-full"), "{held:?}");
    let found = |file: &str| {
        let all = json(&place.run(&["check", file, "--format", "json"]));
        all["findings"].as_array().unwrap().len()
    };
    assert_eq!(found("r.json"), held.len());
    // What a report says to be odd is found anew from its values.
    report["findings"] = Value::Array(Vec::new());
    std::fs::write(place.path("f.json"), report.to_string()).unwrap();
    assert_eq!(found("f.json"), held.len());
    report.as_object_mut().unwrap().remove("findings");
    std::fs::write(place.path("f.json"), report.to_string()).unwrap();
    assert_eq!(found("f.json"), held.len(), "a report that says nothing of it");
}

/// Views print what was found and decide nothing: none of them may raise an alarm of its own.
#[test]
fn no_view_raises_an_alarm() {
    let all = views();
    for path in all {
        let text = std::fs::read_to_string(&path).unwrap();
        assert!(!text.contains("Tone::Alarm"), "{}", path.display());
    }
}

#[test]
fn settings_change_what_is_found_and_say_who_set_them() {
    let place = Place::new();
    let text = "[check]\nfilesystem-full-percent = 98\nfail-on = \"critical\"\n";
    std::fs::write(place.path("s.toml"), text).unwrap();
    let ran = place.run(&["check", GANNET, "--settings", "s.toml"]);
    assert_eq!(ran.status, 0, "{}", ran.err);
    assert!(!ran.out.contains("filesystem-nearly-full"), "{}", ran.out);
    let option = place.run(&["check", GANNET, "--settings", "s.toml", "--fail-on", "notice"]);
    assert_eq!(option.status, 1, "an option is nearer than a file");
    let told = place.run(&["settings", "--settings", "s.toml"]).out;
    assert!(told.contains("check.filesystem-full-percent = 98 percent  set by s.toml"), "{told}");
    assert!(told.contains("check.disk-warm-celsius = 60 degrees Celsius  as built in"), "{told}");
    let words = ["check", GANNET, "--only", "disk-warm"];
    let warm = place.command(&words).env("TECTUM_CHECK_DISK_WARM_CELSIUS", "30").output().unwrap();
    assert_eq!(warm.status.code(), Some(1));
}

#[test]
fn the_users_own_settings_are_read_from_where_they_are() {
    let place = Place::new();
    std::fs::create_dir_all(place.path(".config/tectum")).unwrap();
    let text = "[check]\noff = [\"filesystem-nearly-full\"]\n";
    std::fs::write(place.path(".config/tectum/tectum.toml"), text).unwrap();
    let words = ["survey", "filesystems", "--from", GANNET];
    let shown = |home: &str| {
        let output = place.command(&words).env("HOME", place.path(home)).output().unwrap();
        String::from_utf8(output.stdout).unwrap()
    };
    assert!(shown("elsewhere").contains("▲ filesystem /srv/gauges"));
    assert!(!shown(".").contains("▲ filesystem /srv/gauges"));
}

#[rstest]
#[case("[check]\nfail-no = 1\n", "s.toml:2:1: ")]
#[case("[chekc]\n", "did you mean `check`?")]
fn wrong_settings_are_wrong_usage_wherever_they_are_read(#[case] text: &str, #[case] said: &str) {
    let place = Place::new();
    std::fs::write(place.path("s.toml"), text).unwrap();
    for words in [&["check", GANNET][..], &["survey", "os", "--from", GANNET], &["settings"]] {
        let ran = place.run(&[words, &["--settings", "s.toml"]].concat());
        assert_eq!(ran.status, 2, "{words:?}: {}", ran.err);
        assert!(ran.err.contains(said), "{}", ran.err);
    }
}

/// The mounts stand, and the kernel lists none of their devices but one.
#[test]
fn a_device_that_is_gone_under_its_mounts_is_critical() {
    let place = Place::with_changed("gannet-before", |tree| {
        tree.link("sys/dev/block/240:2", "/sys/devices/virtual/block/any");
    });
    let words = ["check", "machine", "--only", "mounted-device-gone", "--fail-on", "critical"];
    let ran = place.run(&words);
    assert_eq!(ran.status, 1, "{}", ran.out);
    assert!(ran.out.contains("◆ critical mounted filesystem whose device is gone"), "{}", ran.out);
    assert!(
        ran.out.contains("device that is gone /srv/gauges: /dev/sda1 is mounted"),
        "{}",
        ran.out
    );
    assert!(!ran.out.contains("device that is gone /:"), "{}", ran.out);
    let sheet = place.run(&["survey", "filesystems", "--from", "machine"]);
    assert!(sheet.out.contains("◆ device that is gone /srv/gauges"), "{}", sheet.out);
}
