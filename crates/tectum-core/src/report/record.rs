//! Records: what the model's parts are made of, said once.
//!
//! `record!` declares a struct and with it everything that is needed to walk it without knowing
//! it: field names, their documentation, what makes a part itself and what is only its place. JSON,
//! schema, evidence, gaps, comparison, search and redaction are each written once against
//! [`Record`] and never name a field.

use serde_json::Value;

use super::{
    fact::{Evidence, Fact, Gap},
    kinds::{Leaf, LeafShape},
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
pub trait Described: Record + Default + Clone {
    /// The shape.
    const SHAPE: &'static Shape;
}

/// What is known of a record's type.
#[derive(Debug)]
pub struct Shape {
    /// The type's name.
    pub name: &'static str,
    /// What such a part is called in a sentence, where it is a part.
    pub noun: &'static str,
    /// The type's documentation.
    pub doc: &'static str,
    /// Its fields in their order.
    pub fields: &'static [FieldShape],
    /// What makes the part itself: sets of field names, the surest first. A set counts only where
    /// all its fields are known.
    pub identity: &'static [&'static [&'static str]],
    /// Fields that say where the part sits.
    pub place: &'static [&'static str],
    /// Fields that hold a name the kernel gave on this boot; a change of them alone is no change.
    pub names: &'static [&'static str],
    /// Fields that follow from other parts of the model, so that a change of them is told there.
    pub derived: &'static [&'static str],
}

/// What is known of a field.
#[derive(Debug)]
pub struct FieldShape {
    /// The field's name, in the struct and in JSON alike.
    pub name: &'static str,
    /// The field's documentation.
    pub doc: &'static str,
    /// What it holds.
    pub kind: Kind,
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
    /// The evidence; empty for a gap.
    fn evidence(&self) -> &[Evidence];
    /// The gap, if the value is missing.
    fn missing(&self) -> Option<&Gap>;
    /// Makes it a known value.
    ///
    /// # Errors
    /// The form that the JSON should have had.
    fn set(&mut self, json: &Value, evidence: Vec<Evidence>) -> Result<(), LeafShape>;
    /// Makes it a gap.
    fn set_missing(&mut self, gap: Gap);
    /// Replaces the evidence of a known value.
    fn replace_evidence(&mut self, evidence: Vec<Evidence>);
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
    /// Puts a new record at the end, whose fields are all gaps.
    fn grow(&mut self) -> Option<&mut dyn Record>;
    /// What is known of the records' type.
    fn item_shape(&self) -> &'static Shape;
    /// Why it is not known which records there are.
    fn missing(&self) -> Option<&Gap>;
    /// What says that these are all.
    fn evidence(&self) -> &[Evidence];
    /// Makes it a gap, or a list again.
    fn set_missing(&mut self, gap: Option<Gap>);
    /// Replaces the evidence.
    fn set_evidence(&mut self, evidence: Vec<Evidence>);
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

    fn set_missing(&mut self, gap: Gap) {
        *self = Self::gap(gap);
    }

    fn replace_evidence(&mut self, evidence: Vec<Evidence>) {
        self.set_evidence(evidence);
    }
}

impl<R: Described> Field for Parts<R> {
    const KIND: Kind = Kind::List(R::SHAPE);

    fn to_node(&self) -> Node<'_> {
        Node::List(self)
    }

    fn to_node_mut(&mut self) -> NodeMut<'_> {
        NodeMut::List(self)
    }
}

impl<R: Described> AnyList for Parts<R> {
    fn len(&self) -> usize {
        self.items.len()
    }

    fn get(&self, index: usize) -> Option<&dyn Record> {
        self.items.get(index).map(|record| record as &dyn Record)
    }

    fn get_mut(&mut self, index: usize) -> Option<&mut dyn Record> {
        self.items.get_mut(index).map(|record| record as &mut dyn Record)
    }

    fn grow(&mut self) -> Option<&mut dyn Record> {
        self.missing = None;
        self.items.push(R::default());
        self.items.last_mut().map(|record| record as &mut dyn Record)
    }

    fn item_shape(&self) -> &'static Shape {
        R::SHAPE
    }

    fn missing(&self) -> Option<&Gap> {
        self.missing.as_deref()
    }

    fn evidence(&self) -> &[Evidence] {
        &self.evidence
    }

    fn set_missing(&mut self, gap: Option<Gap>) {
        self.missing = gap.map(Box::new);
    }

    fn set_evidence(&mut self, evidence: Vec<Evidence>) {
        self.evidence = evidence;
    }
}

/// A list of parts, or the reason why it is not known which parts there are.
///
/// An empty list says that there are none; that is a fact and has evidence of its own.
#[derive(Debug, Clone, PartialEq)]
pub struct Parts<R> {
    items: Vec<R>,
    evidence: Vec<Evidence>,
    missing: Option<Box<Gap>>,
}

