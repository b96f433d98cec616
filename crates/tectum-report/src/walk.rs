//! One walk over any record, by which everything that treats all fields alike is written.

use crate::{
    declare::{AnyFact, AnyList, FieldShape, Node, Record, fields},
    json::pointer::Pointer,
};

/// What a walk meets.
pub enum Met<'a> {
    /// A fact.
    Leaf(&'a dyn AnyFact),
    /// A list of parts, before its elements.
    List(&'a dyn AnyList),
    /// A record, before its fields.
    Record(&'a dyn Record),
}

/// Walks a record's fields in their order, depth first.
pub fn walk<'a>(
    record: &'a dyn Record,
    at: &mut Pointer,
    visit: &mut dyn FnMut(&Pointer, &'static FieldShape, Met<'a>),
) {
    for (field, node) in fields(record) {
        let mark = at.push(field.name);
        match node {
            Node::Leaf(fact) => visit(at, field, Met::Leaf(fact)),
            Node::Absent => {}
            Node::Record(inner) => {
                visit(at, field, Met::Record(inner));
                walk(inner, at, visit);
            }
            Node::List(list) => {
                visit(at, field, Met::List(list));
                for index in 0..list.len() {
                    let Some(item) = list.get(index) else { continue };
                    let inner = at.push_index(index);
                    visit(at, field, Met::Record(item));
                    walk(item, at, visit);
                    at.back(inner);
                }
            }
        }
        at.back(mark);
    }
}
