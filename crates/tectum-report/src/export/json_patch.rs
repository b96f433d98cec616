//! JSON Patch (RFC 6902): what turns one report's inventory into another's.

use json_patch::{Patch, diff};
use serde_json::{Result, to_value};

use crate::{json::write::Values, report::Report};

/// The operations that, applied to the inventory of `before` as a report of any form holds it, give the values of that of
/// `after`. Paths are JSON Pointers from the inventory.
///
/// # Errors
/// None that a report could cause.
pub fn of(before: &Report, after: &Report) -> Result<Patch> {
    Ok(diff(&to_value(Values(&before.inventory))?, &to_value(Values(&after.inventory))?))
}