impl<R> Default for Parts<R> {
    fn default() -> Self {
        Self::missing(Gap::new(super::fact::Why::NotProvided))
    }
}

impl<R> Parts<R> {
    /// The parts there are, and what says that these are all.
    pub fn known(items: Vec<R>, evidence: Evidence) -> Self {
        Self { items, evidence: vec![evidence], missing: None }
    }

    /// It is not known which parts there are.
    pub fn missing(gap: Gap) -> Self {
        Self { items: Vec::new(), evidence: Vec::new(), missing: Some(Box::new(gap)) }
    }

    /// Why it is not known which parts there are.
    pub fn gap(&self) -> Option<&Gap> {
        self.missing.as_deref()
    }
}

impl<R> std::ops::Deref for Parts<R> {
    type Target = [R];

    fn deref(&self) -> &[R] {
        &self.items
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

impl Shape {
    /// The index of a field.
    pub fn index_of(&self, name: &str) -> Option<usize> {
        self.fields.iter().position(|field| field.name == name)
    }

    /// Whether such a record is a part: something with an identity or a place of its own.
    pub fn is_part(&self) -> bool {
        !self.identity.is_empty() || !self.place.is_empty() || !self.names.is_empty()
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

/// Declares a struct of the model: see the [module](self).
///
/// ```text
/// record! {
///     /// What it is.
///     Name "what one is called in a sentence" {
///         identity [wwn], [model, serial];   // what makes it itself, surest first
///         place [bay];                       // where it sits
///         names [kernel_name];               // a name of this boot only
///         derived [state];                   // follows from elsewhere in the model
///
///         /// What the field holds, its unit, where it comes from.
///         serial: Fact<Serial>,
///     }
/// }
/// ```
macro_rules! record {
    (
        $(#[doc = $doc:literal])*
        $name:ident $noun:literal {
            $(identity $([$($identity:ident),+ $(,)?]),+;)?
            $(place [$($place:ident),+];)?
            $(names [$($names:ident),+];)?
            $(derived [$($derived:ident),+];)?
            $(
                $(#[doc = $field_doc:literal])+
                $field:ident: $ty:ty,
            )*
        }
    ) => {
        $(#[doc = $doc])*
        #[derive(Debug, Clone, Default, PartialEq)]
        pub struct $name {
            $($(#[doc = $field_doc])+ pub $field: $ty,)*
        }

        impl $crate::report::record::Described for $name {
            const SHAPE: &'static $crate::report::record::Shape =
                &$crate::report::record::Shape {
                    name: stringify!($name),
                    noun: $noun,
                    doc: concat!($($doc, "\n",)*),
                    fields: &[$($crate::report::record::FieldShape {
                        name: stringify!($field),
                        doc: concat!($($field_doc, "\n",)+),
                        kind: <$ty as $crate::report::record::Field>::KIND,
                    },)*],
                    identity: &[$($(&[$(stringify!($identity),)+],)+)?],
                    place: &[$($(stringify!($place),)+)?],
                    names: &[$($(stringify!($names),)+)?],
                    derived: &[$($(stringify!($derived),)+)?],
                };
        }

        impl $crate::report::record::Record for $name {
            fn shape(&self) -> &'static $crate::report::record::Shape {
                // The compiler checks here that the roles name fields.
                $($($(let _ = &self.$identity;)+)+)?
                $($(let _ = &self.$place;)+)?
                $($(let _ = &self.$names;)+)?
                $($(let _ = &self.$derived;)+)?
                <Self as $crate::report::record::Described>::SHAPE
            }

            #[allow(unused_mut, unused_variables, unused_assignments)]
            fn node(&self, index: usize) -> Option<$crate::report::record::Node<'_>> {
                let mut at = 0;
                $(
                    if index == at {
                        return Some($crate::report::record::Field::to_node(&self.$field));
                    }
                    at += 1;
                )*
                None
            }

            #[allow(unused_mut, unused_variables, unused_assignments)]
            fn node_mut(&mut self, index: usize) -> Option<$crate::report::record::NodeMut<'_>> {
                let mut at = 0;
                $(
                    if index == at {
                        return Some($crate::report::record::Field::to_node_mut(&mut self.$field));
                    }
                    at += 1;
                )*
                None
            }
        }

        impl $crate::report::record::Field for $name {
            const KIND: $crate::report::record::Kind = $crate::report::record::Kind::Record(
                <Self as $crate::report::record::Described>::SHAPE,
            );

            fn to_node(&self) -> $crate::report::record::Node<'_> {
                $crate::report::record::Node::Record(self)
            }

            fn to_node_mut(&mut self) -> $crate::report::record::NodeMut<'_> {
                $crate::report::record::NodeMut::Record(self)
            }
        }
    };
}

pub(crate) use record;
