//! An owner's expectations: what each way of saying it means, what is wrong with a file and where, for which
//! machines it is meant, what is accepted.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/made.rs"]
mod made;

use std::collections::BTreeMap;

use made::{empty, gap_at, set};
use proptest::prelude::*;
use rstest::rstest;
use serde_json::json;
use tectum_report::{
    document::FileError,
    expectation::Expectations,
    fact::{Gap, Why},
    finding::{Judgement, Limits, Severity},
    report::Report,
    settings::Settings,
};

fn read(files: &[(&str, &str)]) -> Result<Expectations, FileError> {
    let files: BTreeMap<&str, &str> = files.iter().copied().collect();
    Expectations::read("main.toml", &mut |name, _| {
        let text = files.get(name).ok_or_else(|| format!("{name}: not there"))?;
        Ok((name.to_owned(), (*text).to_owned()))
    })
}

fn one(text: &str) -> Result<Expectations, FileError> {
    read(&[("main.toml", text)])
}

fn judged(report: &Report, expectations: &Expectations) -> Judgement {
    // The rules have their own tests.
    let own = |id: &str| expectations.expect.iter().any(|one| one.name == id);
    Judgement::by(&own, report, &Limits::default(), expectations)
}

/// Two disks that rotate and one that does not, two modules, a host name.
fn machine() -> Report {
    let mut report = empty();
    let facts = [
        ("/machine/hostname", json!("gannet")),
        ("/inventory/os/kernel_release", json!("6.12.9")),
        ("/inventory/storage/disks/0/name", json!("sda")),
        ("/inventory/storage/disks/0/rotating", json!(true)),
        ("/inventory/storage/disks/0/size_bytes", json!(4_000_000_000_000u64)),
        ("/inventory/storage/disks/0/serial", json!("S1")),
        ("/inventory/storage/disks/1/name", json!("sdb")),
        ("/inventory/storage/disks/1/rotating", json!(true)),
        ("/inventory/storage/disks/1/size_bytes", json!(8_000_000_000_000u64)),
        ("/inventory/storage/disks/1/serial", json!("S2")),
        ("/inventory/storage/disks/2/name", json!("nvme0n1")),
        ("/inventory/storage/disks/2/rotating", json!(false)),
        ("/inventory/storage/disks/2/size_bytes", json!(960_000_000_000u64)),
        ("/inventory/storage/disks/2/serial", json!("S2")),
        ("/inventory/memory/modules/0/size_bytes", json!(32u64 << 30)),
        ("/inventory/memory/modules/1/size_bytes", json!(32u64 << 30)),
    ];
    facts.iter().for_each(|(at, value)| set(&mut report, at, value));
    report
}

/// How many things are found, and whether something could not be judged.
fn outcome(report: &Report, says: &str) -> (usize, bool) {
    let text = format!("[[expect]]\nname = \"x\"\n{says}\n");
    let judged = judged(report, &one(&text).unwrap());
    (judged.findings.len(), !judged.not_judged.is_empty())
}

