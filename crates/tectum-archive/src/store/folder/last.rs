//! Which look at a machine was saved last, so that a missing end of the chain is seen.

use serde::{Deserialize, Serialize};

use super::{
    compact,
    disk::{write, write_over},
    layout::Machine,
    optional,
};
use crate::store::StoreError;

/// What `last.json` is filled up to: whoever saves next writes over it, in one go and within one sector.
const LENGTH: usize = 160;

/// The observation of a machine that was saved last, as `last.json` says.
///
/// It follows the look's own file, which is on the disk when it is written. Where the power fails before it is there
/// too, it names an earlier look, which looking through the archive tells as what it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct Last {
    pub(super) number: u64,
    pub(super) digest: String,
}

impl Last {
    pub(super) fn read(machine: &Machine) -> Result<Option<Self>, StoreError> {
        optional(&machine.last())
    }

    pub(super) fn write(&self, machine: &Machine) -> Result<(), StoreError> {
        let mut text = compact(self);
        text.pop();
        text.resize(LENGTH.max(text.len() + 1) - 1, b' ');
        text.push(b'\n');
        let path = machine.last();
        if write_over(&path, &text)? {
            return Ok(());
        }
        write(&path, &text)
    }
}
