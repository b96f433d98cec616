//! Type 127, End-of-Table (clause 7.45).

use crate::field::structure;

structure! {
    /// Marks the end of the structures; it has no fields of its own.
    EndOfTable = 127, "End-of-Table" {}
}
