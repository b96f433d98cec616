//! Serial numbers and UUIDs of the machine that are fillers.

use crate::fact::Gap;
use crate::fact::Why;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "system-serial-is-a-filler",
    severity: Severity::Notice,
    title: "machine without a serial number of its own",
    reads: &["platform.system.serial", "platform.system.uuid"],
    matters: "Machines cannot be told apart by it, and no contract of service can be found.",
    action: "Let the maker's tool write serial number and UUID into the firmware, or set an asset tag.",
    reference: "DSP0134 clause 7.2",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(platform) = it.section(&it.report().inventory.platform, "/inventory/platform") else {
        return;
    };
    if it.is_virtual() {
        return;
    }
    let at = "/inventory/platform/system";
    let system = &platform.system;
    let blank = |gap: Option<&Gap>| gap.is_some_and(|gap| gap.why == Why::Blank);
    let serial = blank(system.serial.missing());
    let uuid = blank(system.uuid.missing());
    let says = match (serial, uuid) {
        (true, true) => "serial number and UUID are left blank or filled with a filler",
        (true, false) => "the serial number is left blank or filled with a filler",
        (false, true) => "the UUID is left blank or filled with a filler",
        (false, false) => "",
    };
    if !serial {
        see!(it, at, system.serial);
    }
    if !uuid {
        see!(it, at, system.uuid);
    }
    if !says.is_empty() {
        it.finds(system, at, &["product"], says);
    }
}
