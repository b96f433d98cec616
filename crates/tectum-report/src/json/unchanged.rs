//! Two saved reports of an inventory that did not change, told by their texts: whoever compares every night mostly
//! compares what is the same to the byte, and need not read it.

use memchr::{memchr_iter, memmem};
use serde::Deserialize;
use serde_json::Value;

use super::{
    compact::leaves_open,
    read::{Where, Whole, filled},
    tree::Tree,
    wanted::PassedOver,
};
use crate::{
    report::{Report, Taken},
    version::{FormatVersion, REPORT},
};

/// How the line of a member begins, as a report is printed.
const INVENTORY: &[u8] = b"\n \"inventory\": {\n";
const READINGS: &[u8] = b"\n \"readings\": {\n";
const WAYS: &[u8] = b"\n \"ways\": [\n";
/// How a table ends.
const END: &[u8] = b"\n ]";

/// What stands before the inventory.
#[derive(Deserialize)]
struct Head {
    format: String,
    format_version: FormatVersion,
    taken: Taken,
    machine: Value,
}

/// Where in the text of a report what stands.
struct Cut<'a> {
    head: &'a [u8],
    inventory: &'a [u8],
    ways: &'a [u8],
}

impl<'a> Cut<'a> {
    /// Cuts a text as it is printed; nothing for one that is laid out otherwise.
    fn of(text: &'a [u8]) -> Option<Self> {
        let inventory = only(text, INVENTORY)?;
        let readings = only(text, READINGS)?;
        let (head, _) = text.split_at_checked(inventory)?;
        let (_, behind) = text.split_at_checked(only(text, WAYS)? + WAYS.len())?;
        let (ways, _) = behind.split_at_checked(memmem::find(behind, END)?)?;
        Some(Self { head, inventory: text.get(inventory..readings)?, ways })
    }

    /// Whether there may be more than could be seen.
    fn leaves_open(&self) -> bool {
        let mut begin = 0;
        let ends = memchr_iter(b'\n', self.ways).chain([self.ways.len()]);
        let mut lines = ends.map(|end| {
            let line = self.ways.get(begin..end).unwrap_or_default();
            begin = end + 1;
            line.strip_suffix(b",").unwrap_or(line)
        });
        // A way that cannot be read is told with care by whoever reads the whole.
        lines.any(|line| leaves_open(line).unwrap_or(true))
    }

    /// The report without what may change.
    fn report(&self) -> Option<Report> {
        let mut head = self.head.strip_suffix(b",")?.to_vec();
        head.push(b'}');
        let head: Head = serde_json::from_slice(&head).ok()?;
        if head.format != REPORT.name || head.format_version != REPORT.current {
            return None;
        }
        let whole = Whole {
            format_version: head.format_version,
            newer: false,
            taken: head.taken,
            machine: Tree::from(&head.machine),
            inventory: Tree::NOTHING,
            readings: Tree::NOTHING,
            origins: Where::nowhere(),
            sources: Vec::new(),
            notes: Vec::new(),
        };
        Some(filled(whole, PassedOver::new()).ok()?.0)
    }
}

/// Where a line stands that stands once.
fn only(text: &[u8], line: &[u8]) -> Option<usize> {
    let mut found = memmem::find_iter(text, line);
    let first = found.next()?;
    found.next().is_none().then_some(first)
}

impl Report {
    /// Two reports without their inventories and readings, if the inventories are the same to the byte and neither
    /// report lacks anything of them that could not be seen: then nothing of them changed. Nothing where the texts
    /// alone do not tell, whatever is in them.
    pub fn pair_of_same_inventory(before: &[u8], after: &[u8]) -> Option<[Self; 2]> {
        let (before, after) = (Cut::of(before)?, Cut::of(after)?);
        let same =
            before.inventory == after.inventory && !before.leaves_open() && !after.leaves_open();
        if same { Some([before.report()?, after.report()?]) } else { None }
    }
}
