//! Reports of which only what a test says is known.

use serde_json::Value;
use tectum_report::{
    Observed, Report, Taken,
    declare::{NodeMut, Record},
    fact::{Evidence, Gap, saying},
};

/// What says what is made up.
pub fn evidence() -> Evidence {
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

/// Makes a value known; parts on the way to it are made, and nothing of them is known. A null is a value that
/// the machine does not give.
pub fn set(report: &mut Report, pointer: &str, value: &Value) {
    grow(report, pointer);
    let fact = report.fact_mut(pointer).unwrap();
    if !value.is_null() {
        let wrong = fact.set(value, vec![evidence()]).is_err();
        assert!(!wrong, "{value} is no value of {pointer}");
    }
}

/// Makes a value missing.
#[allow(dead_code, reason = "each test file uses what it needs")]
pub fn gap_at(report: &mut Report, pointer: &str, gap: Gap) {
    report.fact_mut(pointer).unwrap().set_missing(gap);
}

/// Makes the parts on the way to a value.
fn grow(report: &mut Report, pointer: &str) {
    let members: Vec<&str> = pointer.split('/').skip(1).collect();
    let (root, way) = members.split_first().unwrap();
    let index = ["machine", "inventory", "readings"].iter().position(|name| name == root).unwrap();
    within(report.roots_mut().into_iter().nth(index).unwrap(), way);
}

fn within(record: &mut dyn Record, way: &[&str]) {
    let Some((name, rest)) = way.split_first() else { return };
    let Some(index) = record.shape().index_of(name) else { return };
    match (record.node_mut(index), rest.split_first()) {
        (Some(NodeMut::Record(inner)), _) => within(inner, rest),
        (Some(NodeMut::Optional(inner)), _) => within(inner.fill(), rest),
        (Some(NodeMut::List(list)), Some((number, rest))) => {
            let number: usize = number.parse().unwrap();
            while list.len() <= number {
                list.grow();
            }
            within(list.get_mut(number).unwrap(), rest);
        }
        _ => {}
    }
}
