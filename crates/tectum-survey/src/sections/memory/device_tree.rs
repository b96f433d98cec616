//! Memory as the device tree gives it to the kernel (Devicetree Specification 0.4, clause 3.4).

use crate::{
    formats::device_tree,
    readers::{
        device_tree::DEVICE_TREE,
        file::{File, list},
    },
    source::Lease,
};
use tectum_report::fact::saying;
use tectum_report::fact::{Evidence, Fact, Gap, Why};

/// The sum over the memory nodes of the sizes of their ranges.
pub(super) fn bytes(lease: &Lease) -> Fact<u64> {
    let names = match list(lease, DEVICE_TREE) {
        Ok(names) => names,
        Err(gap) => return Fact::gap(gap),
    };
    let cells = |name: &str, usual: usize| {
        let file = File::read(lease, format!("{DEVICE_TREE}/#{name}-cells"));
        let cells = file.bytes().ok().and_then(|bytes| device_tree::cell(bytes));
        cells.map_or(usual, |cells| usize::try_from(cells).unwrap_or(usual))
    };
    let mut sum = 0u64;
    let mut evidence = Vec::new();
    for name in names.iter().filter_map(|name| name.to_str()) {
        if name != "memory" && !name.starts_with("memory@") {
            continue;
        }
        let node = |property: &str| File::read(lease, format!("{DEVICE_TREE}/{name}/{property}"));
        if node("device_type").text().trim_matches('\0') != "memory" {
            continue;
        }
        let file = node("reg");
        let bytes = match file.bytes() {
            Ok(bytes) => bytes,
            Err(gap) => return Fact::gap(gap.clone()),
        };
        // Where the root does not say, the specification has 2 and 1.
        let Some(ranges) = device_tree::ranges(bytes, cells("address", 2), cells("size", 1)) else {
            return Fact::gap(Gap::new(Why::Invalid).tried(
                file.path().clone(),
                saying!("no-list-memory-ranges", "is no list of memory ranges"),
            ));
        };
        let written: Vec<String> =
            ranges.iter().map(|range| format!("{:#x} + {:#x}", range.start, range.size)).collect();
        sum = ranges.iter().fold(sum, |sum, range| sum.saturating_add(range.size));
        evidence.push(
            Evidence::new(
                file.path().clone(),
                saying!("sum-sizes-ranges", "the sum of the sizes of the ranges"),
            )
            .raw(&written.join(", ")),
        );
    }
    if evidence.is_empty() {
        return Fact::gap(
            Gap::new(Why::NotProvided)
                .tried(DEVICE_TREE.into(), saying!("no-node-memory", "has no node for memory")),
        );
    }
    Fact::known_from(sum, evidence)
}
