//! Two saved reports of an inventory that did not change, told by their texts: whoever compares every night mostly
//! compares what is the same to the byte, and need not read it.

use super::{
    compact::leaves_open,
    cut::Cut,
    envelope::EnvelopeOf,
    read::{Where, Whole, filled},
    tree::Tree,
    wanted::PassedOver,
};
use crate::report::Report;

/// Whether a report may lack something of its values that could not be seen.
fn may_lack(ways: &[Cut<'_>]) -> bool {
    // A way that cannot be read is told with care by whoever reads the whole.
    ways.iter().any(|way| leaves_open(way.0).unwrap_or(true))
}

/// A report without what may change.
fn head(cut: EnvelopeOf<'_>) -> Option<Report> {
    let machine: Tree<'_> = serde_json::from_slice(cut.machine.0).ok()?;
    let whole = Whole {
        format_version: cut.format_version,
        newer: false,
        taken: cut.taken,
        machine,
        inventory: Tree::NOTHING,
        readings: Tree::NOTHING,
        origins: Where::nowhere(),
        sources: Vec::new(),
        notes: Vec::new(),
    };
    Some(filled(whole, PassedOver::new(), None).ok()?.0)
}

impl Report {
    /// Two reports without their inventories and readings, if the inventories are the same to the byte and neither
    /// report lacks anything of them that could not be seen: then nothing of them changed. Nothing where the texts
    /// alone do not tell, whatever is in them.
    pub fn pair_of_same_inventory(before: &[u8], after: &[u8]) -> Option<[Self; 2]> {
        let [mut before, mut after] = [EnvelopeOf::by_lines(before)?, EnvelopeOf::by_lines(after)?];
        if before.inventory.0 != after.inventory.0 {
            return None;
        }
        for one in [&mut before, &mut after] {
            if may_lack(one.origins.as_mut()?.ways.split()) {
                return None;
            }
        }
        Some([head(before)?, head(after)?])
    }
}