#[rstest]
#[case("select = 'memory.modules.*.size'\nequals = '32 GiB'", 0)]
#[case("select = 'memory.modules.*.size'\nequals = '64 GiB'", 2)]
#[case("select = 'storage.disks.*.size'\none-of = ['4 TB', '8 TB']", 1)]
#[case("select = 'storage.disks.*.size'\nnot = '960GB'", 1)]
#[case("select = 'storage.disks[rotating=yes].size'\nat-least = '4TB'", 0)]
#[case("select = 'storage.disks[rotating=yes].size'\nat-least = '4.1TB'", 1)]
#[case("select = 'storage.disks.*.size'\nat-most = 4000000000000", 1)]
#[case("select = 'storage.disks.*.size'\nbetween = ['1TB', '5TB']", 2)]
#[case("select = 'storage.disks.*.name'\nmatches = 'sd?'", 1)]
#[case("select = 'os.kernel_release'\nnewer-than = '6.12.10'", 1)]
#[case("select = 'os.kernel_release'\nnewer-than = '6.9'", 0)]
#[case("select = 'storage.disks.*.serial'\nunique = true", 1)]
#[case("select = 'memory.modules.*.serial'\npresent = true", 2)]
#[case("select = 'storage.disks.*.name'\npresent = true", 0)]
#[case("select = 'gpu.devices.*.driver'\nabsent = true", 0)]
#[case("select = 'storage.disks.*.name'\nabsent = true", 3)]
#[case("select = 'storage.disks[rotating=yes]'\ncount = 2", 0)]
#[case("select = 'storage.disks[rotating=yes]'\ncount = { at-least = 3 }", 1)]
#[case("select = 'storage.disks'\ncount = { at-most = 2 }", 1)]
#[case("select = 'storage.disks.*.name'\ncount = { at-least = 1, at-most = 3 }", 0)]
#[case("select = 'storage.disks.0.serial'\nsame-as = 'storage.disks.1.serial'", 1)]
#[case("select = 'storage.disks.2.serial'\nsame-as = 'storage.disks.1.serial'", 0)]
#[case("select = 'storage.disks.*.size'\nat-least = '1TB'\nat-most = '5TB'", 2)]
fn each_way_of_saying_it(#[case] says: &str, #[case] wrong: usize) {
    assert_eq!(outcome(&machine(), says).0, wrong, "{says}");
}

/// Nobody knows which accelerators there are: what is expected of each is neither so nor otherwise.
#[rstest]
#[case("select = 'gpu.devices.*.driver'\nabsent = true")]
#[case("select = 'gpu.devices.*.driver'\npresent = true")]
#[case("select = 'gpu.devices.*.driver'\nequals = 'x'")]
#[case("select = 'gpu.devices.*.driver'\nunique = true")]
#[case("select = 'gpu.devices.*.driver'\ncount = 1")]
#[case("select = 'gpu.devices[vendor=x].driver'\ncount = { at-least = 2 }")]
#[case("select = 'gpu.devices'\ncount = 1")]
fn what_a_list_hides_is_not_judged(#[case] says: &str) {
    assert_eq!(outcome(&machine(), says), (0, true), "{says}");
}

#[rstest]
#[case(
    "select = 'storage.disks.*.size'\nat-least = '1GB'",
    "/inventory/storage/disks/0/size_bytes"
)]
#[case(
    "select = 'storage.disks[rotating=yes].name'\ncount = 3",
    "/inventory/storage/disks/2/rotating"
)]
#[case("select = 'storage.disks.*.serial'\ncount = 3", "/inventory/storage/disks/0/serial")]
#[case("select = 'storage.disks.*.serial'\nunique = true", "/inventory/storage/disks/0/serial")]
#[case("select = 'storage.disks.*.serial'\npresent = true", "/inventory/storage/disks/0/serial")]
#[case("select = 'storage.disks.0.serial'\nabsent = true", "/inventory/storage/disks/0/serial")]
#[case(
    "select = 'storage.disks.0.name'\nsame-as = 'storage.disks.1.name'",
    "/inventory/storage/disks/1/name"
)]
fn what_is_hidden_is_not_judged(#[case] says: &str, #[case] hidden: &str) {
    let mut report = machine();
    gap_at(&mut report, hidden, Gap::new(Why::Permission));
    assert!(outcome(&report, says).1, "{says}");
}

#[test]
fn a_machine_whose_name_is_not_known_is_asked_and_not_spared() {
    let text = "[[expect]]\nname = 'x'\nselect = 'cpu.cores'\nequals = 4\nhosts = 'gannet'\n\
                [[accept]]\nfinding = 'x'\nhosts = 'gannet'\nreason = 'as ordered'\n";
    let mut report = machine();
    set(&mut report, "/inventory/cpu/cores", &json!(8));
    let known = judged(&report, &one(text).unwrap());
    assert!(known.findings[0].accepted.is_some());
    gap_at(&mut report, "/machine/hostname", Gap::new(Why::Permission));
    let hidden = judged(&report, &one(text).unwrap());
    assert_eq!(hidden.findings.len(), 1);
    assert!(hidden.findings[0].accepted.is_none(), "it may be another machine");
}

