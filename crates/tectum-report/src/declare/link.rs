//! Which part a reference names, and whose reading a reading is: declared in the model, found here
//! for one report.

use std::collections::HashMap;

use serde_json::Value;

use super::{AnyFact, Node, Record, Shape, fact_at, fact_named, fields};

/// A part of one report.
pub struct Part<'a> {
    /// The part.
    pub record: &'a dyn Record,
    /// JSON Pointer to it.
    pub at: String,
    /// The list that it stands in, by field names from the root.
    pub list: ListId,
    /// The part that holds that list.
    pub parent: Option<PartId>,
}

/// A part, by its place among all parts of a report.
pub type PartId = usize;

/// A list, by its place among all lists of a report.
pub type ListId = usize;

/// A list of a report's shape: the same list of all parts that have one.
pub struct List {
    /// Field names from the inventory or readings.
    pub way: Vec<&'static str>,
    /// What its parts are.
    pub shape: &'static Shape,
    /// The list that the part which holds it stands in.
    pub parent: Option<ListId>,
    /// Whether one of these lists may hold parts that could not be seen.
    pub hides_parts: bool,
}

/// All parts of one root of a report, and which of them have which names.
pub struct Parts<'a> {
    /// The parts, those that hold others before them.
    pub parts: Vec<Part<'a>>,
    /// The lists.
    pub lists: Vec<List>,
    by_pointer: HashMap<String, PartId>,
    /// For each target of a reference: its values, those that stand for one part alone.
    by_value: HashMap<&'static [&'static str], HashMap<String, Option<PartId>>>,
}

impl<'a> Parts<'a> {
    /// The parts of a record, to which a pointer leads.
    pub fn of(root: &'a dyn Record, pointer: &str) -> Self {
        let mut found = Self {
            parts: Vec::new(),
            lists: Vec::new(),
            by_pointer: HashMap::new(),
            by_value: HashMap::new(),
        };
        let mut lists = HashMap::new();
        found.collect(root, pointer, &mut Vec::new(), None, &mut lists);
        found
    }

    fn collect(
        &mut self,
        record: &'a dyn Record,
        at: &str,
        way: &mut Vec<&'static str>,
        parent: Option<PartId>,
        lists: &mut HashMap<Vec<&'static str>, ListId>,
    ) {
        for (field, node) in fields(record) {
            way.push(field.name);
            match node {
                Node::Record(inner) => {
                    self.collect(inner, &format!("{at}/{}", field.name), way, parent, lists);
                }
                Node::List(all) => {
                    let list = *lists.entry(way.clone()).or_insert_with(|| {
                        let parent = parent.and_then(|part| self.parts.get(part));
                        let parent = parent.map(|part| part.list);
                        let shape = all.item_shape();
                        let hides_parts = false;
                        self.lists.push(List { way: way.clone(), shape, parent, hides_parts });
                        self.lists.len() - 1
                    });
                    let hidden = all.missing().or(all.hidden_part());
                    if let Some(own) = self.lists.get_mut(list) {
                        own.hides_parts |= hidden.is_some_and(|gap| gap.why.hides_a_value());
                    }
                    for index in 0..all.len() {
                        let Some(item) = all.get(index) else { continue };
                        let own = format!("{at}/{}/{index}", field.name);
                        let id = self.parts.len();
                        self.by_pointer.insert(own.clone(), id);
                        self.parts.push(Part { record: item, at: own.clone(), list, parent });
                        self.collect(item, &own, way, Some(id), lists);
                    }
                }
                Node::Leaf(_) | Node::Absent => {}
            }
            way.pop();
        }
    }

    /// Makes ready what the references of some shapes may name.
    pub fn index(&mut self, shapes: impl Iterator<Item = &'static Shape>) {
        for target in shapes.flat_map(|shape| shape.references).flat_map(|one| one.targets) {
            if self.by_value.contains_key(target) {
                continue;
            }
            let mut values: HashMap<String, Option<PartId>> = HashMap::new();
            if let [way @ .., key] = target {
                for (id, part) in self.parts.iter().enumerate() {
                    let own = self.lists.get(part.list).is_some_and(|list| list.way == way);
                    if !own {
                        continue;
                    }
                    if let Some(text) = fact_named(part.record, key).and_then(AnyFact::text) {
                        // What stands for two parts names none.
                        values.entry(text).and_modify(|one| *one = None).or_insert(Some(id));
                    }
                }
            }
            self.by_value.insert(target, values);
        }
    }

    /// The part at a pointer.
    pub fn at(&self, pointer: &str) -> Option<PartId> {
        self.by_pointer.get(pointer).copied()
    }

    /// The part that a text names, by the targets that a reference declares.
    pub fn named(&self, targets: &'static [&'static [&'static str]], text: &str) -> Option<PartId> {
        let bare = text.strip_prefix("/dev/");
        let forms = [
            Some(text),
            bare,
            bare.and_then(|bare| bare.strip_prefix("mapper/")),
            bare.and_then(|bare| bare.strip_prefix("md/")),
            // `pci 0000:00:1f.2`: a bus and an address on it.
            text.split_once(' ').map(|(_, address)| address),
        ];
        targets.iter().find_map(|target| {
            let values = self.by_value.get(target)?;
            forms.iter().flatten().find_map(|form| values.get(*form).copied().flatten())
        })
    }

    /// The parts that a field of a record names, each with the text that names it; `None` where
    /// the field is no reference.
    pub fn references(
        &self,
        record: &dyn Record,
        field: usize,
    ) -> Option<Vec<(String, Option<PartId>)>> {
        let targets = record.shape().reference(field)?.targets;
        let texts = match fact_at(record, field)?.json()? {
            Value::String(text) => vec![text],
            Value::Array(items) => {
                items.iter().filter_map(|item| item.as_str().map(str::to_owned)).collect()
            }
            _ => return None,
        };
        Some(texts.into_iter().map(|text| (text.clone(), self.named(targets, &text))).collect())
    }

    /// The part and all that it lies in, the innermost first.
    pub fn upwards(&self, part: PartId) -> impl Iterator<Item = PartId> + '_ {
        std::iter::successors(Some(part), |part| self.parts.get(*part)?.parent)
    }
}

/// Readings by the parts that they belong to.
pub struct ReadingsOf<'a, R> {
    by_key: HashMap<Vec<String>, &'a R>,
}

impl<'a, R: super::Described> ReadingsOf<'a, R> {
    /// The readings of a list, by what they are declared to be readings of.
    pub fn new(readings: &'a [R]) -> Self {
        let by_key = readings
            .iter()
            .filter_map(|reading| {
                let key = R::SHAPE
                    .reading_of?
                    .steps
                    .iter()
                    .map(|step| fact_at(reading, step.own).and_then(AnyFact::text));
                Some((key.collect::<Option<Vec<String>>>()?, reading))
            })
            .collect();
        Self { by_key }
    }

    /// The reading of a part, which lies in those before it.
    pub fn of(&self, way: &[&dyn Record]) -> Option<&'a R> {
        let steps = R::SHAPE.reading_of?.steps;
        let key: Option<Vec<String>> = steps
            .iter()
            .zip(way)
            .map(|(step, part)| fact_named(*part, step.key).and_then(AnyFact::text))
            .collect();
        self.by_key.get(&key.filter(|key| key.len() == steps.len())?).copied()
    }
}
