//! What is known of a record's type without a value: its fields, and the roles that they play.
//!
//! Roles are indices of fields, found by the compiler: a role that names no field does not compile.

use crate::leaf::{LeafShape, unit_fits};

/// What is known of a record's type.
#[derive(Debug)]
pub struct Shape {
    /// The type's name.
    pub name: &'static str,
    /// What such a part is called in a sentence, where it is a part.
    pub noun: &'static str,
    /// The type's documentation.
    pub doc: &'static str,
    /// Where its fields are from, but for those that say otherwise: a standard and its clause, or a
    /// document of the kernel's interface.
    pub source: &'static str,
    /// Its fields in their order.
    pub fields: &'static [FieldShape],
    /// Their indexes in the order of their names.
    pub by_name: &'static [u8],
    /// What makes the part itself, the surest first. A set counts only where all its fields are
    /// known.
    pub identity: &'static [Identity],
    /// Fields that say where the part sits.
    pub place: &'static [usize],
    /// Fields that say nothing by themselves, such as the line it stands in: never compared.
    pub incidental: &'static [usize],
    /// Fields that hold a name the kernel gave on this boot; a change of them alone is no change.
    pub names: &'static [usize],
    /// Fields by which a person would call the part, beside its name.
    pub called: &'static [usize],
    /// Fields that name other parts.
    pub references: &'static [Reference],
    /// Fields that follow from other parts of the model, so that a change of them is told there.
    pub derived: &'static [usize],
    /// Fields that count what has happened since something began, and so only rise until it begins anew.
    pub counts: &'static [usize],
    /// Fields that change with a field elsewhere.
    pub follows: Option<Follows>,
    /// The part that it is a reading of.
    pub reading_of: Option<&'static ReadingOf>,
}

/// A set of fields that makes a part itself.
#[derive(Debug)]
pub struct Identity {
    /// Whether it says which part it is, or only of which kind.
    pub tells: Tells,
    /// The fields.
    pub fields: &'static [usize],
}

/// What an identity tells.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tells {
    /// Which part it is: there is no second one in the world.
    Which,
    /// Only of which kind it is: another one may be the same.
    Kind,
}

/// A field that names other parts.
#[derive(Debug)]
pub struct Reference {
    /// The field: a text, or a list of texts.
    pub field: usize,
    /// The fields that it may name a value of, each by the way to it from the inventory.
    pub targets: &'static [&'static [&'static str]],
}

/// Fields that change with a field elsewhere, as a module's size does with the kernel's release.
#[derive(Debug)]
pub struct Follows {
    /// The fields.
    pub fields: &'static [usize],
    /// The way to the field elsewhere, from the inventory.
    pub cause: &'static [&'static str],
}

/// Which part something is a reading of: the way through the lists of the inventory.
#[derive(Debug)]
pub struct ReadingOf {
    /// The lists on the way, the outermost first.
    pub steps: &'static [Step],
}

/// A list on the way to the part that a reading belongs to.
#[derive(Debug)]
pub struct Step {
    /// The way to the list, from the inventory or from the part of the step before.
    pub list: &'static [&'static str],
    /// The reading's own field.
    pub own: usize,
    /// The field of the list's parts that holds the same.
    pub key: &'static str,
}

/// What is known of a field.
#[derive(Debug)]
pub struct FieldShape {
    /// The field's name, in the struct and in JSON alike.
    pub name: &'static str,
    /// The field's documentation: what it means.
    pub doc: &'static str,
    /// Where it is from, if that is elsewhere than its record.
    pub source: Option<&'static str>,
    /// What it holds.
    pub kind: Kind,
}

impl FieldShape {
    /// The name without the unit at its end, where it ends in one: `size` for `size_bytes`.
    pub fn short_name(&self) -> Option<&'static str> {
        let Kind::Leaf(leaf) = self.kind else { return None };
        self.name.strip_suffix(leaf.unit?.suffix).filter(|short| !short.is_empty())
    }
}

