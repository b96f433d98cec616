//! Reports in which every field of the model has a value of its own, made from the declarations.

#![allow(dead_code, reason = "each test file uses what it needs")]

use serde_json::{Value, json};
use tectum_report::{
    Observed, Report, Taken,
    declare::{NodeMut, Record, Shape},
    fact::{Evidence, Gap, saying},
    leaf::{JsonForm, LeafShape},
};

/// The way to a field: names, and for elements of lists their numbers.
#[derive(Debug, Clone)]
pub struct At {
    /// `machine`, `inventory` or `readings`.
    pub root: &'static str,
    /// Fields, each with the element that is meant if it is a list.
    pub steps: Vec<(usize, Option<usize>)>,
    /// The path as people write it.
    pub path: String,
    /// The record that holds the field.
    pub shape: &'static Shape,
}

impl At {
    /// The field's index in its record.
    pub fn field(&self) -> usize {
        self.steps.last().unwrap().0
    }

    /// The field's name.
    pub fn name(&self) -> &'static str {
        self.shape.field_name(self.field())
    }
}

/// How many elements a list gets.
const ELEMENTS: usize = 2;

fn evidence() -> Vec<Evidence> {
    vec![Evidence::new("/proc/x".into(), saying!("a-rule", "a rule"))]
}

/// A value of a form, another one for every number.
pub fn value(shape: &LeafShape, number: u64) -> Value {
    match shape.form {
        JsonForm::Unsigned => json!(1000 + number),
        JsonForm::Signed => json!(-1000 - i64::try_from(number).unwrap()),
        JsonForm::Boolean => json!(number.is_multiple_of(2)),
        // All of one length, so that none stands in another.
        JsonForm::String => json!(format!("text {number:07}")),
        JsonForm::Formatted("date") | JsonForm::Pattern(_) => {
            json!(format!(
                "20{:02}-{:02}-{:02}",
                number / 336 % 99,
                number / 28 % 12 + 1,
                number % 28 + 1
            ))
        }
        JsonForm::Formatted("date-time") => {
            json!(format!("2026-{:02}-{:02}T08:00:00Z", number / 28 % 12 + 1, number % 28 + 1))
        }
        JsonForm::Formatted(other) => panic!("no value of the form {other} is known here"),
        JsonForm::Code(codes) => json!(codes[usize::try_from(number).unwrap() % codes.len()].0),
        JsonForm::Set(item) | JsonForm::Series(item) => {
            let (first, second) = (value(item, number), value(item, number + 7000));
            if first == second { json!([first]) } else { json!([first, second]) }
        }
    }
}

struct Filler {
    number: u64,
    leaves: Vec<At>,
    lists: Vec<At>,
}

impl Filler {
    fn fill(&mut self, record: &mut dyn Record, at: &At, all_first: bool) {
        let shape = record.shape();
        for (index, field) in shape.fields.iter().enumerate() {
            let mut own = At { shape, ..at.clone() };
            own.path = format!("{}.{}", at.path, field.name);
            own.steps.push((index, None));
            match record.node_mut(index) {
                Some(NodeMut::Leaf(fact)) => {
                    self.number += 1;
                    // A name of a part that is not there would be compared as the text that it is.
                    fact.set(&value(&fact.leaf_shape(), self.number), evidence()).unwrap();
                    if all_first {
                        self.leaves.push(own);
                    }
                }
                Some(NodeMut::Record(inner)) => self.fill(inner, &own, all_first),
                Some(NodeMut::Optional(slot)) => self.fill(slot.fill(), &own, all_first),
                Some(NodeMut::List(list)) => {
                    list.set_missing(None);
                    list.set_evidence(evidence());
                    if all_first {
                        self.lists.push(own.clone());
                    }
                    for element in 0..ELEMENTS {
                        own.steps.last_mut().unwrap().1 = Some(element);
                        let first = all_first && element == 0;
                        self.fill(list.grow().unwrap(), &own, first);
                    }
                }
                None => {}
            }
        }
    }
}

/// A report with every field, the ways to its leaves (in first elements of lists) and to its lists.
pub fn filled() -> (Report, Vec<At>, Vec<At>) {
    let mut filler = Filler { number: 0, leaves: Vec::new(), lists: Vec::new() };
    let mut observed = Observed::default();
    let mut root = |name: &'static str, record: &mut dyn Record| {
        let at = At { root: name, steps: Vec::new(), path: name.to_owned(), shape: record.shape() };
        filler.fill(record, &at, true);
    };
    root("machine", &mut observed.machine);
    root("inventory", &mut observed.inventory);
    root("readings", &mut observed.readings);
    let taken = Taken {
        at: "2026-11-23T08:00:00Z".parse().unwrap(),
        tool: "tectum test".to_owned(),
        subject: "made up".to_owned(),
        privileged: true,
        sections: Vec::new(),
        elapsed_ms: 0,
    };
    (Report::new(observed, taken, Vec::new(), Vec::new()), filler.leaves, filler.lists)
}

/// Does something to the field that a way leads to.
pub fn with<T>(report: &mut Report, at: &At, change: impl FnOnce(NodeMut<'_>) -> T) -> T {
    let mut record: &mut dyn Record = match at.root {
        "machine" => &mut report.machine,
        "inventory" => &mut report.inventory,
        _ => &mut report.readings,
    };
    let (last, way) = at.steps.split_last().unwrap();
    for (field, element) in way {
        record = match record.node_mut(*field).unwrap() {
            NodeMut::Record(inner) => inner,
            NodeMut::Optional(slot) => slot.fill(),
            NodeMut::List(list) => list_element(list, element.unwrap()),
            NodeMut::Leaf(_) => panic!("a leaf on the way"),
        };
    }
    change(record.node_mut(last.0).unwrap())
}

fn list_element(list: &mut dyn tectum_report::declare::AnyList, element: usize) -> &mut dyn Record {
    list.get_mut(element).unwrap()
}

/// Makes a leaf another value.
pub fn set(report: &mut Report, at: &At, number: u64) {
    with(report, at, |node| {
        let NodeMut::Leaf(fact) = node else { panic!("no leaf at {}", at.path) };
        let (shape, before) = (fact.leaf_shape(), fact.json());
        let other = (number..number + 50).map(|number| value(&shape, number));
        let other = other.into_iter().find(|other| Some(other) != before.as_ref()).unwrap();
        fact.set(&other, evidence()).unwrap();
    });
}

/// Makes a leaf a gap.
pub fn hide(report: &mut Report, at: &At, gap: Gap) {
    with(report, at, |node| {
        let NodeMut::Leaf(fact) = node else { panic!("no leaf at {}", at.path) };
        fact.set_missing(gap);
    });
}
