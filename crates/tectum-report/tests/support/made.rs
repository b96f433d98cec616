//! Reports of which only what a test says is known.

#![allow(dead_code, reason = "each test file uses what it needs")]

use serde_json::Value;
use tectum_report::{
    Observed, Report, Taken,
    declare::{AnyFact, NodeMut, Parts, Record},
    fact::{Evidence, Gap, saying},
};

fn evidence() -> Evidence {
    Evidence::new("/proc/x".into(), saying!("a-rule", "a rule"))
}

/// A report that has every section and knows nothing.
pub fn empty() -> Report {
    let taken = Taken {
        at: "2026-06-15T12:00:00Z".parse().unwrap(),
        tool: "test".into(),
        subject: "made up".into(),
        privileged: true,
        sections: Vec::new(),
        elapsed_ms: 0,
    };
    let mut report = Report::new(Observed::default(), taken, Vec::new(), Vec::new());
    let mut sections = Vec::new();
    for root in report.roots_mut() {
        for (index, field) in root.shape().fields.iter().enumerate() {
            if let Some(NodeMut::Optional(section)) = root.node_mut(index) {
                section.fill();
                sections.push(field.name.to_owned());
            }
        }
    }
    sections.dedup();
    report.taken.sections = sections;
    report
}

/// A list that is known to be empty.
pub fn none<R>() -> Parts<R> {
    Parts::known(Vec::new(), evidence())
}

/// Makes a value known; parts on the way to it are made, and nothing of them is known. A null is a value that
/// the machine does not give.
pub fn set(report: &mut Report, pointer: &str, value: &Value) {
    at(report, pointer, &mut |fact| {
        if !value.is_null() {
            let wrong = fact.set(value, vec![evidence()]).is_err();
            assert!(!wrong, "{value} is no value of {pointer}");
        }
    });
}

/// Makes a value missing.
pub fn gap_at(report: &mut Report, pointer: &str, gap: Gap) {
    at(report, pointer, &mut |fact| fact.set_missing(gap.clone()));
}

fn at(report: &mut Report, pointer: &str, act: &mut dyn FnMut(&mut dyn AnyFact)) {
    let members: Vec<&str> = pointer.split('/').skip(1).collect();
    let (root, way) = members.split_first().unwrap();
    let index = ["machine", "inventory", "readings"].iter().position(|name| name == root).unwrap();
    let root = report.roots_mut().into_iter().nth(index).unwrap();
    assert!(within(root, way, act), "{pointer} is no value");
}

fn within(record: &mut dyn Record, way: &[&str], act: &mut dyn FnMut(&mut dyn AnyFact)) -> bool {
    let Some((name, rest)) = way.split_first() else { return false };
    let Some(index) = record.shape().index_of(name) else { return false };
    match (record.node_mut(index), rest.split_first()) {
        (Some(NodeMut::Leaf(fact)), None) => {
            act(fact);
            true
        }
        (Some(NodeMut::Record(inner)), _) => within(inner, rest, act),
        (Some(NodeMut::Optional(inner)), _) => within(inner.fill(), rest, act),
        (Some(NodeMut::List(list)), Some((number, rest))) => {
            let number: usize = number.parse().unwrap();
            while list.len() <= number {
                list.grow();
            }
            within(list.get_mut(number).unwrap(), rest, act)
        }
        _ => false,
    }
}
