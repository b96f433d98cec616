//! Of two saved reports the sections that a comparison of their inventories has to read, told by their texts: whoever
//! compares every night mostly compares what is the same to the byte.

use std::collections::BTreeSet;

use super::{
    compact::{Read, leaves_open, recipes_of},
    cut::members,
    envelope::EnvelopeOf,
};
use crate::{
    declare::{Described, Shape},
    model::Inventory,
    report::Report,
};

/// What of a report tells whether it may lack something of its values that could not be seen.
struct Tables<'a> {
    tables: Read<'a>,
    /// Of ways that were looked at whether they leave that open.
    open: Vec<Option<bool>>,
}

impl Tables<'_> {
    /// Whether anything of a section may be there that could not be seen. What cannot be read is told with care by whoever
    /// reads it.
    fn may_lack(&mut self, section: &str) -> bool {
        let whole = format!("/inventory/{section}");
        let own = |pattern: &str| {
            let behind = pattern.strip_prefix(&whole);
            behind.is_some_and(|behind| behind.is_empty() || behind.starts_with('/'))
        };
        let mut recipes = BTreeSet::new();
        for (_, parts) in self.tables.parts.iter().filter(|(pattern, _)| own(pattern)) {
            match recipes_of(*parts) {
                Some(some) => recipes.extend(some),
                None => return true,
            }
        }
        recipes.into_iter().any(|recipe| self.leaves_open(recipe).unwrap_or(true))
    }

    /// Whether a recipe does; nothing where it cannot be read.
    fn leaves_open(&mut self, recipe: usize) -> Option<bool> {
        let ways: Vec<usize> =
            serde_json::from_slice(self.tables.recipes.split().get(recipe)?.0).ok()?;
        let all = self.tables.ways.split();
        self.open.resize(all.len(), None);
        for way in ways {
            let known = self.open.get_mut(way)?;
            if *known.get_or_insert(leaves_open(all.get(way)?.0).ok()?) {
                return Some(true);
            }
        }
        Some(false)
    }
}

/// The sections to which references of a shape lead.
fn referred(shape: &'static Shape, to: &mut BTreeSet<&'static str>) {
    let targets = shape.references.iter().flat_map(|reference| reference.targets);
    to.extend(targets.filter_map(|way| way.first().copied()));
    for inner in shape.fields.iter().filter_map(|field| field.kind.inner()) {
        referred(inner, to);
    }
}

/// Adds to sections what a comparison of them needs: those that refer to them, for other parts may have taken the names
/// of theirs, and those that they all refer to, where what they name stands.
fn with_references(sections: &mut BTreeSet<&'static str>) {
    let all = Inventory::SHAPE.fields.iter().filter_map(|field| {
        let mut to = BTreeSet::new();
        referred(field.kind.inner()?, &mut to);
        Some((field.name, to))
    });
    let all: Vec<(&'static str, BTreeSet<&'static str>)> = all.collect();
    let until_no_more = |sections: &mut BTreeSet<_>, add: &dyn Fn(&mut BTreeSet<&'static str>)| {
        let mut before = 0;
        while sections.len() > before {
            before = sections.len();
            add(sections);
        }
    };
    until_no_more(sections, &|sections| {
        for (name, to) in &all {
            if to.iter().any(|to| sections.contains(to)) {
                sections.insert(name);
            }
        }
    });
    until_no_more(sections, &|sections| {
        for (name, to) in &all {
            if sections.contains(name) {
                sections.extend(to);
            }
        }
    });
}

impl Report {
    /// The sections of two reports that have to be read to tell how their inventories differ: of the others nothing is
    /// to be told, as they are the same to the byte and lack nothing that could not be seen. Nothing where the texts do
    /// not tell, whatever is in them.
    pub fn sections_to_compare(before: &[u8], after: &[u8]) -> Option<Vec<&'static str>> {
        let envelopes = [EnvelopeOf::by_lines(before)?, EnvelopeOf::by_lines(after)?];
        let mut sections = Vec::new();
        let mut tables = Vec::new();
        for envelope in envelopes {
            let own = members(envelope.inventory.0, 2, None)?;
            // What a newer Tectum tells of is told of by whoever reads it.
            if own.iter().any(|(name, _)| Inventory::SHAPE.index_of(name).is_none()) {
                return None;
            }
            sections.push(own);
            tables.push(Tables { tables: envelope.origins?, open: Vec::new() });
        }
        let texts = |name: &str| -> Vec<Option<&[u8]>> {
            let find =
                |all: &Vec<(&str, _)>| all.iter().find(|(own, _)| *own == name).map(|it| it.1);
            sections.iter().map(find).collect()
        };
        let mut differing = BTreeSet::new();
        for field in Inventory::SHAPE.fields {
            let same = match texts(field.name).as_slice() {
                [None, None] => true,
                [Some(one), Some(other)] => {
                    one == other && !tables.iter_mut().any(|own| own.may_lack(field.name))
                }
                _ => false,
            };
            if !same {
                differing.insert(field.name);
            }
        }
        with_references(&mut differing);
        Some(differing.into_iter().collect())
    }
}
