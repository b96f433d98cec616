//! Whether two reports are of one machine.

use super::{FieldChange, Machines, Sameness, difference::field_change};
use crate::{
    declare::{Record, fact_at},
    model::Machine,
};

/// Matches two machines by what makes each itself, the surest first.
pub(super) fn matched(before: &Machine, after: &Machine) -> Machines {
    let mut differing: Vec<FieldChange> = Vec::new();
    for identity in before.shape().identity {
        for field in identity.fields {
            let (Some(old), Some(new)) = (fact_at(before, *field), fact_at(after, *field)) else {
                continue;
            };
            let Some(change) = field_change(before.shape(), *field, old, new, false) else {
                continue;
            };
            match (&change.before, &change.after) {
                (old, new) if old.is_null() || new.is_null() => {}
                (old, new) if old == new => {
                    return Machines { same: Sameness::Same, by: Vec::new() };
                }
                _ => differing.push(change),
            }
        }
        // The surest that both know decides; a system that was installed anew keeps its hardware.
        if !differing.is_empty() {
            return Machines { same: Sameness::Other, by: differing };
        }
    }
    Machines { same: Sameness::Unknown, by: Vec::new() }
}
