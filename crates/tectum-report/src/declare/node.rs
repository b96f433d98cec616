//! Records and their fields as values: how what is written once against the declarations walks a
//! model without knowing it.

use std::any::Any;

use serde_json::Value;

use super::shape::{FieldShape, Kind, Shape};
use crate::{
    fact::{Evidence, Fact, Gap},
    leaf::{Leaf, LeafShape, Redact},
};

/// A struct of the model.
pub trait Record: std::fmt::Debug + Send + Sync {
    /// What is known of the struct without a value.
    fn shape(&self) -> &'static Shape;

    /// The field at an index of [`Shape::fields`].
    fn node(&self, index: usize) -> Option<Node<'_>>;

    /// The same, to be changed.
    fn node_mut(&mut self, index: usize) -> Option<NodeMut<'_>>;
}

/// A [`Record`] whose shape is known from its type.
pub trait Described: Record + Default + Clone + 'static {
    /// The shape.
    const SHAPE: &'static Shape;
}

/// A field's value.
pub enum Node<'a> {
    /// A fact.
    Leaf(&'a dyn AnyFact),
    /// A record.
    Record(&'a dyn Record),
    /// No record.
    Absent,
    /// A list of records.
    List(&'a dyn AnyList),
}

/// A field's value, to be changed.
pub enum NodeMut<'a> {
    /// A fact.
    Leaf(&'a mut dyn AnyFact),
    /// A record.
    Record(&'a mut dyn Record),
    /// A record that may be absent.
    Optional(&'a mut dyn AnyOptional),
    /// A list of records.
    List(&'a mut dyn AnyList),
}

/// A type that a record's field can have.
pub trait Field {
    /// What it holds.
    const KIND: Kind;

    /// The value.
    fn to_node(&self) -> Node<'_>;

    /// The value, to be changed.
    fn to_node_mut(&mut self) -> NodeMut<'_>;
}

/// A fact of any type.
pub trait AnyFact {
    /// What is known of its type.
    fn leaf_shape(&self) -> LeafShape;
    /// The value as JSON, if it is known.
    fn json(&self) -> Option<Value>;
    /// The value as plain text, if it is known.
    fn text(&self) -> Option<String>;
    /// Whether another fact holds the same value, or both none: told without making either into JSON.
    fn holds_the_same(&self, other: &dyn AnyFact) -> bool;
    /// The fact, as whoever knows its type may have it.
    fn as_any(&self) -> &dyn Any;
    /// The evidence; empty for a gap.
    fn evidence(&self) -> &[Evidence];
    /// The gap, if the value is missing.
    fn missing(&self) -> Option<&Gap>;
    /// Why more of a known value may exist than could be seen.
    fn hidden_part(&self) -> Option<&Gap>;
    /// Says that more of a known value may exist than could be seen.
    fn set_hidden_part(&mut self, gap: Option<Gap>);
    /// Makes it a known value.
    ///
    /// # Errors
    /// The form that the JSON should have had.
    fn set(&mut self, json: &Value, evidence: Vec<Evidence>) -> Result<(), LeafShape>;
    /// Makes it a gap.
    fn set_missing(&mut self, gap: Gap);
    /// The evidence of a known value, to be changed.
    fn evidence_mut(&mut self) -> &mut [Evidence];
    /// Replaces what an owner or user chose, in the value itself.
    fn redact_value(&mut self, by: &dyn Redact);
    /// The gap, to be changed.
    fn missing_mut(&mut self) -> Option<&mut Gap>;
}

/// A list of records of any type.
pub trait AnyList {
    /// How many there are.
    fn len(&self) -> usize;
    /// Whether there are none.
    fn is_empty(&self) -> bool {
        self.len() == 0
    }
    /// The record at an index.
    fn get(&self, index: usize) -> Option<&dyn Record>;
    /// The record at an index, to be changed.
    fn get_mut(&mut self, index: usize) -> Option<&mut dyn Record>;
    /// Puts the records into another order: each index says which stands there then.
    fn reorder(&mut self, order: &[usize]);
    /// Puts a new record at the end, whose fields are all gaps.
    fn grow(&mut self) -> Option<&mut dyn Record>;
    /// What is known of the records' type.
    fn item_shape(&self) -> &'static Shape;
    /// Why it is not known which records there are.
    fn missing(&self) -> Option<&Gap>;
    /// Why more of them may exist than could be seen.
    fn hidden_part(&self) -> Option<&Gap>;
    /// Says that more of them may exist than could be seen.
    fn set_hidden_part(&mut self, gap: Option<Gap>);
    /// What says that these are all.
    fn evidence(&self) -> &[Evidence];
    /// Makes it a gap, or a list again.
    fn set_missing(&mut self, gap: Option<Gap>);
    /// Replaces the evidence.
    fn set_evidence(&mut self, evidence: Vec<Evidence>);
    /// The evidence, to be changed.
    fn evidence_mut(&mut self) -> &mut [Evidence];
    /// The gap, to be changed.
    fn missing_mut(&mut self) -> Option<&mut Gap>;
}

/// A record of any type that may be absent.
pub trait AnyOptional {
    /// The record, made if it is absent.
    fn fill(&mut self) -> &mut dyn Record;
    /// The record, if it is there.
    fn get_mut(&mut self) -> Option<&mut dyn Record>;
    /// Takes the record away.
    fn clear(&mut self);
}

impl<T: Leaf> Field for Fact<T> {
    const KIND: Kind = Kind::Leaf(T::SHAPE);

    fn to_node(&self) -> Node<'_> {
        Node::Leaf(self)
    }

    fn to_node_mut(&mut self) -> NodeMut<'_> {
        NodeMut::Leaf(self)
    }
}

impl<T: Leaf> AnyFact for Fact<T> {
    fn leaf_shape(&self) -> LeafShape {
        T::SHAPE
    }

    fn json(&self) -> Option<Value> {
        self.value().map(Leaf::to_json)
    }

    fn text(&self) -> Option<String> {
        self.value().map(Leaf::to_text)
    }

    fn holds_the_same(&self, other: &dyn AnyFact) -> bool {
        other.as_any().downcast_ref::<Self>().is_some_and(|other| self.value() == other.value())
    }

    fn as_any(&self) -> &dyn Any {
        self
    }

    fn evidence(&self) -> &[Evidence] {
        self.evidence()
    }

    fn missing(&self) -> Option<&Gap> {
        self.missing()
    }

    fn set(&mut self, json: &Value, evidence: Vec<Evidence>) -> Result<(), LeafShape> {
        *self = Self::known_from(T::from_json(json).ok_or(T::SHAPE)?, evidence);
        Ok(())
    }

    fn hidden_part(&self) -> Option<&Gap> {
        self.hidden_part()
    }

    fn set_hidden_part(&mut self, gap: Option<Gap>) {
        *self = self.clone().in_part(gap);
    }

    fn set_missing(&mut self, gap: Gap) {
        *self = Self::gap(gap);
    }

    fn evidence_mut(&mut self) -> &mut [Evidence] {
        self.evidence_mut()
    }

    fn redact_value(&mut self, by: &dyn Redact) {
        self.replace_value(|value| value.redacted(by));
    }

    fn missing_mut(&mut self) -> Option<&mut Gap> {
        self.gap_mut()
    }
}

impl<R: Described> Field for Option<R> {
    const KIND: Kind = Kind::Optional(R::SHAPE);

    fn to_node(&self) -> Node<'_> {
        match self {
            Some(record) => Node::Record(record),
            None => Node::Absent,
        }
    }

    fn to_node_mut(&mut self) -> NodeMut<'_> {
        NodeMut::Optional(self)
    }
}

impl<R: Described> AnyOptional for Option<R> {
    fn fill(&mut self) -> &mut dyn Record {
        self.get_or_insert_default()
    }

    fn get_mut(&mut self) -> Option<&mut dyn Record> {
        self.as_mut().map(|record| record as &mut dyn Record)
    }

    fn clear(&mut self) {
        *self = None;
    }
}

/// The fact in a record's field at an index, if it is one.
pub fn fact_at(record: &dyn Record, index: usize) -> Option<&dyn AnyFact> {
    match record.node(index)? {
        Node::Leaf(fact) => Some(fact),
        _ => None,
    }
}

/// The fact in a record's field of that name, if it is one.
pub fn fact_named<'a>(record: &'a dyn Record, name: &str) -> Option<&'a dyn AnyFact> {
    match record.node(record.shape().index_of(name)?)? {
        Node::Leaf(fact) => Some(fact),
        _ => None,
    }
}

/// The fields of a record, with their values.
pub fn fields(record: &dyn Record) -> impl Iterator<Item = (&'static FieldShape, Node<'_>)> {
    record
        .shape()
        .fields
        .iter()
        .enumerate()
        .filter_map(|(index, field)| Some((field, record.node(index)?)))
}
