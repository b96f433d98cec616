//! Type 126, Inactive (clause 7.48).

use crate::field::structure;

structure! {
    /// A structure that is not in use now; its bytes are those of what it was.
    Inactive = 126, "Inactive" {}
}
