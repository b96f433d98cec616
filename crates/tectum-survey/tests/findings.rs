//! Findings on recorded and made-up machines: each is argued in the documentation, each points at values that
//! are there, and no gap turns one into "fine".

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

use std::collections::{BTreeMap, BTreeSet};

use support::{RECORDED, demo, look, recorded};
use tectum_report::{
    expectation::Expectations,
    fact::{Gap, Why},
    finding::{Checked, Judgement, Limits, rule},
    query::{HitValue, Path, find},
    report::Report,
};

const DEMO: [&str; 2] = ["gannet-before", "gannet-after"];

fn machines() -> Vec<(String, Report)> {
    let known = RECORDED.iter().map(|name| ((*name).to_owned(), look(recorded(name).path())));
    let made_up = DEMO.iter().map(|name| (format!("demo:{name}"), look(demo(name).path())));
    known.chain(made_up).collect()
}

fn judge(report: &Report) -> Judgement {
    Judgement::of(report, &Limits::default())
}

#[test]
fn every_finding_points_at_what_is_there() {
    for (name, report) in machines() {
        for finding in judge(&report).findings {
            let id = finding.by.id().to_owned();
            for seen in &finding.seen {
                let path: Path = seen.at.parse().unwrap();
                let hits = find(&report, &path);
                assert_eq!(hits.len(), 1, "{name}: {id}: {}", seen.at);
                let HitValue::Fact(fact) = hits[0].value else { panic!("{name}: {}", seen.at) };
                assert_eq!(fact.json().unwrap_or_default(), seen.value, "{name}: {}", seen.at);
                let read = rule(&id).unwrap().reads.iter().any(|read| {
                    let section = read.trim_start_matches("readings.").split('.').next();
                    seen.at.split('/').nth(2) == section
                });
                assert!(read, "{id} reads {}, and does not declare its section", seen.at);
            }
        }
    }
}

#[test]
fn no_gap_turns_a_finding_into_fine() {
    for (name, report) in machines() {
        let rules: BTreeSet<&str> =
            judge(&report).findings.iter().map(|found| rule(found.by.id()).unwrap().id).collect();
        for id in rules {
            for read in rule(id).unwrap().reads {
                let hits = find(&report, &read.parse().unwrap());
                // Of many alike a few tell.
                for hit in hits.iter().filter(|hit| matches!(hit.value, HitValue::Fact(_))).take(40)
                {
                    let mut hidden = report.clone();
                    hidden.fact_mut(&hit.at).unwrap().set_missing(Gap::new(Why::Permission));
                    let all = Expectations::default();
                    let judged = Judgement::by(&|own| own == id, &hidden, &Limits::default(), &all);
                    let said = !judged.findings.is_empty() || !judged.not_judged.is_empty();
                    assert!(said, "{name}: without {}, {id} says nothing", hit.at);
                }
            }
        }
    }
}

/// The table in the documentation: machine, finding, why it is right.
fn argued() -> BTreeMap<(String, String), String> {
    let text = include_str!("../../../docs/findings.md");
    let rows = text.lines().filter_map(|line| {
        let cells: Vec<&str> = line.strip_prefix("| ")?.split(" | ").collect();
        let [machine, finding, why] = cells.as_slice() else { return None };
        let finding = finding.trim_matches('`').to_owned();
        Some(((machine.trim().to_owned(), finding), why.trim_end_matches(" |").to_owned()))
    });
    rows.filter(|((_, finding), _)| rule(finding).is_some()).collect()
}

#[test]
fn every_finding_on_a_known_machine_is_argued() {
    let mut found = BTreeSet::new();
    for (name, report) in machines() {
        for finding in judge(&report).findings {
            found.insert((name.clone(), finding.by.id().to_owned()));
        }
    }
    let argued = argued();
    assert!(argued.values().all(|why| why.len() > 10), "{argued:?}");
    assert_eq!(argued.into_keys().collect::<BTreeSet<_>>(), found);
}

#[test]
fn what_stands_twice_is_told_but_of_one_machine_looked_at_twice() {
    let before = look(demo("gannet-before").path());
    let after = look(demo("gannet-after").path());
    let none = |report: &Report| {
        let all = Expectations::default();
        Judgement::by(&|_| false, report, &Limits::default(), &all)
    };
    let mut checked = Checked::new(true);
    checked.add("before", &before, none(&before));
    checked.add("after", &after, none(&after));
    assert_eq!(checked.told().len(), 0, "the same machine, looked at twice");
    let mut twin = after.clone();
    let name = twin.fact_mut("/machine/hostname").unwrap();
    let evidence = name.evidence().to_vec();
    assert!(name.set(&"petrel".into(), evidence).is_ok());
    checked.add("petrel", &twin, none(&twin));
    let labels: BTreeSet<&str> = checked.told().iter().map(|it| &*it.finding.label).collect();
    assert!(labels.iter().any(|label| label.starts_with("system")), "{labels:?}");
    assert!(labels.iter().any(|label| label.starts_with("disk sda")), "{labels:?}");
}
