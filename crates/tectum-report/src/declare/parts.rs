//! Lists of parts.

use super::{
    node::{AnyList, Described, Field, Node, NodeMut, Record},
    shape::{Kind, Shape},
};
use crate::fact::{Evidence, Gap, Why};

/// A list of parts, or the reason why it is not known which parts there are.
///
/// An empty list says that there are none; that is a fact and has evidence of its own.
#[derive(Debug, Clone, PartialEq)]
pub struct Parts<R> {
    items: Vec<R>,
    evidence: Vec<Evidence>,
    missing: Option<Box<Gap>>,
    hidden: Option<Box<Gap>>,
}

impl<R> Default for Parts<R> {
    fn default() -> Self {
        Self::missing(Gap::new(Why::NotProvided))
    }
}

impl<R> Parts<R> {
    /// The parts there are, and what says that these are all.
    pub fn known(mut items: Vec<R>, evidence: Evidence) -> Self {
        items.shrink_to_fit();
        Self { items, evidence: vec![evidence], missing: None, hidden: None }
    }

    /// It is not known which parts there are.
    pub fn missing(gap: Gap) -> Self {
        Self { items: Vec::new(), evidence: Vec::new(), missing: Some(Box::new(gap)), hidden: None }
    }

    /// The same parts, of which more may exist that could not be seen.
    pub fn in_part(mut self, hidden: Option<Gap>) -> Self {
        self.hidden = hidden.map(Box::new);
        self
    }

    /// Why more of them may exist than could be seen.
    pub fn hidden(&self) -> Option<&Gap> {
        self.hidden.as_deref()
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

impl<R> std::ops::DerefMut for Parts<R> {
    fn deref_mut(&mut self) -> &mut [R] {
        &mut self.items
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

    fn hidden_part(&self) -> Option<&Gap> {
        self.hidden.as_deref()
    }

    fn set_hidden_part(&mut self, gap: Option<Gap>) {
        self.hidden = gap.map(Box::new);
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

    fn evidence_mut(&mut self) -> &mut [Evidence] {
        &mut self.evidence
    }

    fn missing_mut(&mut self) -> Option<&mut Gap> {
        self.missing.as_deref_mut()
    }

    fn reorder(&mut self, order: &[usize]) {
        let mut old: Vec<Option<R>> = self.items.drain(..).map(Some).collect();
        self.items = order.iter().filter_map(|index| old.get_mut(*index)?.take()).collect();
    }
}
