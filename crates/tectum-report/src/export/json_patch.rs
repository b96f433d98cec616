//! JSON Patch (RFC 6902): what turns one report's inventory into another's.

use json_patch::{Patch, diff};
use serde_json::{Result, to_value};

use crate::{json::write::Plain, report::Report};

/// The operations that, applied to the inventory of `before` as a report holds it, give that of `after`. Paths
/// are JSON Pointers from the inventory.
///
/// # Errors
/// None that a report could cause.
pub fn of(before: &Report, after: &Report) -> Result<Patch> {
    Ok(diff(&to_value(Plain(&before.inventory))?, &to_value(Plain(&after.inventory))?))
}