#[test]
fn a_section_that_was_not_surveyed_is_not_judged() {
    let mut report = machine();
    report.keep_sections(&["memory"]);
    let (wrong, unjudged) = outcome(&report, "select = 'storage.disks.*.name'\npresent = true");
    assert_eq!((wrong, unjudged), (0, true));
}

#[rstest]
#[case("hosts = 'gann*'", 1)]
#[case("hosts = ['petrel', 'GANNET']", 1)]
#[case("hosts = 'petrel'", 0)]
#[case("groups = 'big'", 1)]
#[case("groups = ['small', 'big']", 1)]
#[case("groups = 'small'", 0)]
#[case("where = { path = 'storage.disks.*.size', at-least = '900GB' }", 1)]
#[case("where = { path = 'storage.disks.*.size', at-least = '1TB' }", 0)]
fn an_expectation_is_for_the_machines_that_are_meant(#[case] who: &str, #[case] wrong: usize) {
    let text = format!(
        "[groups.big]\nwhere = {{ path = 'memory.modules.*.size', at-least = '32GiB' }}\n\
         [groups.small]\nhosts = 'gannet'\n\
         where = {{ path = 'memory.modules.*.size', at-most = '1GiB' }}\n\
         [[expect]]\nname = 'x'\nselect = 'machine.hostname'\nequals = 'other'\n{who}\n"
    );
    assert_eq!(judged(&machine(), &one(&text).unwrap()).findings.len(), wrong, "{who}");
}

#[rstest]
#[case("until = 2026-06-15", true, false)]
#[case("until = 2026-06-14", false, true)]
#[case("until = '2026-06-14'", false, true)]
#[case("", true, false)]
#[case("hosts = 'petrel'", false, false)]
#[case("part = 'machine*'", true, false)]
#[case("part = 'disk*'", false, false)]
fn a_finding_is_accepted_until_its_day_is_over(
    #[case] says: &str,
    #[case] accepted: bool,
    #[case] over: bool,
) {
    let text = format!(
        "[[expect]]\nname = 'x'\nselect = 'machine.hostname'\nequals = 'other'\nseverity = 'critical'\n\
         [[accept]]\nfinding = 'x'\nreason = 'It is renamed in July.'\n{says}\n"
    );
    let judged = judged(&machine(), &one(&text).unwrap());
    let found = &judged.findings[0];
    assert_eq!((found.accepted.is_some(), found.was_accepted.is_some()), (accepted, over));
    assert_eq!(judged.count(Severity::Critical), usize::from(!accepted));
}

const HEAD: &str = "[[expect]]\nname = 'x'\nselect = 'storage.disks.*.size'\n";

#[rstest]
#[case("equls = 4", 4, 1, "did you mean `equals`?")]
#[case("equals = '4 GHz'", 4, 10, "is no bytes")]
#[case("equals = []", 4, 10, "a list is no value")]
#[case("one-of = []", 4, 10, "names no value")]
#[case("between = [1]", 4, 11, "[least, most]")]
#[case("count = 'two'", 4, 9, "is no count")]
#[case("count = { least = 2 }", 4, 11, "did you mean `at-least`?")]
#[case("unique = false", 4, 10, "it is `true`")]
#[case("equals = 4\nseverity = 'bad'", 5, 12, "is no severity")]
#[case("equals = 4\nhosts = 4", 5, 9, "a number where a text is wanted")]
#[case("equals = 4\ngroups = 'nobody'", 5, 10, "there is no group")]
#[case("equals = 4\nwhere = { path = 'cpu.coers', at-least = 1 }", 5, 18, "cpu.cores")]
#[case("same-as = 'storage.dsks.*.size'", 4, 11, "the nearest is \"storage.disks.*.size\"")]
#[case("equals = ", 4, 10, "")]
#[case("", 1, 1, "says nothing that should be so")]
fn a_mistake_is_told_with_its_place(
    #[case] line: &str,
    #[case] at: usize,
    #[case] column: usize,
    #[case] said: &str,
) {
    let error = one(&format!("{HEAD}{line}\n")).unwrap_err();
    assert_eq!((error.line, error.column), (at, column), "{error}");
    assert!(error.said.contains(said), "{error}");
    let shown = error.to_string();
    assert!(
        shown.starts_with(&format!("main.toml:{at}:{column}: ")) && shown.contains('^'),
        "{shown}"
    );
}