/// What a field holds.
#[derive(Debug, Clone, Copy)]
pub enum Kind {
    /// A fact.
    Leaf(LeafShape),
    /// A record.
    Record(&'static Shape),
    /// A record that may be absent.
    Optional(&'static Shape),
    /// A list of records.
    List(&'static Shape),
}

impl Kind {
    /// The shape of the records in it.
    pub fn inner(self) -> Option<&'static Shape> {
        match self {
            Self::Leaf(_) => None,
            Self::Record(inner) | Self::Optional(inner) | Self::List(inner) => Some(inner),
        }
    }
}

impl Shape {
    /// The index of a field.
    pub fn index_of(&self, name: &str) -> Option<usize> {
        self.fields.iter().position(|field| field.name == name)
    }

    /// The index of the field that is called so, by its name or by its name without the unit at its end
    /// (`size` for `size_bytes`), where no other field has that name.
    pub fn field_called(&self, name: &str) -> Option<usize> {
        self.index_of(name)
            .or_else(|| self.fields.iter().position(|field| field.short_name() == Some(name)))
    }

    /// Whether these are its fields, in this order: for what must have one entry a field, checked by
    /// the compiler.
    pub const fn has_fields(&self, names: &[&str]) -> bool {
        let (mut own, mut other) = (self.fields, names);
        loop {
            match (own, other) {
                ([], []) => return true,
                ([one, rest @ ..], [another, others @ ..])
                    if same(one.name.as_bytes(), another.as_bytes()) =>
                {
                    own = rest;
                    other = others;
                }
                _ => return false,
            }
        }
    }

    /// The name of a field.
    pub fn field_name(&self, index: usize) -> &'static str {
        self.fields.get(index).map_or("", |field| field.name)
    }

    /// Whether such a record is a part: something with an identity, a place or a name of its own.
    pub fn is_part(&self) -> bool {
        !self.identity.is_empty() || !self.place.is_empty() || !self.names.is_empty()
    }

    /// The reference that a field is, if it is one.
    pub fn reference(&self, field: usize) -> Option<&'static Reference> {
        self.references.iter().find(|one| one.field == field)
    }

    /// Where a field is from.
    pub fn source_of(&self, index: usize) -> &'static str {
        self.fields.get(index).and_then(|field| field.source).unwrap_or(self.source)
    }
}

/// The index of a name, which the compiler finds.
#[allow(clippy::panic, reason = "a role that names no field must not compile")]
pub(crate) const fn index_of(names: &[&str], name: &str) -> usize {
    let mut rest = names;
    let mut index = 0;
    while let [first, others @ ..] = rest {
        if same(first.as_bytes(), name.as_bytes()) {
            return index;
        }
        rest = others;
        index += 1;
    }
    panic!("a role of a record names a field that it does not have")
}

/// The indexes of names in the order of the names, which the compiler finds.
#[allow(
    clippy::indexing_slicing,
    clippy::cast_possible_truncation,
    reason = "the compiler does it"
)]
pub(crate) const fn by_name<const COUNT: usize>(names: &[&str]) -> [u8; COUNT] {
    assert!(COUNT <= u8::MAX as usize, "a record of more fields than a byte counts");
    let mut order = [0; COUNT];
    let mut placed = 0;
    while placed < COUNT {
        // The name goes before those of the ones placed that come behind it.
        let mut at = placed;
        while at > 0
            && comes_before(names[placed].as_bytes(), names[order[at - 1] as usize].as_bytes())
        {
            order[at] = order[at - 1];
            at -= 1;
        }
        order[at] = placed as u8;
        placed += 1;
    }
    order
}

const fn comes_before(one: &[u8], other: &[u8]) -> bool {
    let (mut one, mut other) = (one, other);
    loop {
        match (one, other) {
            (_, []) => return false,
            ([], _) => return true,
            ([a, ..], [b, ..]) if *a != *b => return *a < *b,
            ([_, rest @ ..], [_, others @ ..]) => {
                one = rest;
                other = others;
            }
        }
    }
}

const fn same(one: &[u8], other: &[u8]) -> bool {
    let (mut one, mut other) = (one, other);
    loop {
        match (one, other) {
            ([], []) => return true,
            ([a, rest @ ..], [b, others @ ..]) if *a == *b => {
                one = rest;
                other = others;
            }
            _ => return false,
        }
    }
}

/// Checks, in the compiler, that a field's name ends as its unit's fields must.
#[allow(clippy::panic, reason = "a field whose name hides its unit must not compile")]
pub(crate) const fn name_says_unit(name: &str, kind: Kind) {
    if let Kind::Leaf(leaf) = kind
        && !unit_fits(&leaf, name)
    {
        panic!("a field's name does not end as its unit's must")
    }
}
