//! Words that several rules say.

use crate::{fact::Fact, leaf::Term, model::EccCount};

/// The known ones of some texts, with a space between.
pub(super) fn joined<const N: usize>(facts: [&Fact<Term>; N]) -> String {
    facts.iter().filter_map(|it| Some(it.value()?.0.as_str())).collect::<Vec<_>>().join(" ")
}

/// The slot whose errors are counted, where a label names it.
pub(super) fn slot(one: &EccCount) -> String {
    one.slot.value().map(|slot| format!(", slot {slot}")).unwrap_or_default()
}
