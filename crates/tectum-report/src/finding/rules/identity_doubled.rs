//! Parts that bear the same serial number, of one machine or of several: looked for where several machines
//! are checked together.

use crate::finding::{
    judge::Judge,
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: super::IDENTITY_DOUBLED,
    severity: Severity::Warning,
    title: "serial number or UUID that stands twice",
    reads: &[
        "platform.system.serial",
        "platform.system.uuid",
        "memory.modules.*.serial",
        "storage.disks.*.serial",
        "storage.disks.*.wwn",
    ],
    matters: "What bears the same number cannot be told apart: contracts, licences and inventories mix them up.",
    action: "Look at the labels on the machines; let the maker write the right numbers, or make virtual machines anew with numbers of their own.",
    reference: "DSP0134 clause 7.2",
    judge,
};

/// One machine alone is judged by [`Checked`](crate::finding::Checked) as several are: it keeps what it has
/// seen.
fn judge(_: &mut Judge<'_>) {}