#[rstest]
#[case("[[expect]]\nselect = 'cpu.cores'\nequals = 4", "it has no `name`")]
#[case("[[expect]]\nname = 'a b'\nselect = 'cpu.cores'\nequals = 4", "a name is of letters")]
#[case(
    "[[expect]]\nname = 'cpus-offline'\nselect = 'cpu.cores'\nequals = 4",
    "another expectation or rule"
)]
#[case("[[expect]]\nname = 'x'\nselect = 'storage.disks'\nequals = 4", "names parts")]
#[case("[[accept]]\nfinding = 'cpus-offlin'\nreason = 'x'", "did you mean \"cpus-offline\"?")]
#[case("[[accept]]\nfinding = 'cpus-offline'\nreason = ' '", "is empty")]
#[case("[[accept]]\nfinding = 'cpus-offline'", "it has no `reason`")]
#[case("[[accept]]\nfinding = 'cpus-offline'\nreason = 'x'\nuntil = 'soon'", "is no date")]
#[case("include = 'nowhere.toml'", "not there")]
#[case("expect = 4", "where `[[…]]` is wanted")]
#[case("exepct = 4", "did you mean `expect`?")]
fn other_mistakes(#[case] text: &str, #[case] said: &str) {
    let error = one(text).unwrap_err();
    assert!(error.said.contains(said), "{error}");
}

#[test]
fn files_are_included_once_and_groups_are_shared() {
    let all = read(&[
        (
            "main.toml",
            "include = ['a.toml', 'b.toml']\n[[expect]]\nname = 'own'\nselect = 'cpu.cores'\nequals = 4\ngroups = 'all'\n",
        ),
        (
            "a.toml",
            "include = 'b.toml'\n[[expect]]\nname = 'a'\nselect = 'cpu.cores'\nequals = 4\n",
        ),
        ("b.toml", "include = 'a.toml'\n[groups.all]\nhosts = '*'\n"),
    ]);
    let names: Vec<String> = all.unwrap().expect.iter().map(|one| one.name.clone()).collect();
    assert_eq!(names, ["a", "own"]);
    let error = read(&[("main.toml", "include = 'a.toml'"), ("a.toml", "x = 1")]).unwrap_err();
    assert_eq!(error.file, "a.toml");
}

proptest! {
    #[test]
    fn no_text_is_read_otherwise_than_with_an_error(text in "\\PC{0,200}") {
        if let Err(error) = one(&text) {
            prop_assert!(!error.to_string().is_empty());
        }
    }

    #[test]
    fn what_is_said_of_a_number_is_what_a_plain_comparison_says(
        own in 0u64..20, least in 0u64..20, most in 0u64..20,
    ) {
        let mut report = empty();
        set(&mut report, "/inventory/cpu/cores", &json!(own));
        let between = outcome(&report, &format!("select = 'cpu.cores'\nbetween = [{least}, {most}]"));
        prop_assert_eq!(between.0, usize::from(own < least) + usize::from(own > most));
        let one_of = outcome(&report, &format!("select = 'cpu.cores'\none-of = [{least}, {most}]"));
        prop_assert_eq!(one_of.0, usize::from(own != least && own != most));
        let not = outcome(&report, &format!("select = 'cpu.cores'\nnot = [{least}, {most}]"));
        prop_assert_eq!(not.0, usize::from(own == least || own == most));
    }
}

#[test]
fn the_examples_in_the_documentation_are_read() {
    let text = include_str!("../../../docs/findings.md");
    let mut examples = text.split("```toml\n").skip(1).filter_map(|rest| rest.split("```").next());
    let own = examples.next().unwrap();
    let all = read(&[("main.toml", own), ("all-servers.toml", "")]).unwrap();
    assert_eq!(all.expect.len(), 2);
    Settings::default().read("settings.toml", examples.next().unwrap()).unwrap();
    assert_eq!(examples.next(), None);
}
